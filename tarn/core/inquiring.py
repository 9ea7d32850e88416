"""The bad hour: which facts about a few devices are out of the ordinary, by a stated rule, and when a disk fills.

A fact weighs what its sort weighs, times how fresh it is, times how rare it is. Fresh is 1 for what began within a day
and falls by half every two weeks, to a quarter at least. Rare is 1 less the share of all devices of which the same is
so.
A fact that several of the devices asked about share weighs a quarter more for each further one.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

DAY = 86_400
SORTS: dict[str, tuple[int, str]] = {
    "certificate over": (95, "who checks it is turned away"),
    "full": (92, "what cannot write stops"),
    "silent": (90, "it was not seen when it should have been"),
    "on battery": (91, "what feeds it runs on its battery, and not for long"),
    "quiet": (88, "somebody it talked to is not heard any more"),
    "moved": (80, "it stands on something else than before"),
    "service stopped": (78, "a service has fewer than it needs"),
    "changed alike": (75, "the same was changed on several of these"),
    "filling": (70, "it will be full within days"),
    "losing frames": (66, "what goes over this port is lost now and then"),
    "in use": (62, "it is open to what attackers use"),
    "certificate ends": (55, "it ends within two weeks"),
    "restarted": (52, "it was started anew"),
    "changed": (45, "something was changed"),
    "ticket": (40, "somebody has said something of it"),
}
"""By sort what a fact weighs at most, and why it matters."""
HALF_LIFE = 14 * DAY
LEAST_FRESH = 0.25
SHARED = 0.25


@dataclass(frozen=True, slots=True)
class Fact:
    """Something that is so of a device. `text`: in words; `since`: when it began, None where that says nothing of how
    fresh it is; `share`: of all devices, how many it is so of, 0 to 1; `same`: facts with the same words here are one
    fact that several share."""

    sort: str
    asset: int
    text: str
    since: int | None = None
    share: float = 0.0
    same: str = ""


@dataclass(frozen=True, slots=True)
class Telling:
    """A fact, or one that several share, with what it weighs and how that came about."""

    facts: tuple[Fact, ...]
    weight: float
    why: str

    @property
    def first(self) -> Fact:
        """The fact that weighs most of those that are the same."""
        return self.facts[0]


def weighed(fact: Fact, now: int) -> tuple[float, str]:
    """Return what a fact weighs alone, from 0 to 100, and how that came about. Raises KeyError for an unknown sort."""
    most, why = SORTS[fact.sort]
    fresh = 1.0
    parts = [f"{why} ({most})"]
    if fact.since is not None:
        age = max(0, now - fact.since - DAY)
        fresh = max(LEAST_FRESH, 0.5 ** (age / HALF_LIFE))
        parts.append(f"{_ago(now - fact.since)} (× {fresh:.2f})")
    rare = 1.0 - min(1.0, max(0.0, fact.share))
    if fact.share >= 0.005:
        parts.append(f"so of {fact.share:.0%} of all devices (× {rare:.2f})")
    return most * fresh * rare, ", ".join(parts)


def _ago(seconds: int) -> str:
    days = seconds // DAY
    return "within a day" if days < 1 else "a day old" if days == 1 else f"{days} days old"


def telling(facts: Iterable[Fact], now: int, most: int = 3) -> list[Telling]:
    """Return the most telling facts, the weightiest first; those that are the same of several devices are one."""
    by_same: dict[tuple[str, str], list[tuple[float, str, Fact]]] = {}
    for fact in facts:
        weight, why = weighed(fact, now)
        key = (fact.sort, fact.same or f"{fact.asset} {fact.text}")
        by_same.setdefault(key, []).append((weight, why, fact))
    out = []
    for met in by_same.values():
        met.sort(key=lambda m: (-m[0], *_order(m[2])))
        weight, why, _ = met[0]
        assets = {fact.asset for _, _, fact in met}
        if len(assets) > 1:
            share = 1 + SHARED * (len(assets) - 1)
            weight, why = weight * share, f"{why}, of {len(assets)} of these (× {share:.2f})"
        out.append(Telling(tuple(fact for _, _, fact in met), weight, why))
    return sorted(out, key=lambda t: (-t.weight, *_order(t.first)))[:most]


def _order(fact: Fact) -> tuple[str, int, str, str, bool, int, float]:
    return fact.sort, fact.asset, fact.text, fact.same, fact.since is None, -(fact.since or 0), fact.share


@dataclass(frozen=True, slots=True)
class Filling:
    """How fast something fills: percent a day, and the moment it will be full at that rate; None where it does not."""

    rate: float
    full_at: int | None


FEWEST_POINTS = 3
LOOKED_BACK = 60 * DAY


def filling(points: Sequence[tuple[int, int]], now: int) -> Filling:
    """Return how fast something fills, by least squares over the last sixty days.

    `points`: moments (seconds since 1970) and percent, ascending, each holding until the next. It is a guess and says
    so by being none where there are too few points, or nothing grows.
    """
    recent = [p for p in points if p[0] >= now - LOOKED_BACK]
    before = [p for p in points if p[0] < now - LOOKED_BACK]
    if before:
        recent.insert(0, (now - LOOKED_BACK, before[-1][1]))
    if points:
        recent.append((now, points[-1][1]))
    if len({at for at, _ in recent}) < FEWEST_POINTS:
        return Filling(0.0, None)
    n = len(recent)
    mean_at = sum(at for at, _ in recent) / n
    mean = sum(p for _, p in recent) / n
    spread = sum((at - mean_at) ** 2 for at, _ in recent)
    slope = sum((at - mean_at) * (p - mean) for at, p in recent) / spread if spread else 0.0
    rate = slope * DAY
    if rate <= 0.01 or recent[-1][1] >= 100:
        return Filling(max(rate, 0.0), now if recent[-1][1] >= 100 else None)
    return Filling(rate, int(now + (100 - recent[-1][1]) / rate * DAY))
