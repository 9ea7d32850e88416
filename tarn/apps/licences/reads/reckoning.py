"""The position of a day, reckoned once a state of evidence and licences."""

import threading
from collections import OrderedDict
from dataclasses import dataclass

from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import stamp
from tarn.apps.licences.models import Change
from tarn.apps.licences.reads.given import Given, day_of, given
from tarn.apps.money.reads.ledger import ledger, money_version
from tarn.apps.people.scope import scope
from tarn.core.finance.money import from_minor
from tarn.core.licensing.assign import Assignment
from tarn.core.licensing.bundle import Basis, reckon
from tarn.core.licensing.position import Balance


@dataclass(frozen=True)
class Reckoned:
    """The whole position of a day: what it follows from, the assignment, the balances."""

    given: Given
    held: Assignment
    balances: list[Balance]
    currency: str


_MOST_KEPT = 6
_lock = threading.Lock()
_kept: "OrderedDict[tuple[object, ...], Reckoned]" = OrderedDict()


def reckoned(at: int | None) -> Reckoned:
    """Return the position of a moment. Raises MoneyError, MetricError, EntangledError."""
    key = (*stamp(raw_connection()), at, day_of(at), positions_version(), money_version(), scope())
    with _lock:
        found = _kept.get(key)
        if found is not None:
            _kept.move_to_end(key)
            return found
    made = _reckon(at)
    with _lock:
        _kept[key] = made
        while len(_kept) > _MOST_KEPT:
            _kept.popitem(last=False)
    return made


def positions_version() -> int:
    """Return what changes whenever licences, or what is said of them, do."""
    return Change.objects.values_list("number", flat=True).first() or 0


def forget_positions() -> None:
    """Drop the positions held, after the tables were exchanged in this process."""
    with _lock:
        _kept.clear()


def _reckon(at: int | None) -> Reckoned:
    all_ = given(at)
    held, told = reckon(basis_of(all_))
    return Reckoned(all_, held, told, ledger().currency)


def basis_of(all_: Given) -> Basis:
    """Return what a position follows from as it is reckoned, and as an auditor takes it away."""
    used = {u.device for u in all_.uses} | {u.host for u in all_.uses if u.host is not None}
    products = {p for one in all_.licences for p in one.products} | {u.product for u in all_.uses}
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


def money(minor: int | None, whole: Reckoned) -> str | None:
    """Return an amount of the company's currency as it is shown; None where nothing is known."""
    return None if minor is None else str(from_minor(minor, whole.currency))


def name_of(balance: Balance, names: dict[int, str]) -> str:
    """Return what a balance is called: its product, or for several the licence that covers them all."""
    if len(balance.products) == 1:
        return names[next(iter(balance.products))]
    return balance.licences[0].name if balance.licences else ", ".join(sorted(names[p] for p in balance.products))


def device_name(whole: Reckoned, asset: int) -> str:
    """Return what a device is called."""
    machine = whole.given.machines[asset]
    return machine.name or machine.number
