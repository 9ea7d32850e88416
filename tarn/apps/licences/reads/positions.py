"""Positions of a day, told with the working."""

from typing import Any

from tarn.apps.estate.asking.ask import assets_in_sight
from tarn.apps.licences.reads.judging import by_department, idle_of, shares, warnings_of
from tarn.apps.licences.reads.reckoning import Reckoned, device_name, money, name_of, reckoned
from tarn.apps.licences.results import (
    BalanceOut,
    CureOut,
    LeftOutUse,
    NotCovered,
    PositionsOut,
    ShareOut,
    UncoveredOut,
    WhyOut,
)
from tarn.core.licensing.cures import Cure, cures
from tarn.core.licensing.position import Balance, Uncovered


def rows(at: int | None) -> PositionsOut:
    """Return all balances as they are listed, the costliest to cure first, with the sums over them.

    Rights are the company's, so in a branch a balance stays whole: those of what is used there, and how much is there.
    """
    whole, here = reckoned(at), assets_in_sight(at)
    told = [(balance, _row(balance, whole)) for balance in whole.balances]
    if here is not None:
        for one, row in told:
            row["here"] = _within(one, here, whole)
        told = [(one, row) for one, row in told if row["here"] and row["here"]["uses"]]
    told.sort(key=lambda r: (not r[0].short, -(_cost(r[0]) or 0), -r[0].short, r[1]["name"].casefold()))
    soon = [
        licence
        for licence in whole.given.held.values()
        if licence.ends and 0 <= (licence.ends - whole.given.day).days <= 60
    ]
    return {
        "day": whole.given.day.isoformat(),
        "currency": whole.currency,
        "balances": [row for _, row in told],
        "cure": money(sum(_cost(one) or 0 for one, _ in told), whole),
        "uncosted": sum(1 for one, _ in told if one.short and one.cure is None),
        "spare_value": money(sum(one.spare * one.price for one, _ in told), whole),
        "ending": len(soon),
    }


def _cost(balance: Balance) -> int | None:
    """Return what curing a balance costs, in minor units; None where no price is known."""
    return balance.cure if balance.short else 0


def for_report(at: int | None) -> list[dict[str, Any]]:
    """Return balances as rows of a report; money as numbers of the company's currency."""
    positions = rows(at)
    out = []
    for row in positions["balances"]:
        cure = float(row["cure"]) if row["cure"] else None
        spare = float(row["spare_value"]) if row["spare_value"] else None
        out.append({**row, "cure": cure, "spare_value": spare, "currency": positions["currency"]})
    return out


def _within(balance: Balance, here: frozenset[int], whole: Reckoned) -> ShareOut:
    told = {s["name"]: s for s in shares(balance, lambda use: "here" if use.device in here else "", whole)}
    return told.get("here", {"name": "here", "covered": 0, "uncovered": 0, "uses": 0})


def _row(balance: Balance, whole: Reckoned) -> BalanceOut:
    spare = balance.spare * balance.price
    return {
        "key": balance.key,
        "name": name_of(balance, whole.given.names),
        "products": sorted(whole.given.names[p] for p in balance.products),
        "organisation": balance.organisation,
        "metric": balance.metric,
        "unit": balance.unit,
        "pack": balance.pack,
        "needed": balance.needed,
        "entitled": balance.entitled,
        "assigned": balance.assigned,
        "short": balance.short,
        "spare": balance.spare,
        "installations": balance.installations,
        "licences": [{"id": li.key, "name": li.name} for li in balance.licences],
        "cure": money(balance.cure, whole) if balance.short else None,
        "spare_value": money(spare, whole) if spare else None,
        "here": None,
    }


def why(key: str, at: int | None) -> WhyOut | None:
    """Return one balance with its working, cures and what is not covered; None where there is no such balance."""
    whole = reckoned(at)
    balance = next((b for b in whole.balances if b.key == key), None)
    if balance is None:
        return None
    left_out: list[LeftOutUse] = [
        {"asset": asset, "name": device_name(whole, asset), "reason": reason, "product": whole.given.names[product]}
        for product in sorted(balance.products)
        for asset, reason in whole.given.aside.get(product, ())
    ]
    return {
        **_row(balance, whole),
        "working": [{"sign": s.sign, "figure": s.figure, "text": s.text, "note": s.note} for s in balance.working],
        "cures": [_cure(c, balance, whole) for c in cures(balance, idle_of(balance, whole))],
        "uncovered": [_uncovered(u, whole) for u in balance.uncovered[:200]],
        "uncovered_all": len(balance.uncovered),
        "left_out": left_out[:200],
        "departments": by_department(balance, whole),
        "warnings": [w.text for w in warnings_of(balance, whole)],
        "spare_idle": len({i.use.key for i in idle_of(balance, whole)}),
    }


def _uncovered(uncovered: Uncovered, whole: Reckoned) -> UncoveredOut:
    reasons: list[NotCovered] = [{"licence": name, "reason": reason} for name, reason in uncovered.reasons]
    if uncovered.use.key in whole.given.disputed:
        reasons = [{"licence": "", "reason": "disputed, so it counts as unlicensed"}]
    return {
        "asset": uncovered.use.device,
        "name": device_name(whole, uncovered.use.device),
        "person": uncovered.use.person,
        "product": whole.given.names[uncovered.use.product],
        "release": uncovered.use.release,
        "since": uncovered.use.since.isoformat(),
        "reasons": reasons or [{"licence": "", "reason": "no licence names this product"}],
    }


def _cure(cure: Cure, balance: Balance, whole: Reckoned) -> CureOut:
    return {
        "free": [
            {"asset": i.use.device, "name": device_name(whole, i.use.device), "why": i.why, "person": i.use.person}
            for i in cure.free[:100]
        ],
        "freed": cure.units_freed,
        "buy": cure.buy,
        "packs": cure.buy // balance.pack,
        "price": money(balance.price * balance.pack, whole) if balance.price else None,
        "cost": money(cure.cost, whole) if balance.cure is not None else None,
        "anew": min(cure.buy, balance.short_for_right),
        "decides": cure.decides,
    }
