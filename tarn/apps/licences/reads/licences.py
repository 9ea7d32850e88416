"""Licences as they are listed and opened."""

from typing import Any

from tarn.apps.licences.models import Licence
from tarn.apps.licences.reads.reckoning import Reckoned, money, reckoned
from tarn.apps.licences.reads.terms import former
from tarn.apps.licences.results import LicenceOut, LicenceRow, MetricOut
from tarn.apps.money.reads.ledger import ledger
from tarn.core.finance.money import from_minor
from tarn.core.licensing.metrics import METRICS


def metrics() -> list[MetricOut]:
    """Return what licences may be counted by, each explained."""
    return [
        {"name": m.name, "unit": m.unit, "text": m.text, "reads": list(m.reads), "records": m.records}
        for m in METRICS.values()
    ]


def listed(at: int | None) -> list[LicenceRow]:
    """Return all licences with how much of each is owned and drawn on."""
    whole = reckoned(at)
    return [_row(licence, whole) for licence in whole.given.held.values()]


def _row(licence: Licence, whole: Reckoned) -> LicenceRow:
    core = next((li for li in whole.given.licences if li.key == licence.pk), None)
    owned = sum(p.quantity for p in whole.given.purchases.get(licence.pk, ()) if p.day <= whole.given.day)
    paid = sum(p.quantity * p.price for p in whole.given.purchases.get(licence.pk, ()) if p.day <= whole.given.day)
    return {
        "id": licence.pk,
        "name": licence.name,
        "publisher": licence.publisher,
        "metric": licence.metric,
        "unit": METRICS[licence.metric].unit,
        "products": licence.products,
        "quantity": None if licence.without_limit else max(0, owned),
        "used": whole.held.used(licence.pk),
        "price": money(core.price, whole) if core and core.price else None,
        "paid": paid,
        "starts": licence.starts.isoformat() if licence.starts else None,
        "ends": licence.ends.isoformat() if licence.ends else None,
        "maintained_until": licence.maintained_until.isoformat() if licence.maintained_until else None,
        "in_force": (licence.starts is None or licence.starts <= whole.given.day)
        and (licence.ends is None or whole.given.day <= licence.ends),
        "unknown": whole.given.unknown.get(licence.pk, []),
        "tags": licence.tags,
    }


def for_report(at: int | None) -> list[dict[str, Any]]:
    """Return licences as rows of a report; money as numbers of the company's currency."""
    own = ledger().currency
    return [
        {
            **row,
            "products": ", ".join(row["products"]),
            "tags": "; ".join(row["tags"]),
            "price": float(row["price"]) if row["price"] else None,
            "currency": own if row["price"] else "",
        }
        for row in listed(at)
    ]


def opened(number: int, at: int | None) -> LicenceOut | None:
    """Return one licence with its purchases, and who draws on it by which right; None where there is none."""
    whole = reckoned(at)
    licence = whole.given.held.get(number)
    if licence is None:
        return None
    known = whole.given.machines
    return {
        **_row(licence, whole),
        "release": licence.release,
        "downgrade": licence.downgrade,
        "second_device": licence.second_device,
        "guests": licence.guests,
        "per_host": licence.per_host,
        "per_processor": licence.per_processor,
        "pack": licence.pack,
        "formula": licence.formula,
        "departments": licence.departments,
        "without_limit": licence.without_limit,
        "keys_wanted": licence.keys_wanted,
        "transferable": licence.transferable,
        "edition": licence.edition,
        "shared": licence.shared,
        "cost_currency": licence.cost_currency,
        "cost_every": licence.cost_every,
        "note": licence.note,
        "extra": licence.extra,
        "version": licence.version,
        "records": METRICS[licence.metric].records,
        "cost": str(from_minor(licence.cost, licence.cost_currency)) if licence.cost_every else "",
        "purchases": [
            {
                "id": p.pk,
                "day": p.day.isoformat(),
                "quantity": p.quantity,
                "price": str(from_minor(p.price, p.currency)),
                "currency": p.currency,
                "order": p.order,
                "supplier": p.supplier,
                "counts": p.day <= whole.given.day,
            }
            for p in whole.given.purchases.get(number, ())
        ],
        "bearers": [
            {
                "units": b.units,
                "text": b.text,
                "uses": [
                    {
                        "asset": u.device,
                        "name": known[u.device].name or known[u.device].number,
                        "person": u.person,
                        "product": whole.given.names[u.product],
                        "release": u.release,
                        "right": whole.held.right_of[u.key],
                        "pinned": u.key in whole.given.pins,
                    }
                    for u in b.uses
                ],
            }
            for b in sorted(whole.held.bearers.get(number, ()), key=lambda b: -b.units)[:500]
        ],
        "former": former([number]).get(number, []),
        "bearers_all": len(whole.held.bearers.get(number, ())),
    }
