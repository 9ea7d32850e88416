"""Stock-taking over HTTP."""

from typing import Annotated

from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Status
from ninja.errors import HttpError

from tarn.apps.counts import change, noting
from tarn.apps.counts.inputs import CountIn, PlanIn, SettleIn, SeveralMetIn
from tarn.apps.counts.models import Count, Met
from tarn.apps.counts.reads import shown
from tarn.apps.counts.results import PlanOut, TakingLines, TakingMet, TakingOut, TakingPack, TakingWhole
from tarn.apps.people.answers import or_404
from tarn.apps.people.scope import visible
from tarn.core.counting import STATES

router = Router(tags=["counts"])


@router.get("/counts", response=list[TakingOut])
def all_counts(request: HttpRequest) -> list[TakingOut]:
    """Return the counts, the latest first."""
    return shown.counts()


@router.post("/counts/plan", response=PlanOut)
def plan(request: HttpRequest, data: PlanIn) -> PlanOut:
    """Return how many devices a count would expect, and where."""
    return change.plan(request.user, data)


@router.post("/counts", response=TakingWhole)
def open_count(request: HttpRequest, data: CountIn) -> TakingWhole:
    """Open a count: what it expects is kept as it is now."""
    return shown.whole(change.open_count(request.user, data).pk)


@router.get("/counts/{int:number}", response=TakingWhole)
def count(request: HttpRequest, number: int) -> TakingWhole:
    """Return a count with its places."""
    return or_404(Count, shown.whole, number, "count")


@router.get("/counts/{int:number}/lines", response=TakingLines)
def lines(
    request: HttpRequest,
    number: int,
    state: str = "",
    place: str | None = None,
    sought: Annotated[str, Query(max_length=200)] = "",
    begin: Annotated[int, Query(ge=0, le=10**6)] = 0,
    limit: Annotated[int, Query(ge=1, le=shown.MOST_LINES)] = 100,
) -> TakingLines:
    """Return lines of a count: of a state, of those expected at a place, that hold a word."""
    if state and state not in STATES:
        raise HttpError(422, f"“{state}” is nothing a count says; one of: {', '.join(STATES)}.")
    return or_404(Count, lambda n: shown.rows(n, state, place, sought, begin, limit), number, "count")


@router.get("/counts/{int:number}/pack", response=TakingPack)
def pack(request: HttpRequest, number: int) -> TakingPack:
    """Return what a phone takes along, to count where there is no signal."""
    return or_404(Count, shown.pack, number, "count")


@router.post("/counts/{int:number}/met", response=list[TakingMet])
def note(request: HttpRequest, number: int, data: SeveralMetIn) -> list[TakingMet]:
    """Note what was met; each for itself, and once however often it is sent."""
    return or_404(Count, lambda n: noting.note(request.user, n, data.met, data.sent_at), number, "count")


@router.delete("/counts/{int:number}/met/{int:met}", response={204: None})
def take_back(request: HttpRequest, number: int, met: int) -> Status[None]:
    """Take back that something was met."""
    or_404(Count, lambda n: or_404(Met, lambda m: noting.take_back(request.user, n, m), met, "line"), number, "count")
    return Status(204, None)


@router.post("/counts/{int:number}/settle", response=TakingWhole)
def settle(request: HttpRequest, number: int, data: SettleIn) -> TakingWhole:
    """Do something about lines of a count: move, assign, report, adopt, enter or explain."""
    or_404(Count, lambda n: change.settle(request.user, n, data), number, "count")
    return shown.whole(number)


@router.post("/counts/{int:number}/close", response=TakingWhole)
def close(request: HttpRequest, number: int) -> TakingWhole:
    """Close a count: what was met becomes evidence, and the protocol is signed."""
    or_404(Count, lambda n: change.close(request.user, n), number, "count")
    return shown.whole(number)


@router.post("/counts/{int:number}/give-up", response=TakingWhole)
def give_up(request: HttpRequest, number: int) -> TakingWhole:
    """Give a count up."""
    or_404(Count, lambda n: change.give_up(request.user, n), number, "count")
    return shown.whole(number)


@router.get("/counts/{int:number}/protocol", response={200: None})
def protocol(request: HttpRequest, number: int) -> HttpResponse:
    """Return the signed protocol of a closed count."""
    held = or_404(Count, lambda n: visible(Count).get(pk=n), number, "count")
    if held.state != "closed":
        raise HttpError(404, f"{held.number} is {held.state}: there is no protocol of it.")
    named = {"Content-Disposition": f'attachment; filename="{held.number}.zip"'}
    return HttpResponse(bytes(held.protocol), content_type="application/zip", headers=named)
