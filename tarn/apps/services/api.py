"""Services over HTTP: thin; parse, call, shape."""

from typing import Annotated, Any

from django.http import HttpRequest
from ninja import Query, Router, Status
from ninja.errors import HttpError
from pydantic import Field

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso, read_dial
from tarn.apps.people.answers import or_404
from tarn.apps.services import actions
from tarn.apps.services.inputs import HandMemberIn, NoiseIn, RehearseServiceIn, ServiceIn, TellIn
from tarn.apps.services.kept import change, falling, proposing, shown, telling
from tarn.apps.services.kept.beside import beside
from tarn.apps.services.kept.results import (
    ProposedService,
    ServiceBrief,
    ServiceOut,
    ServiceRehearsal,
    ShippedQuestionOut,
    ToldOut,
)
from tarn.apps.services.models import HandMember, Noise, Service
from tarn.apps.services.results import LayersOut, LinkOut, NoiseOut, SingleOut, StandsOut, StopsOut
from tarn.apps.services.standing import impact
from tarn.apps.services.standing.links import links
from tarn.core.standing.questions import QUESTIONS

router = Router(tags=["services"])
MOST_GONE = 500
"""Devices that may be asked to stop at once."""
Unfolded = Annotated[list[Annotated[int, Field(ge=-(1 << 53), le=1 << 53)]], Query(max_length=50)]
"""Boxes by what each says it is `folded` by."""


@router.get("/services/standing/{asset}", response=StandsOut)
def stands(
    request: HttpRequest,
    asset: int,
    hops: Annotated[int, Query(ge=1, le=impact.MOST_HOPS)] = 1,
    as_of: str | None = None,
) -> StandsOut:
    """Return what a device stands on, what stands on it, and what it has to do with that is no device."""
    at = read_dial(as_of)
    try:
        return {**impact.around(asset, hops, at), "beside": beside(asset, at)}
    except KeyError:
        raise HttpError(404, f"There is no asset {asset}.") from None


@router.get("/services/stops", response=StopsOut)
def stops(
    request: HttpRequest,
    filter: str = "",
    program: Annotated[list[str], Query(max_length=20)] = [],  # noqa: B006 - read anew from each request
    unfold: Unfolded = [],  # noqa: B006
    as_of: str | None = None,
) -> StopsOut:
    """Return what stops if the devices of a selection stop, or programs do, all their instances. `unfold`: boxes of the
    picture whose devices are drawn one by one."""
    at = read_dial(as_of)
    if not filter and not program:
        raise HttpError(422, "Say which devices or programs stop.")
    gone = ids(question(filter, at)) if filter else []
    if len(gone) > MOST_GONE:
        raise HttpError(
            422, f"{len(gone):,} devices are too many to stop at once: at most {MOST_GONE}. Narrow the question."
        )
    return falling.if_stops(sorted(gone), at, program, unfold)


@router.get("/services/map", response=LayersOut)
def map_of(
    request: HttpRequest,
    filter: str = "",
    unfold: Unfolded = [],  # noqa: B006 - read anew from each request
    as_of: str | None = None,
) -> LayersOut:
    """Return a selection and what it stands on as layers, with the services it serves above. `unfold`: boxes whose
    devices are drawn one by one."""
    return falling.map_of(question(filter, read_dial(as_of)), unfold)


@router.get("/services/singles", response=list[SingleOut])
def single_points(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[SingleOut]:
    """Return the devices on whose stopping others stop, worst first."""
    return falling.single_points(question(filter, read_dial(as_of)))


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


@router.get("/services", response=list[ServiceBrief])
def list_services(request: HttpRequest, as_of: str | None = None) -> list[ServiceBrief]:
    """Return the services and how they stand, those that are worst off first."""
    return shown.services(read_dial(as_of))


@router.post("/services", response=ServiceOut)
def make_service(request: HttpRequest, data: ServiceIn) -> ServiceOut:
    """Make a service."""
    return shown.service(change.keep(request.user, data).pk, None)


@router.get("/services/proposed", response=list[ProposedService])
def proposed_services(request: HttpRequest, as_of: str | None = None) -> list[ProposedService]:
    """Return the services that talk speaks for and nobody keeps yet."""
    return proposing.proposed(read_dial(as_of))


@router.get("/services/questions", response=list[ShippedQuestionOut])
def shipped_questions(request: HttpRequest) -> list[ShippedQuestionOut]:
    """Return the questions that ship, to begin rules with."""
    return [{"name": q.name, "filter": q.filter, "why": q.why} for q in QUESTIONS]


@router.post("/services/rehearsal", response=ServiceRehearsal)
def rehearse_service(request: HttpRequest, data: RehearseServiceIn) -> ServiceRehearsal:
    """Say who would be a member by rules that are not kept yet, changing nothing."""
    return shown.rehearse(data.service, data.number, read_dial(data.as_of))


@router.get("/services/{int:number}", response=ServiceOut)
def one_service(request: HttpRequest, number: int, as_of: str | None = None) -> ServiceOut:
    """Return one service, its members and how it stands."""
    at = read_dial(as_of)
    return or_404(Service, lambda n: shown.service(n, at), number, "service")


@router.put("/services/{int:number}", response=ServiceOut)
def change_service(request: HttpRequest, number: int, data: ServiceIn) -> ServiceOut:
    """Change a service."""
    or_404(Service, lambda n: change.keep(request.user, data, n), number, "service")
    return shown.service(number, None)


@router.delete("/services/{int:number}", response={204: None})
def drop_service(request: HttpRequest, number: int) -> Any:
    """Drop a service."""
    or_404(Service, lambda n: change.drop(request.user, n), number, "service")
    return Status(204, None)


@router.post("/services/{int:number}/watch", response=ToldOut)
def tell_of_service(request: HttpRequest, number: int, data: TellIn) -> ToldOut:
    """Have somebody told, each morning it is so, who came to a service and who went."""
    return {"report": or_404(Service, lambda n: telling.tell(request.user, n, data.to), number, "service")}


@router.post("/services/{int:number}/members", response=ServiceOut)
def put_member(request: HttpRequest, number: int, data: HandMemberIn) -> ServiceOut:
    """Put a device into a part of a service, or take it out, whatever its rules say."""
    or_404(Service, lambda n: change.put_by_hand(request.user, n, data), number, "service")
    return shown.service(number, None)


@router.delete("/services/{int:number}/members/{int:hand}", response={204: None})
def take_member_back(request: HttpRequest, number: int, hand: int) -> Any:
    """Leave it to the rules again whether a device is a member."""
    or_404(HandMember, lambda h: change.take_hand_back(request.user, number, h), hand, "hand-put member")
    return Status(204, None)
