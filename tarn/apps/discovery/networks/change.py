"""What is noted of the company's networks, and what they forbid."""

from ipaddress import ip_address
from typing import Any

from django.db.models import Q

from tarn.apps.discovery.models import Network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.starting import next_start
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import scope, visible
from tarn.core.ranges import ALL_THERE_ARE, RangeError, parse_ranges


def never_probed(organisation: int | None) -> list[str]:
    """Return the ranges that must never be probed: those of all, and those of the organisation it is done for."""
    networks = Network.objects.filter(never_probe=True)
    if organisation is not None:
        networks = networks.filter(Q(organisation=None) | Q(organisation=organisation))
    return list(networks.values_list("range", flat=True))


def forbidden(address: str, organisation: int | None) -> str:
    """Return the range that forbids probing an address for an organisation, or ""."""
    parsed = ip_address(address)
    return next((r.text for r in parse_ranges(never_probed(organisation), most=ALL_THERE_ARE) if parsed in r), "")


def keep_within(ranges: list[str], field: str) -> None:
    """Refuse ranges outside the networks of the organisations whoever asks is limited to. Raises Invalid."""
    if scope() is None:
        return
    theirs = parse_ranges([n.range for n in visible(Network)], most=ALL_THERE_ARE)
    for wanted in parse_ranges(ranges, most=ALL_THERE_ARE):
        if not any(wanted.first in r and wanted.last in r for r in theirs):
            raise Invalid(field, f"{wanted.text} lies in no network of your organisation.")


def _network_checked(data: NetworkIn) -> dict[str, Any]:
    try:
        address_ranges = parse_ranges([data.range], most=ALL_THERE_ARE)
    except RangeError as error:
        raise Invalid("range", str(error)) from None
    if len(address_ranges) != 1:
        raise Invalid(
            "range", f"A network is one range; “{data.range}” is {len(address_ranges) or 'none'}: note each apart."
        )
    if not 1 <= data.at_once <= 1024:
        raise Invalid("at_once", f"{data.at_once} devices at once is out of bounds: 1 to 1,024.")
    quiet, minutes = data.quiet.strip(), data.quiet_minutes
    if quiet:
        next_start(quiet, "quiet")
        if not 5 <= minutes <= 7 * 1440:
            raise Invalid("quiet_minutes", f"Maintenance of {minutes} minutes is out of bounds: 5 to 10,080.")
    return {
        **data.dict(),
        "quiet": quiet,
        "quiet_minutes": minutes if quiet else 0,
        "organisation": owner(data.organisation),
    }


def change_network(user: Any, number: int, data: NetworkIn) -> Network:
    """Change what is noted of a network. Raises Invalid, Network.DoesNotExist."""
    require(user, "plan")
    if scope() is not None:
        raise NotAllowed("Networks say where an organisation may look; ask someone who is not limited to one.")
    values = _network_checked(data)
    with once("range", f"The network {data.range} is noted already."):
        network = visible(Network).get(pk=number)
        for name, value in values.items():
            setattr(network, name, value)
        network.save()
        record(user, "changed a network", f"{network.range} {network.name}")
    return network


def make_network(user: Any, data: NetworkIn) -> Network:
    """Note a network of the company. Raises Invalid."""
    if user is not None:
        require(user, "plan")
    if scope() is not None:
        raise NotAllowed("Networks say where an organisation may look; ask someone who is not limited to one.")
    values = _network_checked(data)
    with once("range", f"The network {data.range} is noted already."):
        made = Network.objects.create(**values)
        record(user, "noted a network", f"{made.range} {made.name}")
    return made
