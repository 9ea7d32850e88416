"""Orders with how much of each line has come."""

from collections import defaultdict

from tarn.apps.lifecycle.models import Order, OrderLine, Receipt
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.lifecycle.results import OrderLineOut, OrderOut
from tarn.apps.people.scope import visible
from tarn.core.finance.money import from_minor


def orders() -> list[OrderOut]:
    """Return all orders, those of which something is still to come first, the latest first."""
    lines: dict[int, list[OrderLine]] = defaultdict(list)
    for line in visible(OrderLine):
        lines[line.order_id].append(line)
    received: dict[int, list[Receipt]] = defaultdict(list)
    for receipt in visible(Receipt):
        received[receipt.line_id].append(receipt)
    out = [_row(order, lines[order.pk], received) for order in visible(Order)]
    return sorted(out, key=lambda r: not r["open"])


def _row(order: Order, lines: list[OrderLine], received: dict[int, list[Receipt]]) -> OrderOut:
    order_lines = [_line(line, received[line.pk]) for line in lines]
    open_ = any(line["received"] < line["quantity"] for line in order_lines)
    return {
        "id": order.pk,
        "number": order.number,
        "supplier": order.supplier,
        "day": order.day.isoformat(),
        "expected": order.expected.isoformat() if order.expected else None,
        "open": open_,
        "late": bool(open_ and order.expected and order.expected < today()),
        "note": order.note,
        "lines": order_lines,
    }


def _line(line: OrderLine, received: list[Receipt]) -> OrderLineOut:
    return {
        "id": line.pk,
        "kind": line.kind,
        "manufacturer": line.manufacturer,
        "model": line.model,
        "quantity": line.quantity,
        "received": len(received),
        "price": str(from_minor(line.price, line.currency)),
        "currency": line.currency,
        "warranty": line.warranty,
        "cost_centre": line.cost_centre,
        "last": received[-1].day.isoformat() if received else None,
    }
