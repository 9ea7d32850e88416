"""The software room over HTTP: thin; parse, call, shape."""

import time
from typing import Annotated, Literal

from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.software.results import NamelessOut
from tarn.apps.people.scope import visible
from tarn.apps.software.actions import baselines as baseline_actions
from tarn.apps.software.actions import rulings as ruling_actions
from tarn.apps.software.inputs import BaselineIn, SoftwareRulingIn
from tarn.apps.software.models import Baseline, Ruling
from tarn.apps.software.reads import rooms, rulings
from tarn.apps.software.reads.baselines import result
from tarn.apps.software.results import (
    BaselineOut,
    OverviewOut,
    ProductOut,
    RuledOut,
    SoftwareRulingOut,
    WavesOut,
)
from tarn.core.naming import ROLES

router = Router(tags=["software"])


def _roles(text: str) -> tuple[str, ...]:
    wanted = tuple(r for r in text.split(",") if r)
    if unknown := set(wanted) - set(ROLES):
        raise HttpError(422, f"“{min(unknown)}” is no role; {', '.join(ROLES)} are.")
    if not wanted:
        raise HttpError(422, f"Say which entries are asked for: {', '.join(ROLES)}.")
    return wanted


@router.get("/software", response=OverviewOut)
def overview(request: HttpRequest, filter: str = "", as_of: str | None = None, roles: str = "product") -> OverviewOut:
    """Return the products of a selection, with devices now and four weeks before, releases, and what is ruled."""
    return rooms.overview(filter, read_dial(as_of), _roles(roles))


@router.get("/software/products/{number}", response=ProductOut)
def product(request: HttpRequest, number: int, filter: str = "", as_of: str | None = None) -> ProductOut:
    """Return one product over a selection: its releases, the names it is listed under and why, and its year."""
    found = rooms.product(number, filter, read_dial(as_of))
    if found is None:
        raise HttpError(404, f"There is no product {number}.")
    return found


@router.get("/software/changes", response=WavesOut)
def changes(
    request: HttpRequest,
    filter: str = "",
    days: Annotated[int, Query(ge=1, le=400)] = 7,
    as_of: str | None = None,
    product: int | None = None,
    roles: str = "product",
    about: Literal["software", "hardware", "activity"] = "software",
) -> WavesOut:
    """Return what changed in the days up to the dial's date, the same change on many devices in one line.

    `about` hardware: parts that came, went or were exchanged; activity: starts and sign-ins.
    """
    at = read_dial(as_of)
    until = at or int(time.time())
    since = until - days * 86_400
    if about != "software":
        return rooms.what_else_changed(about, filter, since, until, at)
    return rooms.what_changed(filter, since, until, _roles(roles), product, at)


@router.get("/software/names", response=list[NamelessOut])
def names(request: HttpRequest) -> list[NamelessOut]:
    """Return listed names that no rule makes sense of, those on most devices first."""
    return rooms.not_understood()


@router.get("/software/rulings", response=list[SoftwareRulingOut])
def standing(request: HttpRequest, as_of: str | None = None, ended: bool = False) -> list[SoftwareRulingOut]:
    """Return the rulings that stand, or those that ended, the newest first."""
    return rulings.rows(read_dial(as_of), ended=ended)


@router.post("/software/rulings", response=RuledOut)
def rule(request: HttpRequest, data: SoftwareRulingIn) -> RuledOut:
    """Rule on one product, publisher or phrase, or on many alike."""
    return {"made": len(ruling_actions.rule(request.user, data))}


@router.delete("/software/rulings/{number}", response={204: None})
def withdraw(request: HttpRequest, number: int) -> Status[None]:
    """Take a ruling back; what it said of the past stays."""
    try:
        ruling_actions.withdraw(request.user, number)
    except Ruling.DoesNotExist:
        raise HttpError(404, f"There is no ruling {number} that stands.") from None
    return Status(204, None)


def _shown(held: Baseline, at: int | None) -> BaselineOut:
    return {"id": held.pk, "name": held.name, "filter": held.filter, "version": held.version, **result(held, at)}


@router.get("/software/baselines", response=list[BaselineOut])
def all_baselines(request: HttpRequest, as_of: str | None = None) -> list[BaselineOut]:
    """Return every baseline and how it stands."""
    at = read_dial(as_of)
    return [_shown(b, at) for b in visible(Baseline).order_by("name")]


@router.post("/software/baselines", response=BaselineOut)
def new_baseline(request: HttpRequest, data: BaselineIn) -> BaselineOut:
    """Make a baseline."""
    return _shown(baseline_actions.make_baseline(request.user, data), None)


@router.put("/software/baselines/{number}", response=BaselineOut)
def change_baseline(request: HttpRequest, number: int, data: BaselineIn) -> BaselineOut:
    """Change a baseline, made from the version it was read at."""
    try:
        return _shown(baseline_actions.change_baseline(request.user, number, data), None)
    except Baseline.DoesNotExist:
        raise HttpError(404, f"There is no baseline {number}.") from None


@router.delete("/software/baselines/{number}", response={204: None})
def end_baseline(request: HttpRequest, number: int) -> Status[None]:
    """Drop a baseline."""
    try:
        baseline_actions.drop_baseline(request.user, number)
    except Baseline.DoesNotExist:
        raise HttpError(404, f"There is no baseline {number}.") from None
    return Status(204, None)
