"""Assignment: which licence covers which use, exactly and the same each time.

Of all lawful assignments (no licence beyond its quantity, a bearer's uses sharing its units) the one is found that, in
this order: covers most of what a person pinned, covers most uses, draws on the least money, and draws least on broad
rights. It is an integer program over classes of equal households, solved to proved optimality, one aim after another
(lexicographic optimisation).
"""

from collections import defaultdict
from collections.abc import Callable, Collection, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from itertools import islice

import highspy
import numpy as np

from tarn.core.licensing.households import Household, households
from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.parts import Joined
from tarn.core.licensing.rights import Licence, Use, is_anew, may_cover
from tarn.core.licensing.ways import Own, Shared, Way, units_of
from tarn.core.solver import by_aims


@dataclass(frozen=True, slots=True)
class Bearer:
    """What one bearer draws from a licence: units, the arithmetic in words, and the uses it covers."""

    units: int
    text: str
    uses: tuple[Use, ...]


@dataclass(frozen=True)
class Assignment:
    """Of each covered use its licence and right; by licence what its bearers draw; and what is not covered.

    `eligible`: by use the licences that could cover it, quantities aside.
    """

    licence_of: dict[int, int]
    right_of: dict[int, str]
    bearers: dict[int, list[Bearer]]
    uncovered: list[Use]
    eligible: dict[int, tuple[Licence, ...]] = field(repr=False, default_factory=dict)

    def used(self, licence: int) -> int:
        """Return the units drawn from a licence."""
        return sum(b.units for b in self.bearers.get(licence, ()))


def assign(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    day: date,
    pins: Mapping[int, int] | None = None,
    peaks: Mapping[int, int] | None = None,
    buyable: Mapping[int, int] | None = None,
    disputed: Collection[int] = (),
) -> Assignment:
    """Assign licences to uses as of a day. `pins`: by use the licence chosen by a person; `peaks`: by licence the most
    that used it at once; `buyable`: by licence the price of one unit of which more could be bought, in its packs. What
    is bought beyond the quantity costs least before anything else is looked at but how much is covered. To `disputed`
    uses nothing that is owned is offered, only what is bought anew.
    Raises MetricError, EntangledError, NotSolvedError.
    """
    pins, peaks, buyable = pins or {}, peaks or {}, buyable or {}
    judge = _Judge(licences, day)
    eligible = {use.key: judge.may(use) for use in uses}
    for key in disputed:
        eligible[key] = tuple(one for one in eligible.get(key, ()) if is_anew(one))
    licence_of: dict[int, int] = {}
    for part in _parts(uses, eligible):
        homes, shared, owns = households(part, eligible, pins, peaks)
        some = {one.key: one for may in {id(eligible[u.key]): eligible[u.key] for u in part}.values() for one in may}
        for bundle, licence in _solved(homes, shared, owns, some, buyable):
            licence_of.update((u.key, licence) for u in bundle)
    return _told(uses, licences, eligible, licence_of, judge, peaks)


class _Judge:
    """Whether licences may cover uses, reckoned once for uses that look the same to them."""

    def __init__(self, licences: Sequence[Licence], day: date) -> None:
        self._day = day
        self._by_product: dict[int, list[Licence]] = defaultdict(list)
        for licence in sorted(licences, key=lambda one: one.key):
            metric_of(licence)
            for product in licence.products:
                self._by_product[product].append(licence)
        self._dated = {
            p for p, some in self._by_product.items() if any(one.maintained_until is not None for one in some)
        }
        self._known: dict[tuple[object, ...], tuple[Licence, ...]] = {}
        self._rights: dict[tuple[object, ...], str] = {}

    def _look(self, use: Use) -> tuple[object, ...]:
        """What licences look at."""
        since = (use.since, use.dated) if use.product in self._dated else None
        return use.product, use.release, use.department, bool(use.person), use.edition, use.organisation, since

    def may(self, use: Use) -> tuple[Licence, ...]:
        """Return the licences that may cover a use: one tuple for all uses that look the same."""
        look = self._look(use)
        known = self._known.get(look)
        if known is None:
            some = self._by_product.get(use.product, ())
            known = self._known[look] = tuple(one for one in some if may_cover(one, use, self._day))
        return known

    def right(self, licence: Licence, use: Use) -> str:
        """Return by which right a licence covers a use."""
        look = (licence.key, *self._look(use))
        known = self._rights.get(look)
        if known is None:
            known = self._rights[look] = may_cover(licence, use, self._day).right
        return known


def _parts(uses: Sequence[Use], eligible: Mapping[int, tuple[Licence, ...]]) -> list[list[Use]]:
    """Return the uses that some licence could cover, in parts that no licence links."""
    groups = Joined()
    several = {id(some): some for some in eligible.values() if some}
    for some in several.values():
        for licence in some[1:]:
            groups.join(licence.key, some[0].key)
    group_of = {known: groups.find(some[0].key) for known, some in several.items()}
    parts: dict[Hashable, list[Use]] = defaultdict(list)
    for use in uses:
        known = id(eligible[use.key])
        if known in group_of:
            parts[group_of[known]].append(use)
    return list(parts.values())


def _solved(
    homes: list[Household],
    shared: Sequence[Shared],
    owns: Sequence[Own],
    licences: Mapping[int, Licence],
    buyable: Mapping[int, int],
) -> Iterator[tuple[tuple[Use, ...], int]]:
    """Yield each bundle that is covered, and the licence chosen for it."""
    put_aside: dict[int, list[tuple[Use, ...]]] = {own.number: [] for own in owns}
    chosen, by_itself = _chosen_ways(homes, shared, owns, licences, buyable)
    for home, way in chosen:
        for bundle, licence in zip(home.bundles, way.choice, strict=True):
            if licence in put_aside:
                put_aside[licence].append(bundle)
            elif licence is not None:
                yield bundle, licence
    for own, counts in zip(owns, by_itself, strict=True):
        waiting = iter(sorted(put_aside[own.number], key=lambda some: (some[0].since, some[0].key)))
        for way, count in zip(own.ways, counts, strict=True):
            for bundle in islice(waiting, count):
                if way.choice[0] is not None:
                    yield bundle, way.choice[0]


def _chosen_ways(
    homes: list[Household],
    shared: Sequence[Shared],
    owns: Sequence[Own],
    licences: Mapping[int, Licence],
    buyable: Mapping[int, int],
) -> tuple[list[tuple[Household, Way]], list[list[int]]]:
    """Return the way chosen for each household, and how many of the bundles put aside take each of their ways."""
    alike: dict[int, list[Household]] = defaultdict(list)
    for home in homes:
        alike[id(home.ways)].append(home)
    classes: dict[tuple[Way, ...], list[Household]] = defaultdict(list)
    for some in alike.values():
        classes[some[0].ways] += some
    first = {ways: ways[0] for ways in classes}
    drawn: dict[int, int] = defaultdict(int)
    for ways, some in classes.items():
        for licence, units in ways[0].units:
            drawn[licence] += units * len(some)
    if (
        not shared
        and not owns
        and all(_only_way(ways) for ways in classes)
        and all((limit := licences[k].quantity) is None or units <= limit for k, units in drawn.items())
    ):
        return [(home, first[ways]) for ways, some in classes.items() for home in some], []
    counts, by_itself = _program(list(classes.items()), shared, owns, licences, buyable)
    out = []
    for (ways, some), chosen in zip(classes.items(), counts, strict=True):
        waiting = iter(some if max(chosen) == len(some) else sorted(some, key=lambda home: home.order))
        for way, count in zip(ways, chosen, strict=True):
            out += [(next(waiting), way) for _ in range(count)]
    return out, by_itself


def _only_way(ways: tuple[Way, ...]) -> bool:
    """Return whether the first way is the one to take wherever quantities reach: no other covers as much."""
    return all((w.pinned, w.covered) < (ways[0].pinned, ways[0].covered) for w in ways[1:])


def _program(
    classes: Sequence[tuple[tuple[Way, ...], list[Household]]],
    shared: Sequence[Shared],
    owns: Sequence[Own],
    licences: Mapping[int, Licence],
    buyable: Mapping[int, int],
) -> tuple[list[list[int]], list[list[int]]]:
    """Return for each class how many of its households take each of its ways, and the same of what is put aside."""
    ways = [way for some, _ in classes for way in some]
    # What devices share is a column of its own: how many units of it are there, each for so many that draw on it.
    first_shared = len(ways)
    ways += [Way(0, 0, ((one.licence, one.units),), ()) for one in shared]
    # Each bundle put aside takes one of the ways of its own.
    first_own = len(ways)
    ways += [way for own in owns for way in own.ways]
    limited = [k for k in sorted(licences) if licences[k].quantity is not None]
    # Beside the ways, a column for each licence of which more can be bought: how many packs.
    bought = {k: len(ways) + n for n, k in enumerate(k for k in limited if k in buyable)}
    row_of = {k: n for n, k in enumerate(limited)}
    starts: list[int] = [0]
    index: list[int] = []
    value: list[float] = []
    column = 0
    lower, upper = [], []
    for some, homes in classes:
        index += range(column, column + len(some))
        value += [1.0] * len(some)
        column += len(some)
        starts.append(len(index))
        lower.append(float(len(homes)))
        upper.append(float(len(homes)))
    by_licence: list[list[tuple[int, int]]] = [[] for _ in limited]
    draws: dict[int, list[int]] = {n: [] for n in (*(one.number for one in shared), *(own.number for own in owns))}
    for number, way in enumerate(ways):
        for licence, units in way.units:
            if licence in row_of:
                by_licence[row_of[licence]].append((number, units))
            elif licence in draws:
                draws[licence].append(number)
    for column, one in enumerate(shared, start=first_shared):
        index += [*draws[one.number], column]
        value += [1.0] * len(draws[one.number]) + [-float(one.carries)]
        starts.append(len(index))
        lower.append(-highspy.kHighsInf)
        upper.append(0.0)
    column = first_own
    for own in owns:
        index += [*draws[own.number], *range(column, column + len(own.ways))]
        value += [1.0] * len(draws[own.number]) + [-1.0] * len(own.ways)
        column += len(own.ways)
        starts.append(len(index))
        lower.append(0.0)
        upper.append(0.0)
    for licence, told in zip(limited, by_licence, strict=True):
        more = [(bought[licence], -max(1, licences[licence].pack))] if licence in bought else []
        index += [n for n, _ in [*told, *more]]
        value += [float(u) for _, u in [*told, *more]]
        starts.append(len(index))
        lower.append(-highspy.kHighsInf)
        upper.append(float(licences[licence].quantity or 0))
    model = highspy.HighsLp()
    columns = len(ways) + len(bought)
    model.num_col_, model.num_row_ = columns, len(lower)
    model.col_cost_ = np.zeros(columns)
    model.col_lower_ = np.zeros(columns)
    most = [float(len(homes)) for some, homes in classes for _ in some] + [float(one.most) for one in shared]
    most += [highspy.kHighsInf for own in owns for _ in own.ways]
    model.col_upper_ = np.array(most + [highspy.kHighsInf] * len(bought))
    model.row_lower_, model.row_upper_ = np.array(lower), np.array(upper)
    model.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
    model.a_matrix_.start_ = np.array(starts, dtype=np.int32)
    model.a_matrix_.index_ = np.array(index, dtype=np.int32)
    model.a_matrix_.value_ = np.array(value)
    model.integrality_ = [highspy.HighsVarType.kInteger] * columns
    chosen = _by_aims(model, ways, licences, {n: buyable[k] * max(1, licences[k].pack) for k, n in bought.items()})
    return _parted(chosen, [len(some) for some, _ in classes]), _parted(chosen[first_own:], [len(o.ways) for o in owns])


def _parted(values: list[int], sizes: Iterable[int]) -> list[list[int]]:
    """Return values one after the other in parts of these sizes."""
    rest = iter(values)
    return [list(islice(rest, size)) for size in sizes]


def _by_aims(
    model: highspy.HighsLp, ways: Sequence[Way], licences: Mapping[int, Licence], packs: Mapping[int, int]
) -> list[int]:
    """Solve for one aim after the other, each held at its best while the next is sought.

    `packs`: by column beyond those of the ways the price of a pack that is bought.
    """
    nothing = dict[int, int]()
    aims: list[tuple[Callable[[Way], int], Mapping[int, int]]] = [
        (lambda w: -w.pinned, nothing),
        (lambda w: -w.covered, nothing),
        (lambda w: 0, packs),
        (lambda w: sum(units * licences[k].price for k, units in w.units if k in licences), nothing),
        (lambda w: sum(units * licences[k].breadth for k, units in w.units if k in licences), nothing),
    ]
    costs = []
    for aim, of_packs in aims:
        row = np.array([*(float(aim(w)) for w in ways), *(0.0 for _ in packs)])
        for column, price in of_packs.items():
            row[column] = float(price)
        costs.append(row)
    return by_aims(model, costs)[: len(ways)]


def _told(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    eligible: dict[int, tuple[Licence, ...]],
    licence_of: dict[int, int],
    judge: _Judge,
    peaks: Mapping[int, int],
) -> Assignment:
    by_key = {one.key: one for one in licences}
    borne: dict[int, dict[object, list[Use]]] = defaultdict(lambda: defaultdict(list))
    right_of = {}
    for use in uses:
        if use.key in licence_of:
            licence = by_key[licence_of[use.key]]
            right_of[use.key] = judge.right(licence, use)
            borne[licence.key][metric_of(licence).bearer(licence, use)].append(use)
    bearers = {key: [Bearer(*told) for told in units_of(by_key[key], held.values())] for key, held in borne.items()}
    _by_peaks(bearers, by_key, peaks)
    return Assignment(licence_of, right_of, bearers, [u for u in uses if u.key not in licence_of], eligible)


def _by_peaks(bearers: dict[int, list[Bearer]], by_key: Mapping[int, Licence], peaks: Mapping[int, int]) -> None:
    """Put in the place of concurrent licences' devices the most that used their products at once.

    Licences of the same products and organisation have one peak together, not each: every one carries of it what it is
    for, the cheapest first, and what is beyond all of them stands with the cheapest.
    """
    groups: dict[tuple[frozenset[int], str, str], list[int]] = defaultdict(list)
    for key in sorted((k for k in peaks if k in by_key), key=lambda k: (not by_key[k].price, by_key[k].price, k)):
        groups[by_key[key].products, by_key[key].metric, by_key[key].organisation].append(key)
    for alike in groups.values():
        everybody = tuple(u for k in alike for bearer in bearers.get(k, ()) for u in bearer.uses)
        if not everybody:
            continue
        left = most = max(peaks[k] for k in alike)
        carried: dict[int, int] = {}
        for key in alike:
            quantity = by_key[key].quantity
            carried[key] = left if quantity is None else min(quantity, left)
            left -= carried[key]
        carried[alike[0]] += left
        for key, units in carried.items():
            bearers.pop(key, None)
            if units:
                of = f"{most} at once, the most recorded" if units == most else f"{units} of {most} at once"
                bearers[key] = [Bearer(units, of, everybody)]
