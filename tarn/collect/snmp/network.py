"""What network gear and printers tell by standard MIBs beyond themselves.

ARP: RFC 4293 (ipNetToMediaTable). Routes: RFC 4292 (ipCidrRouteTable). Bridges: RFC 4188, RFC 4363 (BRIDGE-MIB,
Q-BRIDGE-MIB). Neighbours: IEEE 802.1AB (LLDP-MIB). Printers: RFC 3805.
"""

from collections.abc import Awaitable, Callable
from ipaddress import IPv4Network
from typing import Any

from tarn.collect.snmp.client import Walker
from tarn.collect.snmp.ports import switch_ports
from tarn.collect.snmp.power import BATTERY, power
from tarn.collect.snmp.values import column, mac, text
from tarn.core.items import ArpEntry, Forwarding, Neighbour, Route, Supply, Vlan
from tarn.core.sections import Condition
from tarn.core.sightings import make_reading

_IP, _BRIDGE, _LLDP = "1.3.6.1.2.1.4", "1.3.6.1.2.1.17", "1.0.8802.1.1.2.1"
_PRINTER = "1.3.6.1.2.1.43"
_IF_NAME = "1.3.6.1.2.1.31.1.1.1.1"

FORWARDS = f"{_IP}.1.0"
BRIDGE_PORTS = f"{_BRIDGE}.1.2.0"
LLDP_CHASSIS = f"{_LLDP}.3.2.0"
PAGES = f"{_PRINTER}.10.2.1.4.1.1"
_OFFERS = (FORWARDS, BRIDGE_PORTS, LLDP_CHASSIS, PAGES, BATTERY)
MOST_ROUTES = 2_000
"""Routes kept of one device: a full Internet table is no inventory."""


async def offers(walker: Walker) -> dict[str, Any]:
    """Return what a device says of the tables it has, in one question: the condition on which they are read."""
    return await walker.get(_OFFERS)


async def arp(walker: Walker) -> list[Any]:
    """Read which hardware address each address was seen at."""
    names = await column(walker, _IF_NAME)
    items: dict[str, ArpEntry] = {}
    for index, value in (await column(walker, f"{_IP}.22.1.2")).items():
        interface, _, address = index.partition(".")
        if (found := mac(value)) and address.count(".") == 3:
            items[address] = ArpEntry(address=address, mac=found, interface=text(names.get(interface, "")))
    return [make_reading("arp", [items[k] for k in sorted(items)], "snmp.arp")]


async def routes(walker: Walker) -> list[Any]:
    """Read routes; of a table longer than MOST_ROUTES the first."""
    names = await column(walker, _IF_NAME)
    items: dict[tuple[str, str], Route] = {}
    table = await column(walker, f"{_IP}.24.4.1.5")
    for index, interface in list(table.items())[:MOST_ROUTES]:
        parts = index.split(".")
        if len(parts) != 13:
            continue
        destination, mask, hop = ".".join(parts[:4]), ".".join(parts[4:8]), ".".join(parts[9:])
        try:
            network = str(IPv4Network(f"{destination}/{mask}"))
        except ValueError:
            continue  # a mask with holes: no such network
        hop = "" if hop == "0.0.0.0" else hop
        items[network, hop] = Route(destination=network, next_hop=hop, interface=text(names.get(str(interface), "")))
    cut = len(table) > MOST_ROUTES
    note = f"the first {MOST_ROUTES} of {len(table)} routes" if cut else ""
    return [make_reading("routes", [items[k] for k in sorted(items)], "snmp.routes", complete=not cut, note=note)]


async def bridge(walker: Walker) -> list[Any]:
    """Read the forwarding table and the VLANs; ports by the names their interfaces have."""
    names = await column(walker, _IF_NAME)
    index_of = await column(walker, f"{_BRIDGE}.1.4.1.2")
    named = {port: text(names.get(str(index), "")) or f"port {port}" for port, index in index_of.items()}
    items: dict[tuple[str, int], Forwarding] = {}
    for index, port in (await column(walker, f"{_BRIDGE}.7.1.2.2.1.2")).items():
        vlan, *octets = index.split(".")
        _learn(items, octets, int(vlan), port, named)
    if not items:  # a bridge without VLANs
        for index, port in (await column(walker, f"{_BRIDGE}.4.3.1.2")).items():
            _learn(items, index.split("."), 0, port, named)
    vlans = [
        Vlan(vlan=int(number), name=text(name))
        for number, name in (await column(walker, f"{_BRIDGE}.7.1.4.3.1.1")).items()
    ]
    out = [make_reading("forwarding", [items[k] for k in sorted(items)], "snmp.bridge")]
    if vlans:
        out.append(make_reading("vlans", sorted(vlans, key=lambda v: v.vlan), "snmp.bridge"))
    return out


def _learn(
    items: dict[tuple[str, int], Forwarding], octets: list[str], vlan: int, port: Any, named: dict[str, str]
) -> None:
    if len(octets) != 6 or not port:  # port 0: learnt, but nobody knows where
        return
    address = ":".join(f"{int(o):02x}" for o in octets)
    items[address, vlan] = Forwarding(mac=address, vlan=vlan, port=named.get(str(port), f"port {port}"))


async def neighbours(walker: Walker) -> list[Any]:
    """Read what each port hears of the device at its other end. What an identifier is, its subtype tells: a name of six
    letters is as long as a hardware address (IEEE 802.1AB, LldpChassisIdSubtype, LldpPortIdSubtype)."""
    local = await column(walker, f"{_LLDP}.3.7.1.3")
    chassis_sort = await column(walker, f"{_LLDP}.4.1.1.4")
    chassis = await column(walker, f"{_LLDP}.4.1.1.5")
    port_sort = await column(walker, f"{_LLDP}.4.1.1.6")
    ports = await column(walker, f"{_LLDP}.4.1.1.7")
    names = await column(walker, f"{_LLDP}.4.1.1.9")
    items: dict[tuple[str, str], Neighbour] = {}
    for index, value in chassis.items():
        _, _, rest = index.partition(".")
        number = rest.split(".")[0]
        port = text(local.get(number, "")) or f"port {number}"
        there = _named(value, chassis_sort.get(index), _CHASSIS_IS_MAC) or "unnamed"
        items[port, there] = Neighbour(
            port=port,
            chassis=there,
            name=text(names.get(index, "")).partition(".")[0],
            remote_port=_named(ports.get(index, ""), port_sort.get(index), _PORT_IS_MAC),
        )
    return [make_reading("neighbours", [items[k] for k in sorted(items)], "snmp.lldp")]


_CHASSIS_IS_MAC, _PORT_IS_MAC = 4, 3


def _named(value: Any, sort: Any, is_mac: int) -> str:
    """Return an identifier as a hardware address where its subtype says so, or where none is told and it is no text."""
    if sort == is_mac or (sort is None and isinstance(value, bytes) and not _is_text(value)):
        return mac(value) or text(value)
    return text(value)


def _is_text(value: bytes) -> bool:
    return value.isascii() and value.decode("ascii").isprintable()


_SUPPLY = {3: "toner", 4: "waste toner", 5: "ink", 9: "developer", 15: "fuser", 20: "transfer unit", 21: "toner"}
"""The commonest of prtMarkerSuppliesType."""


async def printer(walker: Walker) -> list[Any]:
    """Read supplies with their levels, and pages printed. −3 means that some is left, −2 that it is unknown."""
    described = await column(walker, f"{_PRINTER}.11.1.1.6")
    sorts = await column(walker, f"{_PRINTER}.11.1.1.5")
    most = await column(walker, f"{_PRINTER}.11.1.1.8")
    levels = await column(walker, f"{_PRINTER}.11.1.1.9")
    items: dict[str, Supply] = {}
    for index, value in described.items():
        name = text(value) or f"supply {index}"
        full, left = most.get(index, 0), levels.get(index, -2)
        share = min(100, round(100 * left / full / 5) * 5) if full > 0 and left >= 0 else None
        items[name] = Supply(name=name, sort=_SUPPLY.get(sorts.get(index, 0), ""), level=share)
    pages = (await walker.get([PAGES])).get(PAGES)
    out = [make_reading("supplies", [items[k] for k in sorted(items)], "snmp.printer")]
    if isinstance(pages, int):
        out.append(make_reading("condition", Condition(pages=round(pages, -2)), "snmp.printer"))
    return out


STEPS: tuple[tuple[str, str, Callable[[Walker], Awaitable[list[Any]]]], ...] = (
    ("ARP table", FORWARDS, arp),
    ("routes", FORWARDS, routes),
    ("forwarding table", BRIDGE_PORTS, bridge),
    ("ports of the switch", BRIDGE_PORTS, switch_ports),
    ("neighbours", LLDP_CHASSIS, neighbours),
    ("printer supplies", PAGES, printer),
    ("battery", BATTERY, power),
)
"""Name, the object that offers it, and reader, in order."""


def offered(step: str, said: dict[str, Any]) -> bool:
    """Whether a device offers a table: it has the object; of ipForwarding only 1 means a router (RFC 4293)."""
    if step == FORWARDS:
        return said.get(FORWARDS) == 1
    return step in said
