"""Corrections of software names over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router
from ninja.errors import HttpError

from tarn.apps.estate.models import NamingRule
from tarn.apps.estate.software import correct as actions
from tarn.apps.estate.software.corrections import corrections
from tarn.apps.estate.software.inputs import CorrectionIn
from tarn.apps.estate.software.results import ChangedOut, RenamedOut

router = Router(tags=["names"])


class CorrectionOut(CorrectionIn):
    id: int
    made_by: str
    made_at: int


@router.get("/names/corrections", response=list[CorrectionOut])
def listed(request: HttpRequest) -> Any:
    """Return the corrections, in the order they are carried out."""
    return corrections()


@router.post("/names/corrections/rehearse", response=list[RenamedOut])
def rehearse(request: HttpRequest, data: CorrectionIn) -> list[RenamedOut]:
    """Return which listed names a correction would change, and to what; nothing is changed."""
    return actions.rehearse(request.user, data)


@router.post("/names/corrections", response=ChangedOut)
def correct(request: HttpRequest, data: CorrectionIn) -> ChangedOut:
    """Add a correction; it applies to the past as well."""
    return {"changed": actions.correct(request.user, data)[1]}


@router.delete("/names/corrections/{number}", response=ChangedOut)
def drop(request: HttpRequest, number: int) -> ChangedOut:
    """Drop a correction; what it changed changes back."""
    try:
        return {"changed": actions.drop_correction(request.user, number)}
    except NamingRule.DoesNotExist:
        raise HttpError(404, f"There is no correction {number}.") from None
