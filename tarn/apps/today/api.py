"""Today over HTTP."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.today import change
from tarn.apps.today.inputs import AsideIn
from tarn.apps.today.results import TodayOut
from tarn.apps.today.wanted import today

router = Router(tags=["today"])


@router.get("/today", response=TodayOut)
def what_wants_a_hand(request: HttpRequest) -> TodayOut:
    """Return what wants a hand, the most pressing first."""
    return today(request.user)


@router.post("/today/aside", response=TodayOut)
def put_aside(request: HttpRequest, data: AsideIn) -> TodayOut:
    """Put a line aside: until a day, until something new comes, or for good."""
    change.put_aside(request.user, data)
    return today(request.user)


@router.delete("/today/aside/{key}", response={204: None})
def take_up(request: HttpRequest, key: str) -> Any:
    """Show a line again."""
    try:
        change.take_up(request.user, key)
    except KeyError:
        raise HttpError(404, f"“{key}” is not put aside.") from None
    return Status(204, None)
