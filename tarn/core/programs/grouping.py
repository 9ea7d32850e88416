"""Processes that look alike brought together: the same groups whatever the order, however many there are."""

import hashlib
from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass

from tarn.core.programs.features import Look, Seen, likeness, look

ALIKE = 0.45
"""As alike as two have to be to be of one group; each to some other of the group."""
_MOST_LINKED = 2_000
"""Distinct looks of one stem that are held against each other; more than that are one group by their stem alone."""
_MOST_COMPARED = 40
"""Looks of a group that its middle is held against."""


@dataclass(frozen=True, slots=True)
class Group:
    """Processes that look alike; `key` is the same as long as their looks' stem and first look are. `alike`: how alike
    they are to the one in their middle, from 0 to 1, on the average."""

    key: str
    stem: str
    program: str
    members: tuple[Seen, ...]
    middle: Seen
    alike: float


def grouped(seen: Iterable[Seen], parted: Collection[str] = ()) -> list[Group]:
    """Return processes in groups of what looks alike.

    Only those of one stem are compared, by single linkage at `ALIKE`: so it is deterministic and does not hang on the
    order. `parted`: stems that people say are several programs; there each look is a group of its own.
    """
    return Grouping().of(seen, parted)


@dataclass(frozen=True, slots=True)
class _Stem:
    """The groups of a stem, and what they were made of."""

    members: frozenset[Seen]
    parted: bool
    groups: tuple[Group, ...]


class Grouping:
    """Groups of what looks alike, as `grouped` has them, that are carried on: a stem of which nothing else is seen than
    the time before keeps its groups."""

    def __init__(self) -> None:
        self._stems: Mapping[Seen, str] = {}
        self._known: Mapping[str, _Stem] = {}

    def of(self, seen: Iterable[Seen], parted: Collection[str] = ()) -> list[Group]:
        """Return processes in groups."""
        stems = {one: self._stems.get(one) or look(one).stem for one in seen}
        by_stem: dict[str, set[Seen]] = defaultdict(set)
        for one, stem in stems.items():
            by_stem[stem].add(one)
        known: dict[str, _Stem] = {}
        for stem, members in by_stem.items():
            before, apart = self._known.get(stem), stem in parted
            same = before is not None and before.parted == apart and before.members == members
            known[stem] = before if before is not None and same else _stem(stem, members, apart)
        self._stems, self._known = stems, known
        return sorted((g for of in known.values() for g in of.groups), key=lambda g: g.key)

    def forget(self) -> None:
        """Keep nothing of the time before."""
        self._stems, self._known = {}, {}


def _stem(stem: str, members: Collection[Seen], apart: bool) -> _Stem:
    looks: dict[Look, list[Seen]] = defaultdict(list)
    for one in sorted(members, key=_order):
        looks[look(one)].append(one)
    linked = [[k] for k in looks] if apart else _linked(list(looks))
    return _Stem(frozenset(members), apart, tuple(_group(stem, looks, of) for of in linked))


def _order(seen: Seen) -> tuple[str, ...]:
    return seen.command, seen.account, seen.name, seen.listens, seen.unit


def _linked(looks: list[Look]) -> list[list[Look]]:
    """Return looks by single linkage. Each is held against the groups there are until one of a group is alike: where
    most look alike, as they do, that is one comparison and not the square of them."""
    groups: list[list[Look]] = []
    if len(looks) > _MOST_LINKED:
        return [looks]
    for one in looks:
        apart: list[list[Look]] = []
        near: list[list[Look]] = []
        for group in groups:
            (near if any(likeness(one, other) >= ALIKE for other in group) else apart).append(group)
        if len(near) == 1 and not apart:
            near[0].append(one)
        else:
            groups = [*apart, [*(other for group in near for other in group), one]]
    return groups


def _group(stem: str, looks: Mapping[Look, list[Seen]], of: list[Look]) -> Group:
    members = tuple(sorted((s for one in of for s in looks[one]), key=_order))
    common = Counter(feature for one in of for feature, _ in one.features)
    # What has most of what the others have, and least of its own, stands in their middle.
    middle = max(of, key=lambda one: sum(w * (2 * common[f] - len(of)) for f, w in one.features))
    compared = of[:: max(1, len(of) // _MOST_COMPARED)][:_MOST_COMPARED]
    whole = sum(len(looks[one]) for one in compared)
    alike = sum(likeness(middle, one) * len(looks[one]) for one in compared) / whole
    first = repr(min(one.features for one in of))
    key = hashlib.sha256(f"{stem}\n{first}".encode()).hexdigest()[:16]
    return Group(key, stem, middle.program, members, looks[middle][0], alike)


def runs_of_text(commands: Collection[str], command: str) -> list[tuple[str, bool]]:
    """Return a command in pieces, each with whether it differs from what all of several commands have."""
    pieces = [_pieces(c) for c in commands]
    common = set(pieces[0]).intersection(*pieces[1:]) if pieces else set()
    out: list[tuple[str, bool]] = []
    for piece in _pieces(command):
        differs = piece not in common
        if out and out[-1][1] == differs:
            out[-1] = (out[-1][0] + piece, differs)
        else:
            out.append((piece, differs))
    return out


def _pieces(text: str) -> list[str]:
    out: list[str] = []
    for c in text:
        kind = "a" if c.isalpha() else "0" if c.isdigit() or c == "." else c
        last = out[-1][-1] if out else ""
        before = "a" if last.isalpha() else "0" if last and (last.isdigit() or last == ".") else last
        if out and kind == before and kind in "a0":
            out[-1] += c
        else:
            out.append(c)
    return out
