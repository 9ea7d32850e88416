"""Services over HTTP: thin; parse, call, shape."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso, read_dial
from tarn.apps.people.answers import or_404
from tarn.apps.services import actions
from tarn.apps.services.inputs import NoiseIn
from tarn.apps.services.models import Noise
from tarn.apps.services.reads import standing
from tarn.apps.services.reads.links import links
from tarn.apps.services.results import LinkOut, NoiseOut, SingleOut, StandsOut, StopsOut

router = Router(tags=["services"])
MOST_GONE = 500
"""Devices that may be asked to stop at once."""


@router.get("/services/standing/{asset}", response=StandsOut)
def stands(
    request: HttpRequest,
    asset: int,
    hops: Annotated[int, Query(ge=1, le=standing.MOST_HOPS)] = 1,
    as_of: str | None = None,
) -> StandsOut:
    """Return what a device stands on, and what stands on it."""
    try:
        return standing.around(asset, hops, read_dial(as_of))
    except KeyError:
        raise HttpError(404, f"There is no asset {asset}.") from None


@router.get("/services/stops", response=StopsOut)
def stops(request: HttpRequest, filter: str, as_of: str | None = None) -> StopsOut:
    """Return what stops if the devices of a selection stop."""
    at = read_dial(as_of)
    gone = ids(question(filter, at))
    if len(gone) > MOST_GONE:
        raise HttpError(
            422, f"{len(gone):,} devices are too many to stop at once: at most {MOST_GONE}. Narrow the question."
        )
    return standing.if_stops(sorted(gone), at)


@router.get("/services/singles", response=list[SingleOut])
def single_points(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[SingleOut]:
    """Return the devices on whose stopping others stop, worst first."""
    return standing.single_points(question(filter, read_dial(as_of)))


@router.get("/services/links", response=list[LinkOut])
def port_links(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[LinkOut]:
    """Return which port of which switch leads where, where either end is of a selection."""
    return links(question(filter, read_dial(as_of)))


@router.get("/services/noise", response=list[NoiseOut])
def noise(request: HttpRequest) -> list[NoiseOut]:
    """Return the talk that says nothing of what stands on what."""
    return [
        {
            "id": n.pk,
            "process": n.process,
            "port": n.port,
            "why": n.why,
            "made_by": n.made_by,
            "made_at": iso(n.made_at),
        }
        for n in Noise.objects.all()
    ]


@router.post("/services/noise", response=list[NoiseOut])
def say_noise(request: HttpRequest, data: NoiseIn) -> list[NoiseOut]:
    """Say that talk is noise."""
    actions.say_noise(request.user, data)
    return noise(request)


@router.delete("/services/noise/{number}", response={204: None})
def take_noise_back(request: HttpRequest, number: int) -> Any:
    """Have talk count again."""
    or_404(Noise, lambda n: actions.take_noise_back(request.user, n), number, "noise")
    return Status(204, None)
