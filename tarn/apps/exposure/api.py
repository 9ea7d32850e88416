"""Exposure over HTTP: thin; parse, call, shape."""

from typing import Literal

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.exposure import heat as heats
from tarn.apps.exposure import outward, page
from tarn.apps.exposure import overview as reads
from tarn.apps.exposure.actions import own_words
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.inputs import OwnWordIn
from tarn.apps.exposure.models import Document
from tarn.apps.exposure.results import (
    AdvisoryPage,
    AdvisoryRow,
    ExposureOut,
    ExposureYear,
    HeatOut,
    OwnWordOut,
)
from tarn.apps.people.answers import or_404

router = Router(tags=["exposure"])

Known = Literal["then", "now"]


@router.get("/exposure", response=ExposureOut)
def overview(request: HttpRequest, filter: str = "", as_of: str | None = None, known: Known = "then") -> ExposureOut:
    """Return how much is open on a selection; `known`: as it was known on that day, or is now known to have been."""
    return reads.overview(question(filter, read_dial(as_of)), known)


@router.get("/exposure/advisories", response=list[AdvisoryRow])
def advisories(
    request: HttpRequest, filter: str = "", as_of: str | None = None, known: Known = "then"
) -> list[AdvisoryRow]:
    """Return the advisories that touch a selection, the gravest first."""
    return reads.advisories(question(filter, read_dial(as_of)), known)


@router.get("/exposure/year", response=ExposureYear)
def year(request: HttpRequest, filter: str = "", as_of: str | None = None) -> ExposureYear:
    """Return how much was open month by month for a year back, the latest first."""
    return reads.year(filter, read_dial(as_of))


@router.get("/exposure/heat", response=HeatOut)
def heat(
    request: HttpRequest,
    by: str = "place",
    across: str = "grade",
    filter: str = "",
    as_of: str | None = None,
    known: Known = "then",
) -> HeatOut:
    """Return open findings by two things at once: fields, grade, age."""
    for one in (by, across):
        if one not in heats.BY:
            raise HttpError(422, f"“{one}” is nothing to lay findings out by; one of: {', '.join(heats.BY)}.")
    if by == across:
        raise HttpError(422, f"Findings are laid out by two different things; “{by}” was asked for twice.")
    return heats.heat(question(filter, read_dial(as_of)), by, across, known)


@router.get("/exposure/bom")
def bill_of_materials(request: HttpRequest, filter: str = "", as_of: str | None = None) -> HttpResponse:
    """Return the bill of materials of a selection, as CycloneDX 1.6."""
    body = outward.bom(question(filter, read_dial(as_of)))
    return _file(body, "bom.cdx.json", "application/vnd.cyclonedx+json")


@router.get("/exposure/vex/{format}")
def vex(
    request: HttpRequest, format: Literal["cyclonedx", "csaf", "openvex"], filter: str = "", as_of: str | None = None
) -> HttpResponse:
    """Return how the releases of a selection stand to what is known."""
    body = outward.vex(question(filter, read_dial(as_of)), format)
    return _file(body, f"vex.{format}.json", "application/json")


def _file(body: str, name: str, type_: str) -> HttpResponse:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return HttpResponse(body, content_type=type_, headers=headers)


@router.post("/exposure/own-words", response=OwnWordOut)
def own_word(request: HttpRequest, data: OwnWordIn) -> OwnWordOut:
    """Say that what an advisory is held to be about here is not affected by it."""
    return {"number": own_words.say_not_affected(request.user, data)}


@router.delete("/exposure/own-words/{number}", response={204: None})
def take_back(request: HttpRequest, number: int) -> Status[None]:
    """Take such a word back."""
    or_404(Document, lambda n: own_words.take_back(request.user, n), number, "word of our own")
    return Status(204, None)


@router.get("/exposure/advisories/{name}", response=AdvisoryPage)
def advisory(
    request: HttpRequest, name: str, filter: str = "", as_of: str | None = None, known: Known = "then"
) -> AdvisoryPage:
    """Return one advisory by any of its names: how each release here stands to it, and why."""
    number = number_of(name)
    if number is None:
        raise HttpError(404, f"No feed has told of “{name[:100]}”.")
    return page.advisory(number, question(filter, read_dial(as_of)), known)
