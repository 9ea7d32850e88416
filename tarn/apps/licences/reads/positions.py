"""Positions of a day: reckoned once a state of evidence and licences, and told with the working."""

import threading
from collections import Counter, OrderedDict
from dataclasses import dataclass
from typing import Any

from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import stamp
from tarn.apps.licences.models import Change
from tarn.apps.licences.reads.given import Given, day_of, given
from tarn.apps.money.reads.ledger import ledger, money_version
from tarn.apps.people.reads import roster
from tarn.apps.people.scope import scope
from tarn.core.finance.money import from_minor
from tarn.core.licensing.assign import Assignment
from tarn.core.licensing.bundle import Basis, reckon
from tarn.core.licensing.cures import Cure, Idle, cures
from tarn.core.licensing.position import Balance, Uncovered


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


def rows(at: int | None) -> dict[str, Any]:
    """Return all balances as they are listed, the costliest to cure first, with the sums over them."""
    whole = reckoned(at)
    out = [_row(one, whole) for one in whole.balances]
    out.sort(key=lambda r: (not r["short"], -(r["cure_minor"] or 0), -r["short"], r["name"].casefold()))
    soon = [one for one in whole.given.held.values() if one.ends and 0 <= (one.ends - whole.given.day).days <= 60]
    return {
        "day": whole.given.day.isoformat(),
        "currency": whole.currency,
        "balances": out,
        "cure": money(sum(r["cure_minor"] or 0 for r in out), whole),
        "uncosted": sum(1 for r in out if r["short"] and r["cure_minor"] is None),
        "spare_value": money(sum(r["spare_minor"] for r in out), whole),
        "ending": len(soon),
    }


def for_report(at: int | None) -> list[dict[str, Any]]:
    """Return balances as rows of a report; money as numbers of the company's currency."""
    told = rows(at)
    out = []
    for row in told["balances"]:
        cure = float(row["cure"]) if row["cure"] else None
        spare = float(row["spare_value"]) if row["spare_value"] else None
        out.append({**row, "cure": cure, "spare_value": spare, "currency": told["currency"]})
    return out


def _row(one: Balance, whole: Reckoned) -> dict[str, Any]:
    spare = one.spare * one.price
    return {
        "key": one.key,
        "name": name_of(one, whole.given.names),
        "products": sorted(whole.given.names[p] for p in one.products),
        "metric": one.metric,
        "unit": one.unit,
        "pack": one.pack,
        "needed": one.needed,
        "entitled": one.entitled,
        "assigned": one.assigned,
        "short": one.short,
        "spare": one.spare,
        "installations": one.installations,
        "licences": [{"id": li.key, "name": li.name} for li in one.licences],
        "cure": money(one.cure, whole) if one.short else None,
        "cure_minor": one.cure if one.short else 0,
        "spare_value": money(spare, whole) if spare else None,
        "spare_minor": spare,
    }


def why(key: str, at: int | None) -> dict[str, Any] | None:
    """Return one balance with its working, cures and what is not covered; None where there is no such balance."""
    whole = reckoned(at)
    one = next((b for b in whole.balances if b.key == key), None)
    if one is None:
        return None
    return {
        **_row(one, whole),
        "working": [{"sign": s.sign, "figure": s.figure, "text": s.text, "note": s.note} for s in one.working],
        "cures": [_cure(c, one, whole) for c in cures(one, idle(one, whole))],
        "uncovered": [_uncovered(u, whole) for u in one.uncovered[:200]],
        "uncovered_all": len(one.uncovered),
        "left_out": [
            {"asset": asset, "name": _device(whole, asset), "reason": reason, "product": whole.given.names[product]}
            for product in sorted(one.products)
            for asset, reason in whole.given.aside.get(product, ())
        ][:200],
        "departments": _departments(one, whole),
        "warnings": warnings_of(one, whole),
    }


def _device(whole: Reckoned, asset: int) -> str:
    machine = whole.given.machines[asset]
    return machine.name or machine.number


def _uncovered(one: Uncovered, whole: Reckoned) -> dict[str, Any]:
    reasons = [{"licence": name, "reason": reason} for name, reason in one.reasons]
    if one.use.key in whole.given.disputed:
        reasons = [{"licence": "", "reason": "disputed, so it counts as unlicensed"}]
    return {
        "asset": one.use.device,
        "name": _device(whole, one.use.device),
        "person": one.use.person,
        "product": whole.given.names[one.use.product],
        "release": one.use.release,
        "since": one.use.since.isoformat(),
        "reasons": reasons or [{"licence": "", "reason": "no licence names this product"}],
    }


def _departments(one: Balance, whole: Reckoned) -> list[dict[str, Any]]:
    count: Counter[str] = Counter()
    lacking: Counter[str] = Counter(
        whole.given.machines[u.use.device].department or "none known" for u in one.uncovered
    )
    for use in whole.given.uses:
        if use.product in one.products and whole.held.licence_of.get(use.key) in {li.key for li in one.licences}:
            count[whole.given.machines[use.device].department or "none known"] += 1
    names = sorted({*count, *lacking}, key=lambda n: -(count[n] + lacking[n]))
    return [{"name": n, "covered": count[n], "uncovered": lacking[n]} for n in names]


def idle(one: Balance, whole: Reckoned) -> list[Idle]:
    """Return the uses of a balance that could be given up: their holder has left."""
    left = _left(whole)
    mine = {li.key for li in one.licences}
    stray = {u.use.key for u in one.uncovered}
    return [
        Idle(use, f"{use.person} has left")
        for use in whole.given.uses
        if use.product in one.products
        and use.person in left
        and (use.key in stray or whole.held.licence_of.get(use.key) in mine)
    ]


def _left(whole: Reckoned) -> set[str]:
    return {name for name, known in roster().items() if known.left_at is not None}


def _cure(one: Cure, balance: Balance, whole: Reckoned) -> dict[str, Any]:
    return {
        "free": [
            {"asset": i.use.device, "name": _device(whole, i.use.device), "why": i.why, "person": i.use.person}
            for i in one.free[:100]
        ],
        "freed": one.units_freed,
        "buy": one.buy,
        "packs": one.buy // balance.pack,
        "price": money(balance.price * balance.pack, whole) if balance.price else None,
        "cost": money(one.cost, whole),
        "decides": one.decides,
    }


def warnings_of(one: Balance, whole: Reckoned) -> list[str]:
    """Return in words what is wrong, or about to be, with the licences of a balance."""
    day, out = whole.given.day, []
    for licence in one.licences:
        held = whole.given.held[licence.key]
        if held.ends and held.ends < day:
            out.append(f"The term of “{held.name}” was over on {held.ends.isoformat()}.")
        elif held.ends and (held.ends - day).days <= 60:
            spare = f"; {one.spare} {one.unit} are spare" if one.spare else ""
            out.append(f"“{held.name}” ends on {held.ends.isoformat()}, in {(held.ends - day).days} days{spare}.")
        later = [p for p in whole.given.purchases.get(licence.key, ()) if p.day > day]
        if later:
            out.append(f"“{held.name}”: {len(later)} purchases are dated after this day and do not count.")
        for gone in whole.given.unknown.get(licence.key, ()):
            out.append(f"“{held.name}” covers “{gone}”, which no device has and never had.")
    if people := sorted({i.use.person for i in idle(one, whole)}):
        out.append(f"Held by people who have left: {', '.join(people[:5])}{' …' if len(people) > 5 else ''}.")
    return out
