"""Orders: entered, received piece by piece, dropped while nothing of them was received."""

import time
from datetime import date
from typing import Any

from dateutil.relativedelta import relativedelta
from django.db import transaction

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.register.acquire import acquire
from tarn.apps.estate.register.identifiers import by_serial
from tarn.apps.lifecycle.inputs import OrderLineIn, PurchaseOrderIn
from tarn.apps.lifecycle.models import Order, OrderLine, Receipt
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.days import noon
from tarn.core.licensing.keys import split_keys
from tarn.core.text import fold

MOST_LINES, MOST_AT_ONCE = 50, 2_000


def make_order(user: Any, data: PurchaseOrderIn) -> Order:
    """Enter an order with its lines. Raises Invalid."""
    require(user, "plan")
    number, supplier = data.number.strip(), data.supplier.strip()
    if not number:
        raise Invalid("number", "An order needs its number.")
    if not supplier:
        raise Invalid("supplier", "Say of whom it was ordered.")
    day = data.day or today()
    if data.expected and data.expected < day:
        raise Invalid("expected", "It is expected before it was ordered.")
    lines = [_line(n, told, day) for n, told in enumerate(data.lines, start=1)]
    if not lines:
        raise Invalid("lines", "An order needs at least one line.")
    if len(lines) > MOST_LINES:
        raise Invalid("lines", f"{len(lines)} lines are too many: at most {MOST_LINES}.")
    with once("number", f"There is an order “{number}” already."):
        made = Order.objects.create(
            number=number[:80],
            supplier=supplier[:200],
            day=day,
            expected=data.expected,
            note=data.note.strip(),
            made_by=user.username,
            made_at=int(time.time()),
            organisation=owner(data.organisation),
        )
        for line in lines:
            OrderLine.objects.create(order=made, **line)
        record(user, "entered an order", made.number, detail={"supplier": supplier, "lines": len(lines)})
    return made


def _line(number: int, told: OrderLineIn, day: date) -> dict[str, Any]:
    where = f"Line {number}: "
    kind, quantity = told.kind.strip(), told.quantity
    if not kind:
        raise Invalid("lines", f"{where}say what kind of thing it is.")
    if not 1 <= quantity <= MOST_AT_ONCE:
        raise Invalid("lines", f"{where}a quantity is 1 to {MOST_AT_ONCE}, not {quantity}.")
    warranty = told.warranty
    if warranty < 0:
        raise Invalid("lines", f"{where}a warranty does not last {warranty} months.")
    try:
        price, currency = read_amount(told.price, told.currency, day, field="lines", currency_field="lines")
    except Invalid as wrong:
        raise Invalid("lines", f"{where}{wrong}") from None
    words = {n: getattr(told, n).strip() for n in ("manufacturer", "model", "cost_centre")}
    return {"kind": kind, "quantity": quantity, "price": price, "currency": currency, "warranty": warranty, **words}


def receive(user: Any, number: int, text: str, day: date, place: str = "", known: bool = False) -> list[int]:
    """Receive pieces of a line by their serial numbers, pasted or scanned; return the assets they are.

    All or none. The pieces are there, and the warranty begins, from the day on. A serial that is known already is that
    asset, once somebody said so (`known`). Raises Invalid, OrderLine.DoesNotExist.
    """
    require(user, "plan")
    line = visible(OrderLine).select_related("order").get(pk=number)
    serials = split_keys(text)
    if not serials:
        raise Invalid("serials", "There is no serial number in this.")
    folded = [s.casefold() for s in serials]
    if twice := next((s for s in folded if folded.count(s) > 1), None):
        raise Invalid("serials", f"{twice.upper()} is there twice. Nothing was received.")
    held = {r.serial.casefold(): r for r in visible(Receipt).select_related("line__order")}
    if again := next((held[s] for s in folded if s in held), None):
        said = f"{again.serial} was received with {again.line.order.number} on {again.day.isoformat()}."
        raise Invalid("serials", f"{said} Nothing was received.")
    left = line.quantity - line.receipt_set.count()
    if len(serials) > left:
        raise Invalid("serials", f"{len(serials)} are more than the {left} of this line still to come.")
    if day < line.order.day:
        raise Invalid("day", f"The order is of {line.order.day.isoformat()}; nothing of it came before.")
    if day > today():
        raise Invalid("day", "This day is still to come.")
    there = by_serial(serials)
    asked = [there[s] for s in (fold(s) for s in serials) if s in there]
    if asked and not known:
        seen = visible_among(one["asset"] for one in asked)
        first = next((one for one in asked if one["asset"] in seen), None)
        who = f", the first {first['name']}{', ' + first['model'] if first['model'] else ''}," if first else ""
        raise Invalid(
            "known",
            f"{len(asked)} of these{who} {'is' if len(asked) == 1 else 'are'} known already: the price, model and "
            "warranty of this order would be taken for them. Say that they are these devices, or take them out.",
        )
    told = {n: getattr(line, n) for n in ("manufacturer", "model") if getattr(line, n)}
    decided = {"kind": line.kind, **({"place": place.strip()} if place.strip() else {})}
    with transaction.atomic():
        # What is received today is there from now on; what was, from that day on.
        at = noon(day) if day < today() else None
        assets = acquire(user, serials, told, _acquisition(line, day), decided, at)
        for serial, asset in zip(serials, assets, strict=True):
            Receipt.objects.create(line=line, serial=serial, asset=asset, day=day)
        record(user, "received", f"{len(serials)} of order {line.order.number}", detail={"serials": serials[:200]})
    return assets


def _acquisition(line: OrderLine, day: date) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "bought_at": noon(line.order.day),
        "supplier": line.order.supplier,
        "order": line.order.number,
        "price": line.price,
        "currency": line.currency,
    }
    if line.cost_centre:
        facts["cost_centre"] = line.cost_centre
    if line.warranty:
        last = day + relativedelta(months=line.warranty) - relativedelta(days=1)
        facts |= {"warranty_from": noon(day), "warranty_end": noon(last)}
    return facts


def drop_order(user: Any, number: int) -> None:
    """Drop an order of which nothing was received. Raises Invalid, Order.DoesNotExist."""
    require(user, "plan")
    order = visible(Order).get(pk=number)
    if visible(Receipt).filter(line__order=order).exists():
        raise Invalid("number", f"Pieces of {order.number} were received; it stays with them.")
    with transaction.atomic():
        order.delete()
        record(user, "dropped an order", order.number)
