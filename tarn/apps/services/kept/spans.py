"""What was found so from when to when, as the tables of this room keep it."""

from collections.abc import Sequence
from typing import TypeVar

from django.db import transaction

from tarn.apps.services.models import CarriedSpan, MemberSpan

_Span = TypeVar("_Span", MemberSpan, CarriedSpan)


def turn_over(table: type[_Span], gone: Sequence[_Span], came: Sequence[_Span], now: int) -> int:
    """End the spans of what has gone and begin those of what has come; return how many that is."""
    with transaction.atomic():
        for span in gone:
            span.valid_to = now
        table.objects.bulk_update(gone, ["valid_to"])
        table.objects.bulk_create(came)
    return len(gone) + len(came)
