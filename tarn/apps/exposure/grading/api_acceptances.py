"""What is accepted, over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router, Status

from tarn.apps.exposure.grading import acceptances as actions
from tarn.apps.exposure.grading import accepted as reads
from tarn.apps.exposure.inputs import AcceptanceIn
from tarn.apps.exposure.models import Acceptance
from tarn.apps.exposure.results import AcceptanceOut
from tarn.apps.people.answers import or_404

router = Router(tags=["exposure"])


@router.get("/exposure/accepted", response=list[AcceptanceOut])
def accepted(request: HttpRequest) -> list[AcceptanceOut]:
    """Return what is or was accepted, the latest first."""
    return reads.listed()


@router.post("/exposure/accepted", response=list[AcceptanceOut])
def accept(request: HttpRequest, data: AcceptanceIn) -> list[AcceptanceOut]:
    """Accept what is open to an advisory until a day."""
    actions.accept(request.user, data)
    return reads.listed()


@router.post("/exposure/accepted/{number}/approval", response=list[AcceptanceOut])
def approve(request: HttpRequest, number: int) -> list[AcceptanceOut]:
    """Let it count, as a second person."""
    or_404(Acceptance, lambda n: actions.approve(request.user, n), number, "acceptance that waits")
    return reads.listed()


@router.delete("/exposure/accepted/{number}", response={204: None})
def take_back(request: HttpRequest, number: int) -> Status[None]:
    """Take it back."""
    or_404(Acceptance, lambda n: actions.take_back(request.user, n), number, "acceptance")
    return Status(204, None)
