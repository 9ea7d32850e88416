"""Households: the uses that must be decided together, and the ways in which each can be covered.

Two uses belong together where one licence could cover both with the same units (two products of a suite on one device,
one person's devices). What one household does touches another only through the quantities of licences, so each is
looked at by itself, and households with the same ways are one class.
"""

from collections import Counter, defaultdict
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.parts import Joined
from tarn.core.licensing.rights import Licence, Use

MOST_WAYS = 20_000
"""Ways kept under way for one household; more are refused rather than passed over."""


class EntangledError(ValueError):
    """A household with too many ways to be covered to try them all."""


_Borne = tuple[int, Hashable]
"""A licence and whom its units would fall to; None where one figure serves everybody."""

_Bundle = tuple[tuple[tuple[_Borne, ...], int | None], list[Use]]
"""Uses that may fall to the same, with the licence they are pinned to, if any."""

_Open = frozenset[tuple[_Borne, tuple[int, ...]]]


@dataclass(frozen=True, slots=True)
class Way:
    """One way to cover a household: how many uses (and of them pinned ones), units by licence, and the licence of each
    bundle of uses (None: not covered)."""

    pinned: int
    covered: int
    units: tuple[tuple[int, int], ...]
    choice: tuple[int | None, ...]


@dataclass(frozen=True, slots=True)
class Household:
    """Uses in bundles that always go together: each bundle's uses may be covered by the same licences and bearers."""

    bundles: tuple[tuple[Use, ...], ...]
    ways: tuple[Way, ...]

    @property
    def order(self) -> tuple[int, int]:
        """Who comes first where rights do not reach for all: who has used it longest."""
        uses = [u for bundle in self.bundles for u in bundle]
        return min(u.since.toordinal() for u in uses), min(u.key for u in uses)


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


WIDE = 6
"""Bundles a household may have, over several devices, to be looked at as one; a wider one is taken apart by device."""


def _pooled(licence: Licence, peaks: Mapping[int, int]) -> bool:
    return licence.metric == "site" or (metric_of(licence).pooled and licence.key in peaks)


def households(
    uses: Sequence[Use],
    may: Mapping[int, tuple[Licence, ...]],
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
) -> tuple[list[Household], list[Shared]]:
    """Return the households of uses, of which `may` says by key which licences could cover them, and what the parts of
    wide ones share.

    `pins`: the licence a person chose for a use; `peaks`: by licence the most that used it at once, where known.
    Raises EntangledError.
    """
    bearers: dict[int, tuple[_Borne, ...]] = {}
    group = Joined()
    for number, use in enumerate(uses):
        mine: list[_Borne] = []
        for licence in may[use.key]:
            if _pooled(licence, peaks):
                mine.append((licence.key, None))
                continue
            bearer = metric_of(licence).bearer(licence, use)
            mine.append((licence.key, bearer))
            group.join(number, (licence.key, bearer))
        bearers[use.key] = tuple(mine)
    together: dict[Hashable, list[Use]] = defaultdict(list)
    for number, use in enumerate(uses):
        together[group.find(number)].append(use)
    remembered: dict[Hashable, tuple[Way, ...]] = {}
    licences = {one.key: one for some in {may[use.key] for use in uses} for one in some}
    counting = {key for key, one in licences.items() if _counts_devices(one)}
    out: list[Household] = []
    shared: list[Shared] = []
    for members in together.values():
        if len(members) == 1:
            out.append(_alone(members[0], bearers[members[0].key], pins, licences, remembered))
            continue
        held: dict[tuple[tuple[_Borne, ...], int | None], list[Use]] = defaultdict(list)
        for use in members:
            held[bearers[use.key], pins.get(use.key)].append(use)
        if len(held) > WIDE and (common := _common(members, bearers, licences, len(shared))) is not None:
            out += _by_devices(members, bearers, pins, licences, common, remembered)
            shared += common.values()
            continue
        # The same household by other devices has the same look, and so the same ways.
        seen: dict[Hashable, int] = {}
        bundles = _by_device(_parted(held, counting))
        look = tuple(
            (
                tuple((key, None if bearer is None else seen.setdefault(bearer, len(seen))) for key, bearer in borne),
                pin,
                _facts(some),
                tuple(seen.setdefault(("device", u.device), len(seen)) for u in some),
            )
            for (borne, pin), some in bundles
        )
        ways = remembered.get(look)
        if ways is None:
            ways = remembered[look] = _ways(bundles, licences)
        out.append(Household(tuple(tuple(some) for _, some in bundles), ways))
    return out, shared


def _common(
    members: Sequence[Use], bearers: Mapping[int, tuple[_Borne, ...]], licences: Mapping[int, Licence], before: int
) -> dict[_Borne, Shared] | None:
    """Return what several devices of a household share; None where units of it follow from more than their number.

    So many devices to a unit, or one figure however many there are: then the household need not be looked at whole, and
    what is shared becomes a variable of the program. `before`: how many there are in other households.
    """
    falls: dict[_Borne, list[Use]] = defaultdict(list)
    for use in members:
        for pair in bearers[use.key]:
            if pair[1] is not None:
                falls[pair].append(use)
    out: dict[_Borne, Shared] = {}
    for pair, some in falls.items():
        devices = len({use.device for use in some})
        if devices == 1:
            continue
        licence = licences[pair[0]]
        metric, number = metric_of(licence), -(before + len(out) + _FIRST_SHARED)
        if _counts_devices(licence):
            carries = 2 if licence.metric == "device" else max(1, licence.per_host)
            out[pair] = Shared(number, licence.key, 1, carries, devices)
            continue
        each = {metric.units(licence, [use])[0] for use in some}
        if each != {metric.units(licence, some)[0]}:
            return None
        out[pair] = Shared(number, licence.key, each.pop(), devices, 1)
    return out


_FIRST_SHARED = 1 << 40
"""Beyond every licence's number, and beyond those of licences bought anew, which are less than nothing too."""


def _by_devices(
    members: Sequence[Use],
    bearers: Mapping[int, tuple[_Borne, ...]],
    pins: Mapping[int, int],
    licences: Mapping[int, Licence],
    common: Mapping[_Borne, Shared],
    remembered: dict[Hashable, tuple[Way, ...]],
) -> list[Household]:
    """Return a wide household's devices as households of their own, whose ways tell what of the shared they draw on."""
    of_device: dict[int, dict[_Key, list[Use]]] = defaultdict(lambda: defaultdict(list))
    for use in members:
        of_device[use.device][bearers[use.key], pins.get(use.key)].append(use)
    out = []
    for held in of_device.values():
        bundles = sorted(held.items(), key=lambda b: (tuple(key for key, _ in b[0][0]), _facts(b[1])))
        look = tuple(
            (tuple((pair[0], common[pair].number if pair in common else 0) for pair in borne), pin, _facts(some))
            for (borne, pin), some in bundles
        )
        ways = remembered.get(("part", look))
        if ways is None:
            ways = remembered["part", look] = _ways(bundles, licences, common)
        out.append(Household(tuple(tuple(some) for _, some in bundles), ways))
    return out


def _alone(
    use: Use,
    borne: tuple[_Borne, ...],
    pins: Mapping[int, int],
    licences: Mapping[int, Licence],
    remembered: dict[Hashable, tuple[Way, ...]],
) -> Household:
    """Return the household of a use that shares no unit with another: most are, so it is not taken to pieces."""
    bundle: _Bundle = ((borne, pins.get(use.key)), [use])
    look = ("alone", tuple((key, bearer is None) for key, bearer in borne), bundle[0][1], _facts(bundle[1]))
    ways = remembered.get(look)
    if ways is None:
        ways = remembered[look] = _ways([bundle], licences)
    return Household(((use,),), ways)


def _counts_devices(licence: Licence) -> bool:
    """Whether one bearer needs more units the more devices it has, so that some of them can be covered without all."""
    by_host = licence.metric == "virtual machine" and licence.guests == "host"
    return by_host or (licence.metric == "device" and licence.second_device)


_Key = tuple[tuple[_Borne, ...], int | None]


def _parted(held: Mapping[_Key, list[Use]], counting: set[int]) -> list[_Bundle]:
    """Return the bundles of a household, those of several devices in parts where a right may reach for some of them.

    Devices with as many uses of each sort are alike, so only how many of them are covered matters: parts of 1, 2, 4 …
    and the rest add up to every number there is.
    """
    if not counting:
        return list(held.items())
    of_device: dict[int, Counter[_Key]] = defaultdict(Counter)
    for key, some in held.items():
        for device, number in Counter(use.device for use in some).items():
            of_device[device][key] = number
    alike: dict[frozenset[tuple[_Key, int]], list[int]] = defaultdict(list)
    for device in sorted(of_device):
        alike[frozenset(of_device[device].items())].append(device)
    part_of: dict[int, int] = {}
    for devices in alike.values():
        size, at = 1, 0
        while at < len(devices):
            part = devices[at : at + size]
            part_of.update(dict.fromkeys(part, part[0]))
            at, size = at + size, size * 2
    out: list[_Bundle] = []
    for key, some in held.items():
        if not any(licence in counting for licence, _ in key[0]):
            out.append((key, some))
            continue
        parts: dict[int, list[Use]] = defaultdict(list)
        for use in some:
            parts[part_of[use.device]].append(use)
        out += [(key, parts[n]) for n in sorted(parts)]
    return out


def _by_device(parted: Sequence[_Bundle]) -> list[_Bundle]:
    """Return bundles in an order that does not depend on which devices they are of, those of one device together."""
    by_first: dict[int, list[tuple[tuple[int, ...], tuple[Hashable, ...], _Bundle]]] = defaultdict(list)
    for bundle in parted:
        keys = tuple(licence for licence, _ in bundle[0][0])
        by_first[min(use.device for use in bundle[1])].append((keys, _facts(bundle[1]), bundle))
    groups = []
    for device, some in by_first.items():
        some.sort(key=lambda one: one[:2])
        groups.append(([one[:2] for one in some], device, [bundle for _, _, bundle in some]))
    return [bundle for _, _, some in sorted(groups, key=lambda g: g[:2]) for bundle in some]


def _facts(uses: Sequence[Use]) -> tuple[Hashable, ...]:
    return tuple(
        (
            u.processors,
            u.cores,
            u.host_processors,
            u.host_cores,
            u.host is None,
            tuple(sorted(u.facts.items())) if u.facts else (),
        )
        for u in uses
    )


def _ways(
    bundles: Sequence[_Bundle], licences: Mapping[int, Licence], common: Mapping[_Borne, Shared] | None = None
) -> tuple[Way, ...]:
    """Return the ways of a household that no other way beats; `common`: what it shares with other households.

    Bundles are gone through one by one. What is open is which uses fall to each bearer; as soon as no later bundle can
    fall to a bearer its units are reckoned, and what is beaten by another way with the same open bearers is dropped.
    Uses that come to as many units whatever follows are open alike, so one stands for all of them.
    """
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
                    (common[p].number, 1)
                    if common is not None and p in common
                    else (p[0], _units(licences[p[0]], bundles, held[p]))
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
            named = ", ".join(sorted({licences[k].name for (borne, _), _ in bundles for k, _ in borne}))
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

    def __init__(self, bundles: Sequence[_Bundle], licences: Mapping[int, Licence]) -> None:
        self._facts = [frozenset(_facts(some)) for _, some in bundles]
        self._devices = [frozenset(use.device for use in some) for _, some in bundles]
        self._counting = {key for key, one in licences.items() if _counts_devices(one)}
        self._of_facts = {key for key, one in licences.items() if metric_of(one).of_facts}
        self._last: dict[tuple[_Borne, int], int] = {}
        for number, ((borne, _), some) in enumerate(bundles):
            self._last.update(((pair, use.device), number) for pair in borne for use in some)
        self._known: dict[Hashable, tuple[int, ...]] = {}

    def for_(self, pair: _Borne, numbers: tuple[int, ...], at: int) -> tuple[int, ...]:
        """Return the bundles that stand for `numbers` once all up to `at` are decided."""
        look: Hashable = None
        if pair[0] in self._counting:
            devices = frozenset[int]().union(*(self._devices[n] for n in numbers))
            open_ = frozenset(d for d in devices if self._last[pair, d] > at)
            look = (at, len(devices), open_)
        elif pair[0] in self._of_facts:
            look = frozenset[Hashable]().union(*(self._facts[n] for n in numbers))
        return self._known.setdefault((pair, look), numbers)


def _units(licence: Licence, bundles: Sequence[_Bundle], numbers: Sequence[int]) -> int:
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
