"""Outposts over HTTP: thin; parse, call, shape. The first three calls are the outposts' own."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery.models import Outpost, Run, Trial
from tarn.apps.discovery.outposts import change as actions
from tarn.apps.discovery.outposts import shown as reads
from tarn.apps.discovery.outposts.results import JoinOut, OutpostOut
from tarn.apps.discovery.schemas import bearer, unpacked
from tarn.apps.people.roles import require
from tarn.collect.outpost.wire import Greeting, HandIn, TrialNews, read, write

router = Router(tags=["outposts"])


class OutpostIn(Schema):
    name: str
    networks: list[int] = []
    organisation: int | None = None


class NetworksIn(Schema):
    networks: list[int]


def _wire(document: Any) -> HttpResponse:
    return HttpResponse(write(document), content_type="application/json")


@router.post("/outposts/work", auth=None)
def work(request: HttpRequest) -> HttpResponse:
    """Give an outpost work; it tells how it fares."""
    outpost = actions.speaker(bearer(request))
    return _wire(actions.give_work(outpost, read(Greeting, unpacked(request))))


@router.post("/outposts/found", auth=None)
def found(request: HttpRequest) -> HttpResponse:
    """Take in what an outpost found."""
    outpost, handed = actions.speaker(bearer(request)), read(HandIn, unpacked(request))
    try:
        return _wire(actions.take_hand_in(outpost, handed))
    except Run.DoesNotExist:
        raise HttpError(404, f"There is no run {handed.run} any more: its sweep was dropped.") from None


@router.post("/outposts/trials/{number}", auth=None, response={204: None})
def trial_news(request: HttpRequest, number: int) -> Status[None]:
    """Take in the steps of a trial so far."""
    try:
        actions.take_trial_news(actions.speaker(bearer(request)), number, read(TrialNews, unpacked(request)))
    except Trial.DoesNotExist:
        raise HttpError(404, f"There is no trial {number} of this outpost.") from None
    return Status(204, None)


@router.get("/outposts", response=list[OutpostOut])
def outposts(request: HttpRequest) -> list[OutpostOut]:
    """Return the outposts, each with how it fares."""
    require(request.user, "look")
    return reads.outposts()


@router.post("/outposts", response=JoinOut)
def new_outpost(request: HttpRequest, data: OutpostIn) -> JoinOut:
    """Make an outpost; this answer is the only time its token is given."""
    made, token = actions.make_outpost(request.user, data.name, data.networks, data.organisation)
    url = f"{request.scheme}://{request.get_host()}"
    return {"id": made.pk, "name": made.name, "command": f"tarn outpost --join {url} --token {token}"}


@router.put("/outposts/{number}", response=OutpostOut)
def set_networks(request: HttpRequest, number: int, data: NetworksIn) -> OutpostOut:
    """Say which networks are reached through an outpost."""
    try:
        return reads.outpost(actions.set_networks(request.user, number, data.networks))
    except Outpost.DoesNotExist:
        raise HttpError(404, f"There is no outpost {number}.") from None


@router.delete("/outposts/{number}", response={204: None})
def withdraw(request: HttpRequest, number: int) -> Status[None]:
    """Withdraw an outpost; its token is refused from now on."""
    try:
        actions.withdraw_outpost(request.user, number)
    except Outpost.DoesNotExist:
        raise HttpError(404, f"There is no outpost {number} in force.") from None
    return Status(204, None)
