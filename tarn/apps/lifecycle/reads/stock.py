"""What lies in stock, model by model, and what is still to come of orders."""

from collections import defaultdict
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.acquired import acquired
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.lifecycle.reads.orders import orders
from tarn.apps.lifecycle.results import ComingLine, StockGroup, StockOut
from tarn.core.filters.tree import quote as word

_FIELDS = ["kind", "manufacturer", "model", "place", "warranty.end"]


def stock(at: int | None) -> StockOut:
    """Return what is in stock as of a moment by kind, maker, model and place, the most first; and what is to come."""
    asked = question('state = "in stock"', at)
    bought = acquired(asked)
    groups: dict[tuple[str, ...], list[dict[str, Any]]] = defaultdict(list)
    for row in rows_of("asset", _FIELDS, asked, "", []):
        groups[tuple(row[n] or "" for n in _FIELDS[:4])].append(row)
    lying = [_group(names, rows, bought) for names, rows in groups.items()]
    coming: list[ComingLine] = [
        {
            "order": order["number"],
            "supplier": order["supplier"],
            "expected": order["expected"],
            "late": order["late"],
            "kind": line["kind"],
            "manufacturer": line["manufacturer"],
            "model": line["model"],
            "number": line["quantity"] - line["received"],
        }
        for order in orders()
        for line in order["lines"]
        if order["open"] and line["quantity"] > line["received"]
    ]
    lying.sort(key=lambda g: (-g["number"], g["kind"], g["model"]))
    return {"total": sum(g["number"] for g in lying), "lying": lying, "coming": coming}


def _group(names: tuple[str, ...], rows: list[dict[str, Any]], bought: dict[int, dict[str, Any]]) -> StockGroup:
    asked = ['state = "in stock"']
    for name, value in zip(_FIELDS, names, strict=False):
        asked.append(f"{name} = {word(value)}" if value else f"{name} = none")
    ends = sorted(r["warranty.end"][:10] for r in rows if r["warranty.end"])
    return {
        "kind": names[0],
        "manufacturer": names[1],
        "model": names[2],
        "place": names[3],
        "number": len(rows),
        "bought": sum(bought.get(r["id"], {}).get("bought_at") is not None for r in rows),
        "warranty": ends[0] if ends else None,
        "filter": " and ".join(asked),
    }
