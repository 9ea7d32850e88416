"""Intake over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router

from tarn.apps.discovery.intake import shown as reads
from tarn.apps.discovery.intake.results import IntakeOut, WaitingOut

router = Router(tags=["discovery"])


@router.get("/intake/count", response=WaitingOut)
def intake_count(request: HttpRequest) -> WaitingOut:
    """Return how much waits at intake, for whoever only wants to know whether anything does."""
    return {"waiting": reads.intake_count()}


@router.get("/intake", response=IntakeOut)
def intake(request: HttpRequest) -> IntakeOut:
    """Return found devices that wait for a decision, in groups, and undecided identities."""
    return reads.intake()
