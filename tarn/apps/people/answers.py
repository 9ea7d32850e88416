"""What calls of the API answer where a thing is not there, alike in every app."""

from collections.abc import Callable
from datetime import date
from typing import Annotated, TypeVar

from django.core.exceptions import ObjectDoesNotExist
from ninja.errors import HttpError
from pydantic import AfterValidator

from tarn.core.days import within_calendar

Found = TypeVar("Found")


def or_404(model: type, find: Callable[[int], Found], number: int, what: str = "") -> Found:
    """Return what `find` finds under a number; answer 404 where this model has none of it, `what` naming it.

    What is missing of any other model is a failure and stays one.
    """
    gone: type[ObjectDoesNotExist] = model.DoesNotExist  # type: ignore[attr-defined]
    try:
        return find(number)
    except gone:
        raise HttpError(404, f"There is no {what or model.__name__.lower()} {number}.") from None


Day = Annotated[date, AfterValidator(within_calendar)]
"""A day that is sent: one beyond the calendar of anything real is refused, at its own place."""
