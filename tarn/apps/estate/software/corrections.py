"""Corrections of names, as they are listed."""

from typing import Any

from tarn.apps.estate.models import NamingRule


def corrections() -> list[dict[str, Any]]:
    """Return the corrections in the order they are carried out."""
    fields = ("id", "field", "match", "product", "publisher", "role", "note", "made_by", "made_at")
    return list(NamingRule.objects.order_by("pk").values(*fields))
