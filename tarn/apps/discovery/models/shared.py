"""What tables that an organisation owns have in common."""

from typing import Any

from django.db import models
from django.db.models.functions import Coalesce


def owner() -> Any:
    return models.ForeignKey("people.Organisation", models.PROTECT, null=True, help_text="none: for all")


def once(name: str, *fields: str) -> models.UniqueConstraint:
    """Return the rule that each organisation has these only once, whatever others have."""
    return models.UniqueConstraint(Coalesce("organisation", 0), *fields, name=name)
