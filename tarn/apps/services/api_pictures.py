"""Ports, talk, networks, two days, and files of edges over HTTP."""

from django.http import HttpRequest, HttpResponse
from ninja import Router
from ninja.errors import HttpError

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.services.kept.certificates import certificates
from tarn.apps.services.standing import talk as talks
from tarn.apps.services.standing.between import between
from tarn.apps.services.standing.files import FORMATS, edges_of
from tarn.apps.services.standing.hosts import hosts
from tarn.apps.services.standing.ports import ports
from tarn.apps.services.standing.racks import racks
from tarn.apps.services.standing.results import (
    BetweenOut,
    CertificateOut,
    HostOut,
    PortsOut,
    RackOut,
    SubnetOut,
    TalkOut,
    VlanOut,
)
from tarn.apps.services.standing.subnets import subnets
from tarn.apps.services.standing.vlans import vlans

router = Router(tags=["services"])


@router.get("/services/ports", response=PortsOut)
def switch_ports(request: HttpRequest, filter: str = "", as_of: str | None = None) -> PortsOut:
    """Return switches with their ports and what is behind each: those of a selection, and those it is plugged into."""
    return ports(question(filter, read_dial(as_of)))


@router.get("/services/talk", response=TalkOut)
def talk(request: HttpRequest, filter: str = "", by: str = "kind", as_of: str | None = None) -> TalkOut:
    """Return who speaks with whom, by kind, place or name."""
    try:
        return talks.talk(question(filter, read_dial(as_of)), by)
    except KeyError:
        raise Invalid("by", f"Talk is told by {', '.join(talks.BY)}, not by “{by}”.") from None


@router.get("/services/subnets", response=list[SubnetOut])
def networks(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[SubnetOut]:
    """Return the networks a selection is in: addresses used and free, and who routes for them."""
    return subnets(question(filter, read_dial(as_of)))


@router.get("/services/racks", response=list[RackOut])
def in_racks(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[RackOut]:
    """Return the racks a selection stands in, with what is in each and what feeds it."""
    return racks(question(filter, read_dial(as_of)))


@router.get("/services/hosts", response=list[HostOut])
def virtual_hosts(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[HostOut]:
    """Return the virtual hosts of a selection and of its guests, with what they give and keep."""
    return hosts(question(filter, read_dial(as_of)))


@router.get("/services/vlans", response=list[VlanOut])
def virtual_networks(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[VlanOut]:
    """Return the VLANs a selection is met in: names, switches, ports and devices."""
    return vlans(question(filter, read_dial(as_of)))


@router.get("/services/certificates", response=list[CertificateOut])
def presented_certificates(request: HttpRequest, filter: str = "", as_of: str | None = None) -> list[CertificateOut]:
    """Return the certificates a selection presents: where, who signed them, who calls there, and until when."""
    return certificates(question(filter, read_dial(as_of)))


@router.get("/services/between", response=BetweenOut)
def two_days(request: HttpRequest, since: str, filter: str = "", as_of: str | None = None) -> BetweenOut:
    """Return what came, went and moved of what stands on what, from a day to the one asked of."""
    at, begun = read_dial(as_of), read_dial(since)
    if begun is None:
        raise Invalid("since", "Say since which day: 2026-08-03.")
    return between(question(filter, at), begun)


@router.get("/services/edges/{format}")
def edges(request: HttpRequest, format: str, filter: str = "", as_of: str | None = None) -> HttpResponse:
    """Return what stands on what as a file: csv or graphml."""
    asked = question(filter, read_dial(as_of))
    if format not in FORMATS:
        raise HttpError(422, f"“{format}” is no format here; one of: {', '.join(FORMATS)}.")
    kind, text = edges_of(asked, format)
    answer = HttpResponse(text, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="standing.{format}"'
    return answer
