"""The ways in which a household of uses can be covered, those that no other way beats."""

from collections import defaultdict
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.rights import Licence, Use

MOST_WAYS = 20_000
"""Ways kept under way for one household; more are refused rather than passed over."""


class EntangledError(ValueError):
    """A household with too many ways to be covered to try them all."""


Borne = tuple[int, Hashable]
"""A licence and whom its units would fall to; None where one figure serves everybody."""

Bundle = tuple[tuple[tuple[Borne, ...], int | None], list[Use]]
"""Uses that may fall to the same, with the licence they are pinned to, if any."""

_Open = frozenset[tuple[Borne, tuple[int, ...]]]


@dataclass(frozen=True, slots=True)
class Way:
    """One way to cover a household: how many uses (and of them pinned ones), units by licence, and the licence of each
    bundle of uses (None: not covered)."""

    pinned: int
    covered: int
    units: tuple[tuple[int, int], ...]
    choice: tuple[int | None, ...]


@dataclass(frozen=True, slots=True)
class Shared:
    """Units that several devices of a wide household draw on together: `number` stands for them in the units of ways.

    One is there for up to `carries` devices and comes to `units` of the licence; `most`: how many there may be at all.
    """

    number: int
    licence: int
    units: int
    carries: int
    most: int


@dataclass(frozen=True, slots=True)
class Own:
    """A bundle whose licences share no unit with another bundle of its household: by which it is covered is seen to for
    all such bundles of all households together. `number` stands for it in the units and choices of ways; `ways` say how
    one is covered, each less than if it were (0), or is not after all (below 0)."""

    number: int
    ways: tuple[Way, ...]


def counts_devices(licence: Licence) -> bool:
    """Whether one bearer needs more units the more devices it has, so that some of them can be covered without all."""
    by_host = licence.metric == "virtual machine" and licence.guests == "host"
    return by_host or (licence.metric == "device" and licence.second_device)


def facts_of(use: Use) -> tuple[Hashable, ...]:
    """Return what metrics ask of the device of a use."""
    return (
        use.processors,
        use.cores,
        use.host_processors,
        use.host_cores,
        use.host is None,
        tuple(use.facts.items()),
    )


def facts(uses: Sequence[Use]) -> tuple[Hashable, ...]:
    return tuple(map(facts_of, uses))


def units_of(licence: Licence, by_bearer: Iterable[Sequence[Use]]) -> Iterator[tuple[int, str, tuple[Use, ...]]]:
    """Yield the units each bearer needs, with the arithmetic in words, and its uses: reckoned once for uses alike."""
    metric = metric_of(licence)
    known: dict[Hashable, tuple[int, str]] = {}
    for uses in by_bearer:
        if len(uses) > 1:
            yield *metric.units(licence, uses), tuple(uses)
            continue
        look = facts_of(uses[0]) if metric.of_facts else None
        told = known.get(look)
        if told is None:
            told = known[look] = metric.units(licence, uses)
        yield *told, tuple(uses)


def ways_of(
    bundles: Sequence[Bundle], licences: Mapping[int, Licence], elsewhere: Mapping[Borne, int] | None = None
) -> tuple[Way, ...]:
    """Return the ways of a household that no other way beats; `elsewhere`: by whom units would fall to the number
    that stands for them in ways, where how many there are is seen to elsewhere.

    Bundles are gone through one by one. What is open is which uses fall to each bearer; as soon as no later bundle can
    fall to a bearer its units are reckoned, and what is beaten by another way with the same open bearers is dropped.
    Uses that come to as many units whatever follows are open alike, so one stands for all of them.
    """
    elsewhere = elsewhere or {}
    stands = _Alike(bundles, licences)
    last = {pair: number for number, ((borne, _), _) in enumerate(bundles) for pair in borne if pair[1] is not None}
    under: dict[_Open, list[Way]] = {frozenset(): [Way(0, 0, (), ())]}
    for number, ((borne, pin), some) in enumerate(bundles):
        grown: dict[_Open, list[Way]] = defaultdict(list)
        for open_, ways in under.items():
            for pair in (*borne, None):
                if pin is not None and pair is not None and pair[0] not in (pin, ~pin):  # ~: the same, bought anew
                    continue
                held = dict(open_)
                if pair is not None and pair[1] is not None:
                    held[pair] = stands.for_(pair, (*held.get(pair, ()), number), number)
                done = [p for p in held if last[p] <= number]
                spent = [
                    (elsewhere[p], 1) if p in elsewhere else (p[0], _units(licences[p[0]], bundles, held[p]))
                    for p in done
                ]
                for p in done:
                    del held[p]
                for way in ways:
                    units = dict(way.units)
                    for licence, more in spent:
                        units[licence] = units.get(licence, 0) + more
                    grown[frozenset(held.items())].append(
                        Way(
                            way.pinned + (len(some) if pin is not None and pair is not None else 0),
                            way.covered + (len(some) if pair is not None else 0),
                            tuple(sorted(units.items())),
                            (*way.choice, None if pair is None else pair[0]),
                        )
                    )
        under = {open_: _best(ways) for open_, ways in grown.items()}
        if sum(len(ways) for ways in under.values()) > MOST_WAYS:
            named = ", ".join(
                sorted({licences[k].name for (borne, _), _ in bundles for k, _ in borne if k in licences})
            )
            raise EntangledError(
                f"{sum(len(s) for _, s in bundles)} installations can be covered in more than {MOST_WAYS} ways by "
                f"{named}: pin some of them to a licence"
            )
    return tuple(_best([way for ways in under.values() for way in ways]))


class _Alike:
    """Which bundles may stand for others as what has fallen to a bearer.

    Units follow from the facts of the uses, from how many devices there are, of which only such as are still to come
    have to be told apart, or are the same for any uses, by metric.
    """

    def __init__(self, bundles: Sequence[Bundle], licences: Mapping[int, Licence]) -> None:
        self._facts = [frozenset(facts(some)) for _, some in bundles]
        self._devices = [frozenset(use.device for use in some) for _, some in bundles]
        self._counting = {key for key, one in licences.items() if counts_devices(one)}
        self._of_facts = {key for key, one in licences.items() if metric_of(one).of_facts}
        self._last: dict[tuple[Borne, int], int] = {}
        for number, ((borne, _), some) in enumerate(bundles):
            self._last.update(((pair, use.device), number) for pair in borne for use in some)
        self._known: dict[Hashable, tuple[int, ...]] = {}

    def for_(self, pair: Borne, numbers: tuple[int, ...], at: int) -> tuple[int, ...]:
        """Return the bundles that stand for `numbers` once all up to `at` are decided."""
        look: Hashable = None
        if pair[0] in self._counting:
            devices = frozenset[int]().union(*(self._devices[n] for n in numbers))
            open_ = frozenset(d for d in devices if self._last[pair, d] > at)
            look = (at, len(devices), open_)
        elif pair[0] in self._of_facts:
            look = frozenset[Hashable]().union(*(self._facts[n] for n in numbers))
        return self._known.setdefault((pair, look), numbers)


def _units(licence: Licence, bundles: Sequence[Bundle], numbers: Sequence[int]) -> int:
    return metric_of(licence).units(licence, [u for number in numbers for u in bundles[number][1]])[0]


def _best(ways: list[Way]) -> list[Way]:
    """Return the ways no other beats, those that cover most first; of equal ones the first."""
    alike: dict[tuple[object, ...], Way] = {}
    for way in ways:
        look = (way.pinned, way.covered, way.units)
        known = alike.get(look)
        if known is None or _chosen(way) < _chosen(known):
            alike[look] = way
    told = sorted(alike.values(), key=lambda w: (-w.pinned, -w.covered, sum(u for _, u in w.units), _chosen(w)))
    return told if len(told) == 1 else _unbeaten(told)


def _unbeaten(ways: list[Way]) -> list[Way]:
    """Return the ways none before them beats; they come such that none is beaten by a later one.

    A way beats another that covers no more and needs no less of anything: as rows of figures, compared all at once.
    """
    place = {licence: n for n, licence in enumerate(sorted({key for way in ways for key, _ in way.units}), start=2)}
    rows = np.zeros((len(ways), len(place) + 2), dtype=np.int64)
    for number, way in enumerate(ways):
        rows[number, :2] = -way.pinned, -way.covered
        for licence, units in way.units:
            rows[number, place[licence]] = units
    kept = np.empty_like(rows)
    out: list[Way] = []
    for way, row in zip(ways, rows, strict=True):
        if not (kept[: len(out)] <= row).all(axis=1).any():
            kept[len(out)] = row
            out.append(way)
    return out


def _chosen(way: Way) -> tuple[int, ...]:
    return tuple(c or 0 for c in way.choice)
