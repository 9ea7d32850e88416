"""The position of a day, reckoned once a state of evidence and licences."""

from dataclasses import dataclass
from typing import overload

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, Ground
from tarn.apps.licences.models import Change
from tarn.apps.licences.reads.position_inputs import Given, differing, given
from tarn.apps.lifecycle.reads.support import support_version
from tarn.apps.money.reads.ledger import ledger, money_version
from tarn.apps.people.scope import scope
from tarn.core.finance.money import from_minor
from tarn.core.licensing.assign import Assignment
from tarn.core.licensing.position import Balance
from tarn.core.licensing.reckon import Basis, Part, Position, reckon


@dataclass(frozen=True)
class Reckoned:
    """The whole position of a day: what it follows from, the assignment, the balances."""

    given: Given
    held: Assignment
    balances: list[Balance]
    currency: str
    parts: dict[frozenset[int], Part]


def positions_version() -> int:
    """Return what changes whenever licences, or what is said of them, do."""
    return Change.objects.values_list("number", flat=True).first() or 0


LICENCES, MONEY, SUPPORT = (
    Ground("licences", positions_version),
    Ground("money", money_version),
    Ground("ends of support", support_version),
)
_positions: Remembered[Reckoned] = Remembered("positions", EVIDENCE, LICENCES, MONEY, SUPPORT, most=6)


def reckoned(at: int | None) -> Reckoned:
    """Return the position of a moment. Raises MoneyError, MetricError, EntangledError."""
    key = (at, day_of(at), scope())
    return _positions.get(key, lambda: _reckon(at), lambda before, since: _carried_on(at, before, since))


def _carried_on(at: int | None, before: Reckoned, since: int) -> Reckoned | None:
    """Return a position made of what it was before new evidence; None where too much is new to go by."""
    devices = touched(since)
    if devices is None:
        return None
    now = given(at, before.given, devices)
    if now.product_of != before.given.product_of or now.person_of != before.given.person_of:
        return _of(now, reckon(basis_of(now)))
    if now.peaks != before.given.peaks:
        return _of(now, reckon(basis_of(now)))
    again = {a for a in now.of_device if now.of_device[a] is not before.given.of_device.get(a)}
    again |= before.given.of_device.keys() - now.of_device.keys()
    return _of(now, reckon(basis_of(now), before.parts, differing(before.given, now, again)))


def _reckon(at: int | None) -> Reckoned:
    now = given(at)
    return _of(now, reckon(basis_of(now)))


def _of(now: Given, told: Position) -> Reckoned:
    return Reckoned(now, told.held, told.balances, ledger().currency, told.parts)


def basis_of(all_: Given) -> Basis:
    """Return what a position follows from as it is reckoned, and as an auditor takes it away."""
    used = {u.device for u in all_.uses} | {u.host for u in all_.uses if u.host is not None}
    used |= {d for left in all_.left_out for some in left.by_product.values() for d in some if d in all_.machines}
    products = {p for licence in all_.licences for p in licence.products} | {u.product for u in all_.uses}
    return Basis(
        day=all_.day,
        licences=all_.licences,
        uses=all_.uses,
        pins=all_.pins,
        peaks=all_.peaks,
        disputed=sorted(all_.disputed),
        left_out=all_.left_out,
        names={p: all_.names[p] for p in sorted(products)},
        devices={asset: all_.machines[asset].name or all_.machines[asset].number for asset in sorted(used)},
    )


@overload
def money(minor: int, whole: Reckoned) -> str: ...
@overload
def money(minor: int | None, whole: Reckoned) -> str | None: ...
def money(minor: int | None, whole: Reckoned) -> str | None:
    """Return an amount of the company's currency as it is shown; None where nothing is known."""
    return None if minor is None else str(from_minor(minor, whole.currency))


def name_of(balance: Balance, names: dict[int, str]) -> str:
    """Return what a balance is called: its product, or for several the licence that covers them all."""
    whose = f" ({balance.organisation})" if balance.organisation else ""
    if len(balance.products) == 1:
        return names[next(iter(balance.products))] + whose
    if balance.licences:
        return balance.licences[0].name + whose
    return ", ".join(sorted(names[p] for p in balance.products)) + whose


def device_name(whole: Reckoned, asset: int) -> str:
    """Return what a device is called."""
    machine = whole.given.machines[asset]
    return machine.name or machine.number
