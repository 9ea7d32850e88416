"""The effective position: what is needed, entitled, short and spare, line by line as one would reckon it by hand.

Licences of one organisation that cover the same products by the same metric are one balance. A use that nothing covers
counts in the balance whose right is the narrowest that names its product, its own organisation's first, and if no
licence names it, in a balance of its own.

Short is what has to be added so that all of a balance's uses are covered; spare is what stays unused even then. Both
may be there at once, for units of a licence that may not cover a use, or that no bearer fits into, are no help to it.
What is to be added is found by the assignment itself, so a balance is even only where nothing is uncovered.
"""

from collections import Counter, defaultdict
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Literal

from tarn.core.licensing.assign import Assignment, assign
from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.rights import Licence, Use, bought_anew, in_force, may_cover
from tarn.core.licensing.ways import units_of

Sign = Literal["", "+", "=", "-"]


@dataclass(frozen=True, slots=True)
class WorkingLine:
    """One line of the working: a sign, a figure, what it is, and in smaller print why."""

    sign: Sign
    figure: int
    text: str
    note: str = ""


@dataclass(frozen=True, slots=True)
class Uncovered:
    """A use that nothing covers, with each licence that names its product and why it does not."""

    use: Use
    reasons: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Balance:
    """The position of one group of licences, in units of its metric.

    `entitled` None: without limit. `short_for_right`: of `short`, units no more of the same licences would cover (too
    new, another department …), so that it is to be bought anew. `terms`: those by which units are reckoned, and bought
    at `price` a unit, in packs of `pack`. `cure`: what it costs to buy what is short; None where no price is known, or
    buying anew would not help. `organisation`: whose licences they are, or whose uses; empty: the whole company's.
    Money in minor units.
    """

    key: str
    products: frozenset[int]
    licences: tuple[Licence, ...]
    metric: str
    unit: str
    needed: int
    entitled: int | None
    assigned: int
    short: int
    short_for_right: int
    spare: int
    installations: int
    price: int
    pack: int
    cure: int | None
    terms: Licence
    organisation: str = ""
    working: tuple[WorkingLine, ...] = ()
    uncovered: tuple[Uncovered, ...] = field(default=(), repr=False)


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Installations that do not count, by reason: by product the device of each."""

    reason: str
    by_product: Mapping[int, Sequence[int]]


MOST_LINES = 12
"""Bearers told one by one in the working; more are told by how many need how much."""


def balances(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    held: Assignment,
    day: date,
    left_out: Iterable[LeftOut] = (),
    name_of: Mapping[int, str] | None = None,
    pins: Mapping[int, int] | None = None,
    peaks: Mapping[int, int] | None = None,
) -> list[Balance]:
    """Return the balances of a day. `name_of`: of devices, for the working; `left_out`: what does not count; `pins` and
    `peaks` as the assignment was given them."""
    groups: dict[_Group, list[Licence]] = defaultdict(list)
    for licence in licences:
        groups[licence.products, licence.metric, licence.organisation].append(licence)
    stray: dict[_Group, list[Use]] = defaultdict(list)
    narrowest = _narrowest(groups)
    for use in held.uncovered:
        home = narrowest.get((use.product, use.organisation)) or narrowest.get((use.product, ""))
        stray[home or (frozenset({use.product}), "device", use.organisation)].append(use)
    out = []
    aside = list(left_out)
    for group in sorted({*groups, *stray}, key=lambda g: (sorted(g[0]), *g[1:])):
        mine = groups.get(group, [])
        lacking = _lacking(group, mine, stray.get(group, []), held, day, pins or {}, peaks or {})
        out.append(_balance(group, mine, stray.get(group, []), lacking, held, day, aside, pins or {}, name_of or {}))
    return out


_Group = tuple[frozenset[int], str, str]
"""Products, metric and organisation: what licences of one balance have in common."""


def _narrowest(groups: Mapping[_Group, list[Licence]]) -> dict[tuple[int, str], _Group]:
    """Return by product and organisation the group its uncovered uses count in: the narrowest, of equal ones the one
    with most units. Under "" stand the whole company's, and where it has none those that are shared."""
    out: dict[tuple[int, str], _Group] = {}

    def rank(group: _Group) -> tuple[int, int, str, str]:
        return len(group[0]), -sum(licence.quantity or 0 for licence in groups[group]), *group[1:]

    def shared(group: _Group) -> bool:
        return not group[2] or any(licence.shared for licence in groups[group])

    for group in sorted(groups, key=rank, reverse=True):
        for product in group[0]:
            out[product, group[2]] = group
    for group in sorted(groups, key=lambda g: (bool(g[2]), not shared(g), rank(g)), reverse=True):
        for product in group[0]:
            if shared(group):
                out[product, ""] = group
    return out


@dataclass(frozen=True, slots=True)
class _Lacking:
    """What has to be added to a balance: units in all, of them such as are to be bought anew, what they cost in whole
    packs (None: no price), units of what is there that stay unused then, and the uses that nothing helps."""

    units: int
    anew: int
    cost: int | None
    spare: int


def _in_force(licences: Sequence[Licence], day: date) -> list[Licence]:
    return [licence for licence in licences if in_force(licence, day)]


def _terms(group: _Group, licences: Sequence[Licence], day: date) -> Licence:
    """Return the licence by whose terms units of a balance are reckoned: the last in force, or the last there was."""
    nothing = Licence(0, "", group[1], 0, group[0], organisation=group[2])
    return (_in_force(licences, day) or list(licences) or [nothing])[-1]


def _lacking(
    group: _Group,
    licences: list[Licence],
    stray: list[Use],
    held: Assignment,
    day: date,
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
) -> _Lacking:
    """Return what has to be added so that a balance's uses are covered, by the same assignment that left them so.

    Where each bearer needs as many units whatever else there is, no leftover can serve it, or it would be served.
    """
    terms, now = _terms(group, licences, day), _in_force(licences, day)
    unused = sum(max(0, (licence.quantity or 0) - held.used(licence.key)) for licence in now)
    beyond = sum(max(0, held.used(licence.key) - licence.quantity) for licence in now if licence.quantity is not None)
    mine = {licence.key for licence in licences}
    barred = [u for u in stray if not any(licence.key in mine for licence in held.eligible.get(u.key, ()))]
    of_right = sum(units for units, _, _ in _needs(terms, barred))
    wanting = [u for u in stray if any(licence.key in mine for licence in held.eligible.get(u.key, ()))]
    pack, price = max(terms.pack, 1), terms.price
    anew = bought_anew(terms, day)
    # A site, or what is without limit, is not bought by the unit; a peak is not bought anew beside the one there is.
    by_unit = terms.quantity is not None and terms.metric != "site"
    buyable = bool(price) and by_unit and (not barred or terms.key not in peaks)
    buyable = buyable and all(pins.get(use.key, terms.key) == terms.key for use in stray)
    helped = buyable and all(may_cover(anew, use, day) for use in barred)
    more, spare = sum(units for units, _, _ in _needs(terms, wanting)), unused
    if wanting and _divides(terms):
        more = _added(terms, wanting, licences, held, day, pins)
        needed = sum(units for units, _, _ in _needs(terms, wanting))
        spare = max(0, unused - (needed - more))
    short = more + of_right + beyond
    cost = None if short and not helped else -(-short // pack) * pack * price
    return _Lacking(short, of_right, cost, spare)


def _divides(terms: Licence) -> bool:
    """Whether bearers need several units each, so that some may be left that no bearer fits into."""
    return metric_of(terms).of_facts or (terms.metric == "virtual machine" and terms.guests == "host")


def _added(
    terms: Licence,
    wanting: list[Use],
    licences: list[Licence],
    held: Assignment,
    day: date,
    pins: Mapping[int, int],
) -> int:
    """Return the fewest units to add so that bearers which do not fit into what is left of any licence are covered."""
    left = [
        replace(licence, quantity=max(0, (licence.quantity or 0) - held.used(licence.key)), price=0)
        for licence in licences
        if in_force(licence, day)
    ]
    bought = assign(wanting, left, day, pins, buyable={licence.key: 1 for licence in left})
    over = sum(max(0, bought.used(licence.key) - (licence.quantity or 0)) for licence in left)
    return over + sum(units for units, _, _ in _needs(terms, bought.uncovered))


def _balance(
    group: _Group,
    licences: list[Licence],
    stray: list[Use],
    lacking: _Lacking,
    held: Assignment,
    day: date,
    aside: list[LeftOut],
    pins: Mapping[int, int],
    name_of: Mapping[int, str],
) -> Balance:
    products, metric, organisation = group
    now, terms = _in_force(licences, day), _terms(group, licences, day)
    known = metric_of(terms)
    bearers = [b for licence in licences for b in held.bearers.get(licence.key, ())]
    assigned = sum(b.units for b in bearers)
    quantities = [licence.quantity for licence in now]
    entitled = None if None in quantities else sum(quantity or 0 for quantity in quantities)
    needs = _needs(terms, stray)
    counted = len({u.key for b in bearers for u in b.uses}) + len(stray)
    return Balance(
        key=f"{metric}:{'+'.join(str(p) for p in sorted(products))}" + (f"@{organisation}" if organisation else ""),
        products=products,
        licences=tuple(licences),
        metric=metric,
        unit=known.unit,
        needed=assigned + sum(units for units, _, _ in needs),
        entitled=entitled,
        assigned=assigned,
        short=lacking.units,
        short_for_right=lacking.anew,
        spare=0 if entitled is None else lacking.spare,
        installations=counted,
        price=terms.price,
        pack=max(terms.pack, 1),
        cure=lacking.cost,
        terms=terms,
        organisation=organisation,
        working=tuple(
            _working(
                counted,
                [a for a in aside if products & set(a.by_product)],
                products,
                [(b.units, b.text, b.uses) for b in bearers] + needs,
                now,
                known.unit,
                entitled,
                lacking,
                max(terms.pack, 1),
                name_of,
            )
        ),
        uncovered=_uncovered(stray, licences, held, day, pins),
    )


_Told = tuple[int, str, tuple[Use, ...]]


def _needs(model: Licence, uses: Sequence[Use]) -> list[_Told]:
    """Return what uncovered uses would need by a licence's metric, bearer by bearer."""
    known = metric_of(model)
    if uses and model.metric == "site":
        return [(1, "a site it is not for", tuple(uses))]
    by_bearer: dict[object, list[Use]] = defaultdict(list)
    for use in uses:
        by_bearer[known.bearer(model, use)].append(use)
    return list(units_of(model, by_bearer.values()))


def _uncovered(
    stray: Sequence[Use], licences: Sequence[Licence], held: Assignment, day: date, pins: Mapping[int, int]
) -> tuple[Uncovered, ...]:
    """Return the uses nothing covers with the reasons, reckoned once for uses that look the same to the licences."""
    left = {licence.key: (licence.quantity or 0) - held.used(licence.key) for licence in licences}
    told: dict[Hashable, tuple[tuple[str, str], ...]] = {}
    out = []
    for use in stray:
        look = (
            *(use.product, use.release, use.department, bool(use.person), use.since, use.edition, use.organisation),
            *(use.cores, use.processors, use.host_cores, use.host_processors, tuple(sorted(use.facts.items()))),
            pins.get(use.key),
        )
        reasons = told.get(look)
        if reasons is None:
            reasons = told[look] = _reasons(use, licences, held, day, left, pins.get(use.key))
        out.append(Uncovered(use, reasons))
    return tuple(out)


def _reasons(
    use: Use, licences: Sequence[Licence], held: Assignment, day: date, left: Mapping[int, int], pinned: int | None
) -> tuple[tuple[str, str], ...]:
    eligible = {licence.key: licence for licence in held.eligible.get(use.key, ())}
    out = [
        (
            licence.name,
            _taken(licence, use, left.get(licence.key) or 0)
            if pinned in (None, licence.key)
            else "it is pinned to another",
        )
        for licence in eligible.values()
    ]
    out += [(licence.name, may_cover(licence, use, day).reason) for licence in licences if licence.key not in eligible]
    return tuple(out)


def _taken(licence: Licence, use: Use, left: int) -> str:
    if left <= 0:
        return f"all {licence.quantity} are taken"
    needs = metric_of(licence).units(licence, [use])[0]
    return f"it needs {needs}, and {left} of {licence.quantity} are left"


def _working(
    counted: int,
    aside: Sequence[LeftOut],
    products: frozenset[int],
    told: Sequence[_Told],
    now: Sequence[Licence],
    unit: str,
    entitled: int | None,
    lacking: _Lacking,
    pack: int,
    name_of: Mapping[int, str],
) -> list[WorkingLine]:
    out_of = {a.reason: sum(len(d) for p, d in a.by_product.items() if p in products) for a in aside}
    found = counted + sum(out_of.values())
    note = "; ".join([f"{found} found", *(f"{n} {reason}" for reason, n in sorted(out_of.items()) if n)])
    steps = [WorkingLine("", counted, f"installation{'s' * (counted != 1)} count", note if found != counted else "")]
    if len(told) <= MOST_LINES and len({text for _, text, _ in told}) > 1:
        for number, (units, text, uses) in enumerate(sorted(told, key=lambda t: (-t[0], t[2][0].key))):
            steps.append(WorkingLine("+" if number else "", units, f"{unit} for {_bearer(uses, name_of)}", text))
    else:
        lines = Counter((units, text) for units, text, _ in told)
        for number, ((units, text), times) in enumerate(sorted(lines.items(), key=lambda x: -x[1])):
            steps.append(WorkingLine("+" if number else "", units * times, f"{unit}: {times} × {units}", text))
    needed = sum(units for units, _, _ in told)
    wrong = lacking.anew
    steps.append(WorkingLine("=", needed, f"{unit} needed", f"{wrong} of them by no licence there is" if wrong else ""))
    if entitled is None:
        covered = needed - lacking.units
        return [
            *steps,
            WorkingLine("-", covered, f"{unit} entitled", "without limit"),
            WorkingLine("=", lacking.units, "short"),
        ]
    for licence in now:
        since = f", since {licence.starts.isoformat()}" if licence.starts != date.min else ""
        until = f", until {licence.ends.isoformat()}" if licence.ends else ""
        steps.append(WorkingLine("-", licence.quantity or 0, f"{unit} entitled", f"{licence.name}{since}{until}"))
    if not now:
        steps.append(WorkingLine("-", 0, f"{unit} entitled", "no licence is in force"))
    if lacking.units:
        packs = f"{-(-lacking.units // pack)} packs of {pack}" if pack > 1 else ""
        spare = f"while {lacking.spare} are spare that do not fit" if lacking.spare else ""
        steps.append(WorkingLine("=", lacking.units, "short", "; ".join(t for t in (packs, spare) if t)))
    else:
        steps.append(WorkingLine("=", lacking.spare, "spare" if lacking.spare else "even"))
    return steps


def _bearer(uses: Sequence[Use], name_of: Mapping[int, str]) -> str:
    use = uses[0]
    devices = list(dict.fromkeys(name_of.get(u.device, f"device {u.device}") for u in uses))
    if use.person and len(devices) > 1:
        return use.person
    return devices[0] if len(devices) == 1 else f"{devices[0]} and {len(devices) - 1} more"
