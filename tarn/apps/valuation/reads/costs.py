"""What an asset costs a month, all in: what is written down, its share of contracts and licences, and energy."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.licences.reads.reckoning import Reckoned, positions_version, reckoned
from tarn.apps.lifecycle.reads.contracts import contracts_version, running
from tarn.apps.money.reads.ledger import rates
from tarn.apps.people.scope import asker
from tarn.apps.valuation.models import Energy
from tarn.apps.valuation.reads.cache import kept
from tarn.apps.valuation.reads.values import valued
from tarn.core.finance.money import MoneyError, Rates, half_up, places
from tarn.core.finance.payments import MONTHS

PARTS = ("depreciation", "contracts", "licences", "energy")
_SWITCHED_ON = 'state = none or state in ("in use", "on loan")'
_DAYS_A_MONTH = Decimal(365) / 12


@dataclass(frozen=True)
class Costs:
    """Costs a month by part and asset, in minor units of the company's currency. `why`: by asset and part what it is
    made of; `apart`: what is in no sum for want of a rate; `loose`: what falls on no device, by what it is for."""

    day: date
    currency: str
    by_part: dict[str, dict[int, int]]
    why: dict[int, list[tuple[str, str, int]]] = field(repr=False)
    apart: list[str] = field(default_factory=list)
    loose: dict[str, int] = field(default_factory=dict)

    def of(self, asset: int) -> dict[str, int]:
        """Return the parts of one asset's cost."""
        return {part: self.by_part[part].get(asset, 0) for part in PARTS}


def costs(at: int | None) -> Costs:
    """Return what assets cost in the month of a moment. Remembered until something changes."""
    return kept("costs", (at, day_of(at), contracts_version(), positions_version()), lambda: _costs(at))


def _costs(at: int | None) -> Costs:
    worth, known, whole = valued(at), rates(), reckoned(at)
    out = Costs(worth.day, known.base, {part: {} for part in PARTS}, defaultdict(list))
    for asset, charge in worth.charges.items():
        # What is left of a device that was parted with is a loss of that day, and no cost of the month.
        if charge and asset not in worth.disposed:
            _add(out, "depreciation", asset, worth.by[asset], charge)
    there = set(ids(question("", at, asker().everywhere())))
    for contract, assets in running(at):
        monthly = _monthly(contract.cost, contract.currency, contract.every, known, worth.day, contract.name, out)
        mine = sorted(there.intersection(assets))
        if monthly and not mine:
            out.loose[contract.name] = monthly
        for asset, share in zip(mine, shares(monthly, len(mine)), strict=True):
            _add(out, "contracts", asset, contract.name, share)
    _licences(out, whole, known)
    _energy(out, at)
    return out


def _add(out: Costs, part: str, asset: int, what: str, amount: int) -> None:
    out.by_part[part][asset] = out.by_part[part].get(asset, 0) + amount
    out.why[asset].append((part, what, amount))


def _monthly(amount: int, currency: str, every: str, known: Rates, day: date, what: str, out: Costs) -> int:
    if every not in MONTHS:
        return 0
    try:
        return half_up(known.convert(amount, currency, known.base, day), MONTHS[every])
    except MoneyError as wrong:
        out.apart.append(f"{what}: {wrong}")
        return 0


def shares(amount: int, number: int) -> list[int]:
    """Return an amount in so many equal parts; what is left over of the division goes to the first, one each."""
    if not number:
        return []
    each, rest = divmod(amount, number)
    return [each + (n < rest) for n in range(number)]


def _licences(out: Costs, whole: Reckoned, known: Rates) -> None:
    """Share out what licences cost again and again, by the units each device draws; what is spare falls on none."""
    for licence in whole.given.licences:
        held = whole.given.held[licence.key]
        monthly = _monthly(held.cost, held.cost_currency, held.cost_every, known, out.day, held.name, out)
        bearers = whole.held.bearers.get(licence.key, [])
        drawn = sum(b.units for b in bearers)
        if not monthly:
            continue
        over = max(drawn, licence.quantity or 0)
        used = half_up(monthly * drawn, over) if over else 0
        if monthly > used:
            out.loose[f"{held.name}, spare"] = monthly - used
        weights: dict[int, int] = defaultdict(int)
        for bearer in bearers:
            devices = sorted({u.device for u in bearer.uses})
            for device, units in zip(devices, shares(bearer.units * 1_000, len(devices)), strict=True):
                weights[device] += units
        for device, amount in _weighed(used, weights):
            _add(out, "licences", device, held.name, amount)


def _weighed(amount: int, weights: dict[int, int]) -> Iterable[tuple[int, int]]:
    """Yield an amount shared out by weights such that the parts sum to it."""
    whole, gone, before = sum(weights.values()), 0, 0
    for one in sorted(weights):
        gone += weights[one]
        upto = half_up(amount * gone, whole)
        yield one, upto - before
        before = upto


def _energy(out: Costs, at: int | None) -> None:
    energy = Energy.objects.first()
    if energy is None or not energy.kinds:
        return
    each = {kind: energy_a_month(energy, kind, out.currency) for kind in energy.kinds}
    for row in rows_of("asset", ["kind"], question(_SWITCHED_ON, at, asker().everywhere()), "", []):
        if amount := each.get(row["kind"] or "", 0):
            watts, hours = energy.kinds[row["kind"]]
            _add(out, "energy", row["id"], f"{watts} W for {hours} hours a day", amount)


def energy_a_month(held: Energy, kind: str, currency: str) -> int:
    """Return what a device of a kind takes up in energy a month, in minor units, rounded half up once."""
    watts, hours = held.kinds[kind]
    amount = Decimal(str(watts)) * Decimal(str(hours)) * _DAYS_A_MONTH / 1_000 * held.price
    return int(amount.scaleb(places(currency)).to_integral_value(ROUND_HALF_UP))
