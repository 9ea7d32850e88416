"""The cross-check over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router

from tarn.apps.discovery.crosscheck.results import UnseenOut
from tarn.apps.discovery.crosscheck.why_unseen import unseen
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.register import crosscheck as reads
from tarn.apps.estate.register.results import CrossCheckOut, DisagreementOut

router = Router(tags=["cross-check"])


@router.get("/crosscheck", response=CrossCheckOut)
def crosscheck(request: HttpRequest, filter: str = "", as_of: str = "") -> CrossCheckOut:
    """Return who sees what of a selection, and how many nobody has seen."""
    return reads.crosscheck(question(filter, read_dial(as_of), standing=None))


@router.get("/crosscheck/devices", response=list[UnseenOut])
def devices(request: HttpRequest, filter: str = "", as_of: str = "", mask: int | None = None) -> list[UnseenOut]:
    """Return devices of one combination of sources, or those that some source should see and does not; and why."""
    return unseen(question(filter, read_dial(as_of), standing=None), mask)


@router.get("/crosscheck/disagreements", response=list[DisagreementOut])
def disagreements(request: HttpRequest, filter: str = "") -> list[DisagreementOut]:
    """Return where two sources say different things, by field and pair."""
    return reads.disagreements(question(filter, None, standing=None))
