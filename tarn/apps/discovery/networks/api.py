"""The company's networks over HTTP: thin; parse, call, shape."""

from django.http import HttpRequest
from ninja import Router

from tarn.apps.discovery.models import Network
from tarn.apps.discovery.networks import change as actions
from tarn.apps.discovery.networks import lens
from tarn.apps.discovery.networks import shown as reads
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.networks.results import NetworkOut
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.people.answers import or_404

router = Router(tags=["discovery"])


@router.get("/networks", response=list[NetworkOut])
def networks(request: HttpRequest) -> list[NetworkOut]:
    """Return the company's networks."""
    return reads.networks()


@router.get("/networks/selected", response=lens.NetworksOfSelection)
def selected(request: HttpRequest, filter: str = "", as_of: str = "") -> lens.NetworksOfSelection:
    """Return a selection by network."""
    return lens.networks_of(filter, read_dial(as_of))


@router.post("/networks", response=NetworkOut)
def new_network(request: HttpRequest, data: NetworkIn) -> NetworkOut:
    """Note a network: its place, its pace, or that it must never be probed."""
    return reads.network(actions.make_network(request.user, data))


@router.put("/networks/{number}", response=NetworkOut)
def edit_network(request: HttpRequest, number: int, data: NetworkIn) -> NetworkOut:
    """Change what is noted of a network."""
    return reads.network(or_404(Network, lambda n: actions.change_network(request.user, n, data), number))
