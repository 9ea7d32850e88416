"""Hotfixes: updates of a system that carry a cure by their own name, and supersede earlier ones.

What a maker's remedy says is read by the names of updates that are there (sections `updates`): those it names carry
the cure; those after “supersedes” or “replaces” are superseded by those before it.
"""

import re
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

_WORD = re.compile(r"[A-Za-z]*\d[\w.-]*\w|[A-Za-z][\w.-]*\d\w*")
_SUPERSEDES = re.compile(r"\b(?:supersedes|superseding|replaces|replacing)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Named:
    """Updates a remedy names: those that carry the cure, and those these supersede; letter case aside."""

    cures: frozenset[str]
    superseded: frozenset[str]


def named(text: str) -> Named:
    """Return what a remedy's text may name as updates; whether these are updates the caller knows."""
    before, *after = _SUPERSEDES.split(text)
    return Named(
        frozenset(w.casefold() for w in _WORD.findall(before)),
        frozenset(w.casefold() for part in after for w in _WORD.findall(part)),
    )


def carrying(cures: Iterable[str], superseding: Mapping[str, Collection[str]]) -> frozenset[str]:
    """Return the updates that carry a cure: those named, and all that supersede one, over any number of steps.

    `superseding`: by update those that supersede it. A circle ends where it began.
    """
    found: set[str] = set()
    waiting = list(cures)
    while waiting:
        one = waiting.pop()
        if one not in found:
            found.add(one)
            waiting += superseding.get(one, ())
    return frozenset(found)
