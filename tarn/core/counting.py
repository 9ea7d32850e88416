"""Stock-taking: what was expected held against what was met, how many to look at where not all can be, and when a
phone whose clock is wrong met something."""

import hashlib
import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal, Protocol, get_args

from tarn.core.text import fold

State = Literal["found", "elsewhere", "missing", "not expected", "unknown"]
STATES: tuple[State, ...] = get_args(State)
"""What a count says of a device: where it was expected, at another place, not met, met though nobody expected it, or a
code that leads to no device."""
CLOCK_OFF = 120
"""Seconds a device's clock may differ before it is said."""


class CountError(ValueError):
    """A count that cannot be made, or something that cannot be noted in it; `field` says what is wrong."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Expected:
    """A device a count expects at a place; `key` is its own within the count."""

    key: int
    place: str = ""


@dataclass(frozen=True, slots=True)
class Met:
    """Something met: the expected device it is (`of`), or else whether it is a device that is known at all."""

    key: int
    of: int | None
    known: bool
    place: str
    at: int


@dataclass(frozen=True, slots=True)
class Line:
    """What a count says of one thing: of an expected device (`expected`), or of what was met besides; `met`: what says
    so, of several the latest; `times`: how often it was met."""

    state: State
    expected: int | None
    met: int | None
    times: int = 0


Near = Callable[[str, str], bool]
"""Whether two places are one, or one lies within the other."""


def held_against(expected: Iterable[Expected], met: Iterable[Met], near: Near) -> list[Line]:
    """Return what a count says: a line for each that was expected, in their order, then for each that was not."""
    by_expected: dict[int, list[Met]] = {}
    besides: list[Met] = []
    for one in sorted(met, key=lambda m: (m.at, m.key)):
        if one.of is not None:
            by_expected.setdefault(one.of, []).append(one)
        else:
            besides.append(one)
    out = []
    for device in expected:
        several = by_expected.get(device.key)
        if not several:
            out.append(Line("missing", device.key, None))
            continue
        last = several[-1]
        # Who does not say where he stands says that it is where it belongs.
        here = not last.place or not device.place or near(last.place, device.place)
        out.append(Line("found" if here else "elsewhere", device.key, last.key, len(several)))
    out += [Line("not expected" if one.known else "unknown", None, one.key, 1) for one in besides]
    return out


class _Stands(Protocol):
    @property
    def state(self) -> State: ...


def figures(lines: Iterable[_Stands]) -> dict[State, int]:
    """Return how many lines there are of each state."""
    counted = Counter(line.state for line in lines)
    return {state: counted[state] for state in STATES}


def near_by(under: Mapping[str, str]) -> Near:
    """Return the test of two places by a tree of them (each name's parent): one is the other or lies within it."""
    parents = {fold(child): fold(parent) for child, parent in under.items()}

    def above(name: str) -> set[str]:
        out: set[str] = set()
        while name not in out:
            out.add(name)
            name = parents.get(name, name)
        return out

    return lambda a, b: fold(a) in above(fold(b)) or fold(b) in above(fold(a))


def _at_most(total: int, missing: int, drawn: int, met: int) -> float:
    """Return the chance that of `drawn` out of `total`, of which `missing` are missing, at most `met` are
    (hypergeometric distribution)."""

    def ways(n: int, k: int) -> float:
        return math.lgamma(n + 1) - math.lgamma(k + 1) - math.lgamma(n - k + 1)

    all_ways = ways(total, drawn)
    first = max(0, drawn - (total - missing))
    return math.fsum(
        math.exp(ways(missing, k) + ways(total - missing, drawn - k) - all_ways)
        for k in range(first, min(met, missing, drawn) + 1)
    )


def sample_size(total: int, confidence: float, tolerance: float) -> int:
    """Return how many of `total` to look at, so that where none of them is missing at most a share of `tolerance` of
    all is, with this confidence (discovery sampling without replacement). Raises CountError."""
    if not 0.5 <= confidence <= 0.999:
        raise CountError("confidence", "The confidence is a share from 0.5 to 0.999.")
    if not 0 < tolerance < 0.5:
        raise CountError("tolerance", "What may be missing is a share above 0 and below 0.5.")
    if total <= 0:
        return 0
    too_many = math.floor(total * tolerance + 1e-9) + 1
    low, high = 1, total
    while low < high:
        middle = (low + high) // 2
        if _at_most(total, too_many, middle, 0) <= 1 - confidence + 1e-12:
            high = middle
        else:
            low = middle + 1
    return low


def missing_at_most(total: int, drawn: int, missing: int, confidence: float) -> int:
    """Return how many of `total` are missing at most, with this confidence, where `missing` of `drawn` were: the exact
    upper bound of the hypergeometric distribution."""
    if drawn >= total:
        return missing
    low, high = missing, total - (drawn - missing)
    while low < high:
        middle = (low + high + 1) // 2
        if _at_most(total, middle, drawn, missing) > 1 - confidence:
            low = middle
        else:
            high = middle - 1
    return low


def draw(keys: Iterable[str], number: int, seed: str) -> list[str]:
    """Return so many of some keys, drawn at random by a seed: who knows the seed draws the same ones."""
    return sorted(keys, key=lambda key: hashlib.blake2b(f"{seed} {key}".encode(), digest_size=16).digest())[:number]


def moment_of(said: int | None, sent: int | None, received: int, opened: int) -> tuple[int, int]:
    """Return when something was met, and by how many seconds the clock that says so is wrong (0 where that is no
    matter). `said`: by that clock; `sent`: what it showed when this was sent; `received`: when it came, by ours."""
    off = received - sent if sent is not None else 0
    off = off if abs(off) > CLOCK_OFF else 0
    moment = received if said is None else said + off
    return min(max(moment, opened), received), off
