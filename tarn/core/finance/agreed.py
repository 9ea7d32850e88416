"""Terms that were changed: what was agreed before stays agreed of the days it held for.

A change is told as the day from which the new terms hold. Terms as they were are kept with the day they held up to,
that day excluded, in order of their days.
"""

from collections.abc import Iterator, Mapping, Sequence
from copy import copy
from datetime import date
from typing import Any, NamedTuple, TypeVar

T = TypeVar("T")


class Former(NamedTuple):
    """Terms as they were up to a day, that day excluded; days stand in them as ISO 8601."""

    until: date
    terms: Mapping[str, Any]


class Stretch(NamedTuple):
    """What held from a day on (None: always) until another, that day excluded (None: still)."""

    begins: date | None
    until: date | None
    terms: Any


def told(now: Any, names: Sequence[str]) -> dict[str, Any]:
    """Return the terms of something as they are kept of the past."""
    return {n: v.isoformat() if isinstance(v := getattr(now, n), date) else v for n in names}


def with_terms(now: T, terms: Mapping[str, Any], names: Sequence[str], days: Sequence[str]) -> T:
    """Return something as it was with other terms; `days`: which of them are days."""
    then = copy(now)
    for name, value in terms.items():
        if name in names:
            setattr(then, name, date.fromisoformat(value) if name in days and value else value)
    return then


def changed_from(former: Sequence[Former], before: Mapping[str, Any], since: date) -> list[Former]:
    """Return what is kept of the past when new terms hold from a day: what was agreed from later days is replaced."""
    kept = [one for one in former if one.until < since]
    over = next((one for one in former if one.until >= since), None)
    return [*kept, Former(since, over.terms if over is not None else before)]


def stretches(now: T, former: Sequence[Former], names: Sequence[str], days: Sequence[str]) -> Iterator[Stretch]:
    """Yield what held one after the other, the terms in force now last."""
    begins: date | None = None
    for one in former:
        yield Stretch(begins, one.until, with_terms(now, one.terms, names, days))
        begins = one.until
    yield Stretch(begins, None, now)
