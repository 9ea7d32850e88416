"""What somebody types of how an asset was acquired: price, day, supplier, order, cost centre, warranty."""

from datetime import date
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.register.acquire import type_acquisition
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.lifecycle.inputs import AcquisitionIn
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.days import noon


def _noon(day: date | None) -> int | None:
    return None if day is None else noon(day)


def set_acquisition(user: Any, asset: int, data: AcquisitionIn) -> int:
    """Say how an asset was acquired; what is left empty is taken back. Returns the audit entry. Raises Invalid."""
    require(user, "plan")
    number = numbers_of([asset]).get(asset) if visible_among([asset]) else None
    if number is None:
        raise Invalid("asset", f"There is no asset {asset}.")
    bought, begins, ends = data.bought, data.warranty_from, data.warranty_end
    if begins and ends and ends < begins:
        raise Invalid("warranty_end", "The warranty ends before it begins.")
    facts: dict[str, Any] = {
        "bought_at": _noon(bought),
        "warranty_from": _noon(begins),
        "warranty_end": _noon(ends),
        **{n: getattr(data, n).strip() or None for n in ("supplier", "order", "cost_centre")},
        "price": None,
        "currency": None,
    }
    if data.price.strip():
        facts["price"], facts["currency"] = read_amount(data.price, data.currency, bought, field="price")
    with transaction.atomic():
        before = type_acquisition(user.username, asset, number, facts)
        undo = {"action": "acquisition", "asset": asset, "as": user.username, "facts": before}
        return int(record(user, "typed the acquisition of", number, undo=undo).pk)


@undoer("acquisition", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    number = numbers_of([inverse["asset"]])[inverse["asset"]]
    before = type_acquisition(inverse["as"], inverse["asset"], number, inverse["facts"])
    return {**inverse, "facts": before}
