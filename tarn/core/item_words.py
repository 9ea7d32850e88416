"""Items of lists in words: how a value of an attribute is written where a line tells of it."""

from datetime import UTC, datetime
from typing import Any

from tarn.core.item import Attribute, Section
from tarn.core.text import quantity

_QUANTITIES: dict[str, tuple[str, int]] = {"bytes": ("B", 1000), "memory": ("B", 1024), "bits": ("b/s", 1000)}
LAST = 5
"""Characters of a secret that are shown to those who may not see it."""


def said(attribute: Attribute, value: Any) -> str:
    """Return a value in words: a quantity with its unit, a moment by its day, yes or no; "none" where there is none."""
    if value in (None, ""):
        return "none"
    if attribute.type in _QUANTITIES:
        return quantity(value, *_QUANTITIES[attribute.type])
    if attribute.type in ("moment", "day"):
        return datetime.fromtimestamp(value, UTC).date().isoformat()
    if attribute.type == "yes/no":
        return "yes" if value else "no"
    if attribute.type == "percent":
        return f"{value} %"
    return f"{value} {attribute.unit}" if attribute.unit else str(value)


def without_secrets(section: Section, entries: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Return items with all but the last characters of their secrets hidden, for whoever may not see them."""
    hidden = section.secrets
    return [{**e, **{n: "…" + str(e[n]).removeprefix("…")[-LAST:] for n in hidden}} for e in entries]
