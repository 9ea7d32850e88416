"""Filters over rows in hand: the same language and the same answers as over tables, for rows that are reckoned."""

from collections.abc import Callable, Mapping
from datetime import date, datetime
from operator import eq, ge, gt, le, lt
from typing import Any

from tarn.core.fields import Field
from tarn.core.filters.check import Checked, Cond, Context, Either, Every, Without, check_among
from tarn.core.filters.parse import parse
from tarn.core.filters.values import day_start
from tarn.core.patterns import pattern
from tarn.core.text import fold
from tarn.core.versions import version_key

_COMPARED: dict[str, Callable[[Any, Any], bool]] = {"=": eq, "<": lt, "<=": le, ">": gt, ">=": ge}


def compares(cond: Cond, value: Any) -> bool:
    """Return whether a condition holds of a value: a moment in seconds, a version or text as it is written.

    What has no value is neither more nor less than anything.
    """
    if value in (None, ""):
        return False
    match cond.op:
        case "present":
            return True
        case "contains":
            return cond.value in fold(str(value))
        case "matches":
            return pattern(cond.value).search(str(value)) is not None
    match cond.field.type:
        case "version":
            value = version_key(str(value))
        case "text" | "choice":
            value = fold(str(value))
    if cond.op == "between":
        low, high = cond.value
        return bool(low <= value < high if cond.field.type == "moment" else low <= value <= high)
    return _COMPARED[cond.op](value, cond.value)


def holds(checked: Checked, of: Callable[[Cond], bool]) -> bool:
    """Return whether a checked condition on one thing holds; `of`: whether a single comparison does. Raises TypeError
    for what asks for more than the thing itself."""
    match checked:
        case Every(items):
            return all(holds(i, of) for i in items)
        case Either(items):
            return any(holds(i, of) for i in items)
        case Without(item):
            return not holds(item, of)
        case Cond():
            return of(checked)
    raise TypeError(checked)


def narrowing(
    text: str, columns: Mapping[str, tuple[str, str]], what: str, context: Context
) -> Callable[[dict[str, Any]], bool]:
    """Return whether a condition holds of a row; `columns`: label and type by name, `what` a row is called.

    Moments stand in rows as ISO 8601 (`2026-08-03T10:00:00Z`), days as `2026-08-03`. Raises FilterError.
    """
    known = {
        name: Field(name, "moment" if kind == "day" else "number" if kind == "code" else kind, label, "")
        for name, (label, kind) in columns.items()
        if kind in ("text", "number", "code", "moment", "day", "yes/no", "version")
    }
    checked = check_among(parse(text), context, known, what)

    def seconds(value: str) -> int:
        if len(value) == 10:
            return day_start(date.fromisoformat(value), context.clock.zone)
        return int(datetime.fromisoformat(value).timestamp())

    def told(cond: Cond, row: dict[str, Any]) -> bool:
        value = row.get(cond.field.name)
        return compares(cond, seconds(str(value)) if value and cond.field.type == "moment" else value)

    return lambda row: holds(checked, lambda cond: told(cond, row))
