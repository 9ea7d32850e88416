"""Households: the uses that must be decided together, and the ways in which each can be covered.

Two uses belong together where one licence could cover both with the same units (two products of a suite on one device,
one person's devices). What one household does touches another only through the quantities of licences, so each is
looked at by itself, and households with the same ways are one class.
"""

from collections import Counter, defaultdict
from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from math import prod

from tarn.core.licensing.metrics import falls_alone, metric_of
from tarn.core.licensing.parts import Joined
from tarn.core.licensing.rights import Licence, Use
from tarn.core.licensing.ways import Borne, Bundle, Own, Shared, Way, counts_devices, facts, facts_of, ways_of

_Key = tuple[tuple[Borne, ...], int | None]


@dataclass(frozen=True, slots=True)
class Household:
    """Uses in bundles that always go together: each bundle's uses may be covered by the same licences and bearers."""

    bundles: tuple[tuple[Use, ...], ...]
    ways: tuple[Way, ...]

    @property
    def order(self) -> tuple[date, int]:
        """Who comes first where rights do not reach for all: who has used it longest."""
        if len(self.bundles) == 1 and len(self.bundles[0]) == 1:
            (use,) = self.bundles[0]
            return use.since, use.key
        uses = [u for bundle in self.bundles for u in bundle]
        return min(u.since for u in uses), min(u.key for u in uses)


FEW = 200
"""Ways a household may be gone through bundle by bundle; where there may be more, bundles that share nothing are put
aside to be seen to by themselves."""

WIDE = 6
"""Bundles a household may have, over several devices, to be looked at as one; a wider one is taken apart by device."""


def _pooled(licence: Licence, peaks: Mapping[int, int]) -> bool:
    return licence.metric == "site" or (metric_of(licence).pooled and licence.key in peaks)


def households(
    uses: Sequence[Use],
    may: Mapping[int, tuple[Licence, ...]],
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
) -> tuple[list[Household], list[Shared], list[Own]]:
    """Return the households of uses, of which `may` says by key which licences could cover them, what the parts of
    wide ones share, and the bundles that are seen to by themselves.

    `pins`: the licence a person chose for a use; `peaks`: by licence the most that used it at once, where known.
    Raises EntangledError.
    """
    out: list[Household] = []
    # Uses that look the same to licences have one tuple of them: what follows from it alone is seen to once.
    several = {id(some): some for some in (may[use.key] for use in uses)}
    offers = {known: _offer(some, peaks) for known, some in several.items()}
    licences = {one.key: one for offer in offers.values() for one in offer.licences}
    ways_alone: dict[Hashable, tuple[Way, ...]] = {}
    linked: list[Use] = []

    def alone(use: Use, offer: _Offer) -> Household:
        pin = pins.get(use.key)
        look = (offer.pooled, pin, facts_of(use) if offer.of_facts else None)
        ways = ways_alone.get(look)
        if ways is None:
            borne = tuple((key, None if pooled else _ITSELF) for key, pooled in offer.pooled)
            ways = ways_alone[look] = ways_of([((borne, pin), [use])], licences)
        return Household(((use,),), ways)

    for use in uses:
        offer = offers[id(may[use.key])]
        if offer.alone:
            out.append(alone(use, offer))
        else:
            linked.append(use)
    bearers, together = _together(linked, may, offers)
    sharing: list[list[Use]] = []
    for members in together:
        # Most share no unit with another: they are not taken to pieces.
        if len(members) == 1:
            out.append(alone(members[0], offers[id(may[members[0].key])]))
        else:
            sharing.append(members)
    aside = _Aside(licences)
    shared = _sharing(sharing, bearers, pins, licences, aside, out)
    return out, shared, aside.owns


_ITSELF = "itself"
"""The bearer of a use that shares units with no other."""


@dataclass(frozen=True, slots=True)
class _Offer:
    """Licences that may cover a use: which of them are pooled, whether the use shares units with no other whoever
    bears it, and whether units follow from what is known of the device."""

    licences: tuple[Licence, ...]
    pooled: tuple[tuple[int, bool], ...]
    alone: bool
    of_facts: bool


def _offer(licences: tuple[Licence, ...], peaks: Mapping[int, int]) -> _Offer:
    pooled = tuple((one.key, _pooled(one, peaks)) for one in licences)
    alone = all(falls_alone(one) or own for one, (_, own) in zip(licences, pooled, strict=True))
    return _Offer(licences, pooled, alone, any(metric_of(one).of_facts for one in licences))


def _together(
    uses: Sequence[Use], may: Mapping[int, tuple[Licence, ...]], offers: Mapping[int, _Offer]
) -> tuple[dict[int, tuple[Borne, ...]], list[list[Use]]]:
    """Return by use whom it would fall to by each licence, and the uses in groups that may share units."""
    bearers: dict[int, tuple[Borne, ...]] = {}
    group = Joined()
    falls = {
        known: [
            (one, None if own else metric_of(one).bearer) for one, (_, own) in zip(o.licences, o.pooled, strict=True)
        ]
        for known, o in offers.items()
    }
    for number, use in enumerate(uses):
        mine: list[Borne] = []
        for licence, bearer in falls[id(may[use.key])]:
            borne = (licence.key, None if bearer is None else bearer(licence, use))
            mine.append(borne)
            if bearer is not None:
                group.join(number, borne)
        bearers[use.key] = tuple(mine)
    together: dict[Hashable, list[Use]] = defaultdict(list)
    for number, use in enumerate(uses):
        together[group.find(number)].append(use)
    return bearers, list(together.values())


class _Aside:
    """Bundles put aside because whatever covers them touches no other bundle of their household."""

    def __init__(self, licences: Mapping[int, Licence]) -> None:
        self.owns: list[Own] = []
        self._licences = licences
        self._known: dict[Hashable, Own] = {}

    def ways_of(self, bundles: Sequence[Bundle], elsewhere: Mapping[Borne, int]) -> tuple[Way, ...]:
        """Return the ways of a household, of which some units are seen to `elsewhere` (see `ways_of`)."""
        parted, stands = self._put(bundles, elsewhere)
        return ways_of(parted, self._licences, stands)

    def _put(
        self, bundles: Sequence[Bundle], elsewhere: Mapping[Borne, int]
    ) -> tuple[Sequence[Bundle], Mapping[Borne, int]]:
        """Return a household's bundles, and what of them is seen to elsewhere, with one choice in the place of all that
        touch no other bundle; as they are where there are few ways to go through."""
        if prod(len(borne) + 1 for (borne, _), _ in bundles) <= FEW:
            return bundles, elsewhere
        times = Counter(pair for (borne, _), _ in bundles for pair in borne)
        out: list[Bundle] = []
        stands = dict(elsewhere)
        for (borne, pin), some in bundles:
            own = [pair for pair in borne if pair[1] is not None and times[pair] == 1 and pair not in stands]
            if pin is not None or len(own) < 2 or len({use.device for use in some}) > 1:
                out.append(((borne, pin), some))
                continue
            number = self._own([key for key, _ in own], some).number
            pair = (number, (_ITSELF, some[0].device))
            stands[pair] = number
            out.append((((pair, *(p for p in borne if p not in own)), pin), some))
        return out, stands

    def _own(self, keys: list[int], some: list[Use]) -> Own:
        look = (tuple(keys), facts(some))
        own = self._known.get(look)
        if own is None:
            ways = ways_of([((tuple((key, _ITSELF) for key in keys), None), some)], self._licences)
            lessened = tuple(replace(way, covered=way.covered - len(some)) for way in ways)
            own = self._known[look] = Own(-(len(self.owns) + _FIRST_OWN), lessened)
            self.owns.append(own)
        return own


def _sharing(
    several: Sequence[list[Use]],
    bearers: Mapping[int, tuple[Borne, ...]],
    pins: Mapping[int, int],
    licences: Mapping[int, Licence],
    aside: _Aside,
    out: list[Household],
) -> list[Shared]:
    """Put the households of uses that may share units behind the others; return what the parts of wide ones share."""
    remembered: dict[Hashable, tuple[Way, ...]] = {}
    counting = {key for key, one in licences.items() if counts_devices(one)}
    shared: list[Shared] = []
    for members in several:
        held: dict[_Key, list[Use]] = defaultdict(list)
        for use in members:
            held[bearers[use.key], pins.get(use.key)].append(use)
        if len(held) > WIDE and (common := _common(members, bearers, licences, len(shared))) is not None:
            out += _by_devices(members, bearers, pins, common, aside, remembered)
            shared += common.values()
            continue
        # The same household by other devices has the same look, and so the same ways.
        seen: dict[Hashable, int] = {}
        bundles = _by_device(_parted(held, counting))
        look = tuple(
            (
                tuple((key, None if bearer is None else seen.setdefault(bearer, len(seen))) for key, bearer in borne),
                pin,
                facts(some),
                tuple(seen.setdefault(("device", u.device), len(seen)) for u in some),
            )
            for (borne, pin), some in bundles
        )
        ways = remembered.get(look)
        if ways is None:
            ways = remembered[look] = aside.ways_of(bundles, {})
        out.append(Household(tuple(tuple(some) for _, some in bundles), ways))
    return shared


def _common(
    members: Sequence[Use], bearers: Mapping[int, tuple[Borne, ...]], licences: Mapping[int, Licence], before: int
) -> dict[Borne, Shared] | None:
    """Return what several devices of a household share; None where units of it follow from more than their number.

    So many devices to a unit, or one figure however many there are: then the household need not be looked at whole, and
    what is shared becomes a variable of the program. `before`: how many there are in other households.
    """
    falls: dict[Borne, list[Use]] = defaultdict(list)
    for use in members:
        for pair in bearers[use.key]:
            if pair[1] is not None:
                falls[pair].append(use)
    out: dict[Borne, Shared] = {}
    for pair, some in falls.items():
        devices = len({use.device for use in some})
        if devices == 1:
            continue
        licence = licences[pair[0]]
        metric, number = metric_of(licence), -(before + len(out) + _FIRST_SHARED)
        if counts_devices(licence):
            carries = 2 if licence.metric == "device" else max(1, licence.per_host)
            out[pair] = Shared(number, licence.key, 1, carries, devices)
            continue
        each = {metric.units(licence, [use])[0] for use in some}
        if each != {metric.units(licence, some)[0]}:
            return None
        out[pair] = Shared(number, licence.key, each.pop(), devices, 1)
    return out


_FIRST_SHARED, _FIRST_OWN = 1 << 40, 1 << 41
"""Beyond every licence's number, and beyond those of licences bought anew, which are less than nothing too."""


def _by_devices(
    members: Sequence[Use],
    bearers: Mapping[int, tuple[Borne, ...]],
    pins: Mapping[int, int],
    common: Mapping[Borne, Shared],
    aside: _Aside,
    remembered: dict[Hashable, tuple[Way, ...]],
) -> list[Household]:
    """Return a wide household's devices as households of their own, whose ways tell what of the shared they draw on."""
    of_device: dict[int, dict[_Key, list[Use]]] = defaultdict(lambda: defaultdict(list))
    for use in members:
        of_device[use.device][bearers[use.key], pins.get(use.key)].append(use)
    elsewhere = {pair: one.number for pair, one in common.items()}
    out = []
    for held in of_device.values():
        bundles = sorted(held.items(), key=lambda b: (tuple(key for key, _ in b[0][0]), facts(b[1])))
        look = tuple(
            (tuple((pair[0], elsewhere.get(pair, 0)) for pair in borne), pin, facts(some))
            for (borne, pin), some in bundles
        )
        ways = remembered.get(("part", look))
        if ways is None:
            ways = remembered["part", look] = aside.ways_of(bundles, elsewhere)
        out.append(Household(tuple(tuple(some) for _, some in bundles), ways))
    return out


def _parted(held: Mapping[_Key, list[Use]], counting: set[int]) -> list[Bundle]:
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
    out: list[Bundle] = []
    for key, some in held.items():
        if not any(licence in counting for licence, _ in key[0]):
            out.append((key, some))
            continue
        parts: dict[int, list[Use]] = defaultdict(list)
        for use in some:
            parts[part_of[use.device]].append(use)
        out += [(key, parts[n]) for n in sorted(parts)]
    return out


def _by_device(parted: Sequence[Bundle]) -> list[Bundle]:
    """Return bundles in an order that does not depend on which devices they are of, those of one device together."""
    by_first: dict[int, list[tuple[tuple[int, ...], tuple[Hashable, ...], Bundle]]] = defaultdict(list)
    for bundle in parted:
        keys = tuple(licence for licence, _ in bundle[0][0])
        by_first[min(use.device for use in bundle[1])].append((keys, facts(bundle[1]), bundle))
    groups = []
    for device, some in by_first.items():
        some.sort(key=lambda one: one[:2])
        groups.append(([one[:2] for one in some], device, [bundle for _, _, bundle in some]))
    return [bundle for _, _, some in sorted(groups, key=lambda g: g[:2]) for bundle in some]
