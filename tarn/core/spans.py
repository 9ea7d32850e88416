"""Spans: facts with the time they began to hold and, if over, ended.

Times are whole seconds since 1970 in UTC. A *timeline* is everything one source
said of one section of one asset; its readings arrive in order of time.
"""

from collections.abc import Hashable, Iterable, Mapping
from dataclasses import dataclass
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


@dataclass(frozen=True, slots=True)
class TimelineStep(Generic[K]):
    """What one reading does to the open spans: keys to close and keys to open, both in order."""

    closes: list[K]
    opens: list[K]


def advance(held: Mapping[K, V], reading: Mapping[K, V], *, complete: bool) -> TimelineStep[K]:
    """Compare a reading with what is open.

    A key whose value changed is closed and opened again. A key the reading lacks is
    closed, unless the reading was cut short: then silence says nothing.
    """
    if held == reading:
        return TimelineStep([], [])
    opens = [k for k, v in reading.items() if k not in held or held[k] != v]
    closes = [k for k in opens if k in held]
    if complete:
        closes += [k for k in held if k not in reading]
    return TimelineStep(closes, opens)


@dataclass(frozen=True, slots=True)
class Span(Generic[K, V]):
    """`key` had `value` from `start` until `end` (None: still). `initial`: from a first reading."""

    key: K
    value: V
    start: int
    end: int | None
    initial: bool

    def holds(self, at: int) -> bool:
        """Whether the fact held at time `at`: begun, and not ended."""
        return self.start <= at and (self.end is None or at < self.end)


def timeline(readings: Iterable[tuple[int, Mapping[K, V], bool]]) -> list[Span[K, V]]:
    """Fold readings `(at, {key: value}, complete)`, in any order, into spans sorted by start.

    The reference for what the register's writer does step by step; readings of the same
    second count in the order given.
    """
    held: dict[K, tuple[V, int, bool]] = {}
    done: list[Span[K, V]] = []
    first = True
    for at, reading, complete in sorted(readings, key=lambda r: r[0]):
        step = advance({k: v[0] for k, v in held.items()}, reading, complete=complete)
        for key in step.closes:
            value, start, initial = held.pop(key)
            if at > start:
                done.append(Span(key, value, start, at, initial))
        for key in step.opens:
            held[key] = (reading[key], at, first)
        first = False
    done += [Span(k, v, start, None, initial) for k, (v, start, initial) in held.items()]
    return sorted(done, key=lambda s: (s.start, str(s.key)))
