"""Waves: the same change on many devices, folded into one line that says what it looks like."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from tarn.core.history import Change, Verb
from tarn.core.versions import version_key

_DAY, _HOUR = 86_400, 3_600
_FEW = 2
"""So many devices are named each."""


@dataclass(slots=True)
class Wave:
    """One change wherever it happened. `befores` are the releases left, the commonest first; `at` by asset, the last
    time; `moments` every time, for what happens to one device again and again."""

    thing: str
    verb: Verb
    after: str | None
    befores: list[str] = field(default_factory=list)
    at: dict[int, int] = field(default_factory=dict)
    moments: set[tuple[int, int]] = field(default_factory=set)

    @property
    def key(self) -> tuple[str, Verb, str | None]:
        """What tells it from other waves of the same changes."""
        gone = self.befores[0] if self.befores else None
        return self.thing, self.verb, gone if self.after is None else self.after

    @property
    def first(self) -> int:
        """When it was first seen."""
        return min(self.at.values())

    @property
    def last(self) -> int:
        """When it was last seen."""
        return max(self.at.values())

    def by_day(self, until: int, days: int) -> list[int]:
        """Return how many devices changed on each of the days that end at `until`, the oldest first."""
        out = [0] * days
        for _, back in {(asset, (until - at) // _DAY) for asset, at in self.moments}:
            if 0 <= back < days:
                out[days - 1 - back] += 1
        return out


def waves(changes: Iterable[Change]) -> list[Wave]:
    """Fold changes of one thing to one release (removals: from one) into waves, the widest first."""
    held: dict[tuple[str, Verb, str | None], Wave] = {}
    left: dict[tuple[str, Verb, str | None], Counter[str]] = defaultdict(Counter)
    for change in changes:
        # What was removed is told apart by the release that went; everything else by the one that came.
        key = (change.thing, change.verb, change.before if change.after is None else change.after)
        wave = held.setdefault(key, Wave(change.thing, change.verb, change.after))
        wave.at[change.asset] = max(change.at, wave.at.get(change.asset, 0))
        wave.moments.add((change.asset, change.at))
        if change.before is not None:
            left[key][change.before] += 1
    for key, wave in held.items():
        wave.befores = sorted(left[key], key=lambda b: (-left[key][b], version_key(b)))
    return sorted(held.values(), key=lambda w: (-len(w.at), -w.last, w.thing))


def looks_like(wave: Wave, names: Mapping[int, str], groups: Mapping[int, str]) -> str:
    """Say in words what a wave looks like: which devices, how fast, and who was first.

    `groups`: department or place by asset, where known.
    """
    ordered = sorted(wave.at, key=lambda a: (wave.at[a], names.get(a, "")))
    if len(ordered) <= _FEW:
        return ", ".join(names.get(a, "?") for a in ordered)
    took = wave.last - wave.first
    if took <= _HOUR:
        return (
            f"{names.get(ordered[0], '?')} and {len(ordered) - 1} more, {'at once' if took < 60 else 'within an hour'}"
        )
    span = f"over {took // _DAY + 1} days" if took >= _DAY else "within a day"
    lead = [groups.get(a, "") for a in ordered[: max(2, len(ordered) // 4)]]
    first, number = Counter(lead).most_common(1)[0]
    # Who was first is worth telling where it is not simply everybody.
    if first and number == len(lead) and any(groups.get(a, "") != first for a in ordered):
        return f"wave {span}, {first} first"
    return f"wave {span}"
