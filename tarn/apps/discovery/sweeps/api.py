"""Discovery over HTTP: thin; parse, call, shape."""

import asyncio
from collections.abc import AsyncIterator
from typing import Literal

from asgiref.sync import sync_to_async
from django.http import HttpRequest, StreamingHttpResponse
from ninja import Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.discovery.models import Run, Sweep
from tarn.apps.discovery.sweeps import change as sweep_actions
from tarn.apps.discovery.sweeps import runs as run_actions
from tarn.apps.discovery.sweeps import shown as reads
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.results import (
    AddressOut,
    OffersOut,
    RangesOut,
    RunOut,
    RunPage,
    SweepOut,
)
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.people.answers import or_404
from tarn.apps.people.roles import require
from tarn.apps.people.scope import Scope, limited_to, scope, visible

router = Router(tags=["discovery"])


class RangesIn(Schema):
    ranges: list[str]
    exclusions: list[str] = []
    organisation: int | None = None


class AddressIn(Schema):
    address: str
    only: str = ""


class Wish(Schema):
    wish: Literal["pause", "stop", "resume"]


class Again(Schema):
    addresses: list[str]


@router.get("/assets/{asset}/offers", response=OffersOut | None)
def offers(request: HttpRequest, asset: int) -> OffersOut | None:
    """Return the collectors an asset was offered to when a sweep last met it; null where none did."""
    if not numbers_of([asset]):
        raise HttpError(404, f"There is no asset {asset}.")
    return reads.offers(asset)


@router.post("/look-again", response=RunOut)
def look_again(request: HttpRequest, data: AddressIn) -> RunOut:
    """Have an address looked at again by the sweep that looked at it last."""
    require(request.user, "sweep")
    return reads.run_summary(run_actions.look_again(request.user, data.address, data.only))


@router.get("/sweeps", response=list[SweepOut])
def sweeps(request: HttpRequest) -> list[SweepOut]:
    """Return all sweeps."""
    return reads.sweeps()


@router.post("/sweeps/check", response=RangesOut)
def check_ranges(request: HttpRequest, data: RangesIn) -> RangesOut:
    """Say what ranges come to, without saving anything."""
    found = sweep_actions.check_ranges(data.ranges, data.exclusions, data.organisation)
    probe = found["probe"]
    return {"probe": len(probe), "left_out": len(found["left_out"]), "first": probe[0], "last": probe[-1]}


@router.post("/sweeps", response=SweepOut)
def new_sweep(request: HttpRequest, data: SweepIn) -> SweepOut:
    """Make a sweep."""
    return reads.sweep(sweep_actions.make_sweep(request.user, data))


@router.put("/sweeps/{number}", response=SweepOut)
def edit_sweep(request: HttpRequest, number: int, data: SweepIn) -> SweepOut:
    """Change a sweep."""
    return reads.sweep(or_404(Sweep, lambda n: sweep_actions.change_sweep(request.user, n, data.version, data), number))


@router.delete("/sweeps/{number}", response={204: None})
def end_sweep(request: HttpRequest, number: int) -> Status[None]:
    """Drop a sweep and its runs; what it brought stays."""
    or_404(Sweep, lambda n: sweep_actions.drop_sweep(request.user, n), number)
    return Status(204, None)


@router.post("/sweeps/{number}/exclude", response=SweepOut)
def exclude(request: HttpRequest, number: int, data: Again) -> SweepOut:
    """Leave addresses out of a sweep from now on; can be undone."""
    return reads.sweep(or_404(Sweep, lambda n: sweep_actions.exclude(request.user, n, data.addresses), number))


@router.post("/sweeps/{number}/runs", response=RunOut)
def start(request: HttpRequest, number: int) -> RunOut:
    """Start a run."""
    return reads.run_summary(or_404(Sweep, lambda n: run_actions.start_run(request.user, n), number))


@router.get("/runs", response=list[RunOut])
def runs(request: HttpRequest, under_way: bool = False) -> list[RunOut]:
    """Return the latest runs, or those under way."""
    return reads.running() if under_way else reads.runs()


@router.get("/runs/{number}", response=RunPage)
def run(request: HttpRequest, number: int) -> RunPage:
    """Return a run with all its addresses."""
    held = or_404(Run, lambda n: visible(Run).select_related("sweep", "asked_by").get(pk=n), number)
    return reads.run_page(held)


@router.post("/runs/{number}/wish", response=RunOut)
def steer(request: HttpRequest, number: int, data: Wish) -> RunOut:
    """Pause, stop or resume a run."""
    return reads.run_summary(or_404(Run, lambda n: run_actions.steer(request.user, n, data.wish), number))


@router.post("/runs/{number}/again", response=RunOut)
def again(request: HttpRequest, number: int, data: Again) -> RunOut:
    """Have addresses of an ended run looked at again."""
    return reads.run_summary(or_404(Run, lambda n: run_actions.read_again(request.user, n, data.addresses), number))


@router.get("/runs/{number}/events")
async def events(request: HttpRequest, number: int, after: int = 0) -> StreamingHttpResponse:
    """Stream a run's progress as server-sent events: `run` (its head) and `addresses` (rows that changed)."""
    limited = await sync_to_async(_limits_at)(number)
    return StreamingHttpResponse(
        _events(number, after, limited), content_type="text/event-stream", headers={"Cache-Control": "no-cache"}
    )


def _limits_at(number: int) -> Scope:
    """Return what whoever asks is limited to, for the stream that is read after the request; answer 404 for no run."""
    or_404(Run, lambda n: visible(Run).only("pk").get(pk=n), number)
    return scope()


async def _events(number: int, tick: int, limited: Scope) -> AsyncIterator[bytes]:
    quiet = 0.0
    while True:
        head, rows, tick = await sync_to_async(_news)(number, tick, limited)
        if head is None:
            yield reads.to_event("gone", {})
            return
        if rows or quiet == 0.0 or quiet > 5:
            yield reads.to_event("run", head)
            quiet = 0.1
        if rows:
            yield reads.to_event("addresses", rows)
        if head["state"] in run_actions.ENDED:
            yield reads.to_event("end", head)
            return
        await asyncio.sleep(0.4)
        quiet += 0.4


def _news(number: int, tick: int, limited: Scope) -> tuple[RunOut | None, list[AddressOut], int]:
    with limited_to(limited):
        held = visible(Run).select_related("sweep", "asked_by").filter(pk=number).first()
    if held is None:
        return None, [], tick
    rows = reads.changed_addresses(number, tick)
    return reads.run_summary(held), [reads.address_row(r) for r in rows], held.tick
