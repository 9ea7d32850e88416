"""The effective position: what is needed, entitled, short and spare, line by line as one would reckon it by hand.

Licences that cover the same products by the same metric are one balance. A use that nothing covers counts in the
balance whose right is the narrowest that names its product, and if no licence names it, in a balance of its own.
"""

from collections import Counter, defaultdict
from collections.abc import Hashable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Literal

from tarn.core.licensing.assign import Assignment
from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.rights import Licence, Use, bought_anew, may_cover

Sign = Literal["", "+", "=", "-"]


@dataclass(frozen=True, slots=True)
class Step:
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
    new, another department …), so that it is to be bought anew. `price` of one unit and `pack`: what buying costs;
    `cure`: what it costs to buy what is short; None where no price is known, or buying anew would not help. Money in
    minor units.
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
    working: tuple[Step, ...] = ()
    uncovered: tuple[Uncovered, ...] = field(default=(), repr=False)

    @property
    def model(self) -> Licence:
        """The licence by whose terms units are reckoned: the last, or one of nothing where none is owned."""
        return self.licences[-1] if self.licences else Licence(0, "", self.metric, 0, self.products)


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Installations that do not count, by reason."""

    reason: str
    by_product: Mapping[int, int]


MOST_LINES = 12
"""Bearers told one by one in the working; more are told by how many need how much."""


def balances(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    held: Assignment,
    day: date,
    left_out: Iterable[LeftOut] = (),
    name_of: Mapping[int, str] | None = None,
) -> list[Balance]:
    """Return the balances of a day. `name_of`: of devices, for the working; `left_out`: what does not count."""
    groups: dict[tuple[frozenset[int], str], list[Licence]] = defaultdict(list)
    for licence in licences:
        groups[licence.products, licence.metric].append(licence)
    stray: dict[tuple[frozenset[int], str], list[Use]] = defaultdict(list)
    narrowest = _narrowest(groups)
    for use in held.uncovered:
        stray[narrowest.get(use.product, (frozenset({use.product}), "device"))].append(use)
    out = []
    aside = list(left_out)
    for group in sorted({*groups, *stray}, key=lambda g: (sorted(g[0]), g[1])):
        out.append(_balance(group, groups.get(group, []), stray.get(group, []), held, day, aside, name_of or {}))
    return out


def _narrowest(groups: Mapping[tuple[frozenset[int], str], list[Licence]]) -> dict[int, tuple[frozenset[int], str]]:
    """Return by product the group its uncovered uses count in: the narrowest, of equal ones the one with most units."""
    out: dict[int, tuple[frozenset[int], str]] = {}

    def rank(group: tuple[frozenset[int], str]) -> tuple[int, int, str]:
        return len(group[0]), -sum(one.quantity or 0 for one in groups[group]), group[1]

    for group in sorted(groups, key=rank, reverse=True):
        for product in group[0]:
            out[product] = group
    return out


def _balance(
    group: tuple[frozenset[int], str],
    licences: list[Licence],
    stray: list[Use],
    held: Assignment,
    day: date,
    aside: list[LeftOut],
    name_of: Mapping[int, str],
) -> Balance:
    products, metric = group
    now = [one for one in licences if one.starts <= day and (one.ends is None or day <= one.ends)]
    model = (now or licences or [Licence(0, "", metric, 0, products)])[-1]
    known = metric_of(model)
    bearers = [b for one in licences for b in held.bearers.get(one.key, ())]
    assigned = sum(b.units for b in bearers)
    without_limit = any(one.quantity is None for one in now)
    entitled = None if without_limit else sum(one.quantity or 0 for one in now)
    mine = {one.key for one in licences}
    wanting: list[Use] = []
    barred: list[Use] = []
    for use in stray:
        may = any(one.key in mine for one in held.eligible.get(use.key, ()))
        (wanting if may else barred).append(use)
    lacking, of_right = _needs(model, wanting), _needs(model, barred)
    # Two uses of one bearer, one of which is covered, need no more than the bearer does.
    want, wrong = sum(n for n, _, _ in lacking), sum(n for n, _, _ in of_right)
    short = wrong if entitled is None else max(0, assigned + want - entitled) + wrong
    spare = 0 if entitled is None else max(0, entitled - assigned - want)
    price, pack = model.price, max(model.pack, 1)
    anew = bought_anew(model, day)
    helped = all(may_cover(anew, use, day) for use in barred)
    counted = len({u.key for b in bearers for u in b.uses}) + len(stray)
    return Balance(
        key=f"{metric}:{'+'.join(str(p) for p in sorted(products))}",
        products=products,
        licences=tuple(licences),
        metric=metric,
        unit=known.unit,
        needed=assigned + want + wrong,
        entitled=entitled,
        assigned=assigned,
        short=short,
        short_for_right=wrong,
        spare=spare,
        installations=counted,
        price=price,
        pack=pack,
        cure=None if short and not (price and helped) else -(-short // pack) * pack * price,
        working=tuple(
            _working(
                counted,
                [a for a in aside if products & set(a.by_product)],
                products,
                [(b.units, b.text, b.uses) for b in bearers] + lacking + of_right,
                now,
                known.unit,
                entitled,
                wrong,
                pack,
                name_of,
            )
        ),
        uncovered=_uncovered(stray, licences, held, day),
    )


_Told = tuple[int, str, tuple[Use, ...]]


def _needs(model: Licence, uses: Sequence[Use]) -> list[_Told]:
    """Return what uncovered uses would need by a licence's metric, bearer by bearer."""
    known = metric_of(model)
    by_bearer: dict[object, list[Use]] = defaultdict(list)
    for use in uses:
        by_bearer[known.bearer(model, use)].append(use)
    return [(*known.units(model, some), tuple(some)) for some in by_bearer.values()]


def _uncovered(stray: Sequence[Use], licences: Sequence[Licence], held: Assignment, day: date) -> tuple[Uncovered, ...]:
    """Return the uses nothing covers with the reasons, reckoned once for uses that look the same to the licences."""
    left = {one.key: (one.quantity or 0) - held.used(one.key) for one in licences}
    told: dict[Hashable, tuple[tuple[str, str], ...]] = {}
    out = []
    for use in stray:
        look = (
            *(use.product, use.release, use.department, bool(use.person), use.since),
            *(use.cores, use.processors, use.host_cores, use.host_processors, tuple(sorted(use.facts.items()))),
        )
        reasons = told.get(look)
        if reasons is None:
            reasons = told[look] = _reasons(use, licences, held, day, left)
        out.append(Uncovered(use, reasons))
    return tuple(out)


def _reasons(
    use: Use, licences: Sequence[Licence], held: Assignment, day: date, left: Mapping[int, int]
) -> tuple[tuple[str, str], ...]:
    eligible = {one.key: one for one in held.eligible.get(use.key, ())}
    out = [(one.name, _taken(one, use, left.get(one.key) or 0)) for one in eligible.values()]
    out += [(one.name, may_cover(one, use, day).reason) for one in licences if one.key not in eligible]
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
    wrong: int,
    pack: int,
    name_of: Mapping[int, str],
) -> list[Step]:
    out_of = {a.reason: sum(n for p, n in a.by_product.items() if p in products) for a in aside}
    found = counted + sum(out_of.values())
    note = "; ".join([f"{found} found", *(f"{n} {reason}" for reason, n in sorted(out_of.items()) if n)])
    steps = [Step("", counted, f"installation{'s' * (counted != 1)} count", note if found != counted else "")]
    if len(told) <= MOST_LINES and len({text for _, text, _ in told}) > 1:
        for number, (units, text, uses) in enumerate(sorted(told, key=lambda t: (-t[0], t[2][0].key))):
            steps.append(Step("+" if number else "", units, f"{unit} for {_bearer(uses, name_of)}", text))
    else:
        lines = Counter((units, text) for units, text, _ in told)
        for number, ((units, text), times) in enumerate(sorted(lines.items(), key=lambda x: -x[1])):
            steps.append(Step("+" if number else "", units * times, f"{unit}: {times} × {units}", text))
    needed = sum(units for units, _, _ in told)
    steps.append(Step("=", needed, f"{unit} needed", f"{wrong} of them by no licence there is" if wrong else ""))
    if entitled is None:
        return [*steps, Step("-", needed - wrong, f"{unit} entitled", "without limit"), Step("=", wrong, "short")]
    for one in now:
        since = f", since {one.starts.isoformat()}" if one.starts != date.min else ""
        until = f", until {one.ends.isoformat()}" if one.ends else ""
        steps.append(Step("-", one.quantity or 0, f"{unit} entitled", f"{one.name}{since}{until}"))
    if not now:
        steps.append(Step("-", 0, f"{unit} entitled", "no licence is in force"))
    over = needed - wrong - entitled
    if over > 0 or wrong:
        short = max(0, over) + wrong
        packs = f"{-(-short // pack)} packs of {pack}" if pack > 1 else ""
        spare = f"while {-over} are spare that do not fit" if over < 0 else ""
        steps.append(Step("=", short, "short", "; ".join(t for t in (packs, spare) if t)))
    else:
        steps.append(Step("=", -over, "spare" if over else "even"))
    return steps


def _bearer(uses: Sequence[Use], name_of: Mapping[int, str]) -> str:
    use = uses[0]
    devices = list(dict.fromkeys(name_of.get(u.device, f"device {u.device}") for u in uses))
    if use.person and len(devices) > 1:
        return use.person
    return devices[0] if len(devices) == 1 else f"{devices[0]} and {len(devices) - 1} more"
