"""SNMP tables of network gear, printers and power supplies, rendered from the model.

ARP and routes: RFC 4293, RFC 4292. Bridges: RFC 4188, RFC 4363. LLDP: IEEE 802.1AB. Printers: RFC 3805.
Power supplies: RFC 1628. Outlets: RFC 6933.
"""

from collections.abc import Callable
from ipaddress import IPv4Address, IPv4Network

from tarn.lab.model import Device, Links

Put = Callable[..., None]
_IP, _BRIDGE, _LLDP = "1.3.6.1.2.1.4", "1.3.6.1.2.1.17", "1.0.8802.1.1.2.1"


def _octets(mac: str) -> list[int]:
    return [int(o, 16) for o in mac.split(":")]


def network_tables(device: Device, links: Links, put: Put) -> None:
    """Put what a router or switch knows of others."""
    if links.arp:
        put(f"{_IP}.1", 0, ("int", 1))
    for address, mac in links.arp:
        put(f"{_IP}.22.1.2", 1, *IPv4Address(address).packed, ("bytes", bytes(_octets(mac))))
    for network, hop in links.routes:
        net = IPv4Network(network)
        index = (*net.network_address.packed, *net.netmask.packed, 0, *IPv4Address(hop or "0.0.0.0").packed)
        put(f"{_IP}.24.4.1.5", *index, ("int", 1))
    if links.forwarding:
        put(f"{_BRIDGE}.1.2", 0, ("int", len(device.interfaces)))
        for number in range(1, len(device.interfaces) + 1):
            put(f"{_BRIDGE}.1.4.1.2", number, ("int", number))
    for mac, vlan, port in links.forwarding:
        put(f"{_BRIDGE}.7.1.2.2.1.2", vlan, *_octets(mac), ("int", port))
    for vlan, name in links.vlans:
        put(f"{_BRIDGE}.7.1.4.3.1.1", vlan, ("str", name))
    if links.forwarding:
        port_tables(device, links, put)
    put(f"{_LLDP}.3.2", 0, ("bytes", bytes(_octets(device.interfaces[0].mac))))
    for number, interface in enumerate(device.interfaces, start=1):
        put(f"{_LLDP}.3.7.1.3", number, ("str", interface.name))
    for number, (port, mac, name, there) in enumerate(links.neighbours, start=1):
        put(f"{_LLDP}.4.1.1.4", 0, port, number, ("int", 4))  # the chassis by a hardware address
        put(f"{_LLDP}.4.1.1.5", 0, port, number, ("bytes", bytes(_octets(mac))))
        put(f"{_LLDP}.4.1.1.6", 0, port, number, ("int", 5))  # the port by its interface's name
        put(f"{_LLDP}.4.1.1.7", 0, port, number, ("str", there))
        put(f"{_LLDP}.4.1.1.9", 0, port, number, ("str", name))


_CARRIED, _LOST, _LOSES_FROM = 40_000_000, 80_000, 386
"""Frames a port carries a day, those that one which fails loses a day, and since which day."""


def port_tables(device: Device, links: Links, put: Put) -> None:
    """Put how ports stand: spanning tree (RFC 4188), VLANs (RFC 4363), duplex (RFC 3635), power they feed (RFC 3621), and
    the frames they carried and lost (RFC 2863)."""
    ways = {port for port, *_ in links.neighbours}
    own = bytes(_octets(device.interfaces[0].mac))
    put(f"{_BRIDGE}.1.1", 0, ("bytes", own))
    root = 1 if 1 in ways else 0
    put(f"{_BRIDGE}.2.7", 0, ("int", root))
    members: dict[int, set[int]] = {vlan: set(ways) for vlan, _ in links.vlans}
    for _, vlan, port in links.forwarding:
        members.setdefault(vlan, set()).add(port)
    bare = {vlan: ports - ways for vlan, ports in members.items()}
    bare[1] = set(range(1, len(device.interfaces) + 1)) - set().union(*(p for v, p in bare.items() if v != 1))
    members[1] = members.get(1, set()) | bare[1]
    for vlan, ports in members.items():
        put(f"{_BRIDGE}.7.1.4.3.1.2", vlan, ("bytes", _port_list(ports, len(device.interfaces))))
        put(f"{_BRIDGE}.7.1.4.3.1.4", vlan, ("bytes", _port_list(bare[vlan], len(device.interfaces))))
    feeding = {port for _, vlan, port in links.forwarding if vlan in (20, 30)} - ways
    for number, interface in enumerate(device.interfaces, start=1):
        up = interface.up or number in ways
        state = 2 if number in links.blocked else 5 if up else 1
        put(f"{_BRIDGE}.2.15.1.3", number, ("int", state))
        there = number in links.blocked or number == root
        put(f"{_BRIDGE}.2.15.1.8", number, ("bytes", b"\x80\x00" + (b"\x02" * 6 if there else own)))
        put("1.3.6.1.2.1.10.7.2.1.19", number, ("int", 3 if number not in links.failing else 2))
        put("1.3.6.1.2.1.105.1.1.1.6", 1, number, ("int", 3 if number in feeding else 2))
        put("1.3.6.1.2.1.31.1.1.1.7", number, ("counter64", _CARRIED * links.day if up else 0))
        lost = _LOST * max(0, links.day - _LOSES_FROM) if number in links.failing else 0
        put("1.3.6.1.2.1.2.2.1.14", number, ("counter", lost))


def _port_list(ports: set[int], number: int) -> bytes:
    """Return a PortList (RFC 4363)."""
    bits = bytearray(-(-number // 8))
    for port in ports:
        bits[(port - 1) // 8] |= 0x80 >> (port - 1) % 8
    return bytes(bits)


def printer_tables(device: Device, put: Put) -> None:
    """Put supplies and the page count."""
    marker = "1.3.6.1.2.1.43"
    put(f"{marker}.10.2.1.4", 1, 1, ("int", device.pages))
    for number, (name, kind, level) in enumerate(device.supplies, start=1):
        put(f"{marker}.11.1.1.5", 1, number, ("int", kind))
        put(f"{marker}.11.1.1.6", 1, number, ("str", name))
        put(f"{marker}.11.1.1.8", 1, number, ("int", 10_000))
        put(f"{marker}.11.1.1.9", 1, number, ("int", level * 100))


def power_tables(device: Device, put: Put) -> None:
    """Put the battery's state."""
    battery = "1.3.6.1.2.1.33.1.2"
    low = device.battery < 30
    put(f"{battery}.1", 0, ("int", 3 if low else 2))
    put(f"{battery}.3", 0, ("int", device.battery * 40 // 100))
    put(f"{battery}.4", 0, ("int", device.battery))
    output = "1.3.6.1.2.1.33.1.4"
    put(f"{output}.1", 0, ("int", 5 if low else 3))
    drawn = sum(watts for _, watts in device.outlets) or 400
    put(f"{output}.4.1.5", 1, ("int", min(100, drawn * 100 // (6_000 if "3000" in device.model else 1_500))))


FIRST_OUTLET, FIRST_SENSOR = 100, 200


def outlet_tables(device: Device, put: Put) -> None:
    """Put outlets as energy objects (RFC 6933), what is written on them, and a sensor of watts in each (RFC 3433)."""
    entity, sensor = "1.3.6.1.2.1.47.1.1.1.1", "1.3.6.1.2.1.99.1.1.1"
    for number, (written, watts) in enumerate(device.outlets, start=1):
        outlet, meter = FIRST_OUTLET + number, FIRST_SENSOR + number
        put(f"{entity}.4", outlet, ("int", 1))
        put(f"{entity}.5", outlet, ("int", 13))
        put(f"{entity}.7", outlet, ("str", f"outlet {number}"))
        put(f"{entity}.14", outlet, ("str", written))
        put(f"{entity}.4", meter, ("int", outlet))
        put(f"{entity}.5", meter, ("int", 8))
        put(f"{entity}.7", meter, ("str", f"power of outlet {number}"))
        put(f"{sensor}.1", meter, ("int", 6))
        put(f"{sensor}.2", meter, ("int", 9))
        put(f"{sensor}.3", meter, ("int", 0))
        put(f"{sensor}.4", meter, ("int", watts))
