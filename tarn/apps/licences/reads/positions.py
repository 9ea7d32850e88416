"""Positions of a day, told with the working."""

from typing import Any

from tarn.apps.estate.asking.ask import assets_in_sight
from tarn.apps.licences.reads.judging import by_department, idle_of, shares, warnings_of
from tarn.apps.licences.reads.reckoning import Reckoned, device_name, money, name_of, reckoned
from tarn.core.licensing.cures import Cure, cures
from tarn.core.licensing.position import Balance, Uncovered


def rows(at: int | None) -> dict[str, Any]:
    """Return all balances as they are listed, the costliest to cure first, with the sums over them.

    Rights are the company's, so in a branch a balance stays whole: those of what is used there, and how much is there.
    """
    whole, here = reckoned(at), assets_in_sight(at)
    out = [_row(one, whole) for one in whole.balances]
    if here is not None:
        there = [_within(one, here, whole) for one in whole.balances]
        out = [{**row, "here": share} for row, share in zip(out, there, strict=True) if share["uses"]]
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


def _within(one: Balance, here: frozenset[int], whole: Reckoned) -> dict[str, Any]:
    told = {s["name"]: s for s in shares(one, lambda use: "here" if use.device in here else "", whole)}
    return told.get("here", {"name": "here", "covered": 0, "uncovered": 0, "uses": 0})


def _row(one: Balance, whole: Reckoned) -> dict[str, Any]:
    spare = one.spare * one.price
    return {
        "key": one.key,
        "name": name_of(one, whole.given.names),
        "products": sorted(whole.given.names[p] for p in one.products),
        "organisation": one.organisation,
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
        "here": None,
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
        "cures": [_cure(c, one, whole) for c in cures(one, idle_of(one, whole))],
        "uncovered": [_uncovered(u, whole) for u in one.uncovered[:200]],
        "uncovered_all": len(one.uncovered),
        "left_out": [
            {"asset": asset, "name": device_name(whole, asset), "reason": reason, "product": whole.given.names[product]}
            for product in sorted(one.products)
            for asset, reason in whole.given.aside.get(product, ())
        ][:200],
        "departments": by_department(one, whole),
        "warnings": [w.text for w in warnings_of(one, whole)],
        "spare_idle": len({i.use.key for i in idle_of(one, whole)}),
    }


def _uncovered(one: Uncovered, whole: Reckoned) -> dict[str, Any]:
    reasons = [{"licence": name, "reason": reason} for name, reason in one.reasons]
    if one.use.key in whole.given.disputed:
        reasons = [{"licence": "", "reason": "disputed, so it counts as unlicensed"}]
    return {
        "asset": one.use.device,
        "name": device_name(whole, one.use.device),
        "person": one.use.person,
        "product": whole.given.names[one.use.product],
        "release": one.use.release,
        "since": one.use.since.isoformat(),
        "reasons": reasons or [{"licence": "", "reason": "no licence names this product"}],
    }


def _cure(one: Cure, balance: Balance, whole: Reckoned) -> dict[str, Any]:
    return {
        "free": [
            {"asset": i.use.device, "name": device_name(whole, i.use.device), "why": i.why, "person": i.use.person}
            for i in one.free[:100]
        ],
        "freed": one.units_freed,
        "buy": one.buy,
        "packs": one.buy // balance.pack,
        "price": money(balance.price * balance.pack, whole) if balance.price else None,
        "cost": money(one.cost, whole) if balance.cure is not None else None,
        "anew": min(one.buy, balance.short_for_right),
        "decides": one.decides,
    }
