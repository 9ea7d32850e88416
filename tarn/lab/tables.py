"""SNMP tables of network gear, printers and power supplies, rendered from the model.

ARP and routes: RFC 4293, RFC 4292. Bridges: RFC 4188, RFC 4363. LLDP: IEEE 802.1AB. Printers: RFC 3805.
Power supplies: RFC 1628.
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
    put(f"{_LLDP}.3.2", 0, ("bytes", bytes(_octets(device.interfaces[0].mac))))
    for number, interface in enumerate(device.interfaces, start=1):
        put(f"{_LLDP}.3.7.1.3", number, ("str", interface.name))
    for number, (port, mac, name, there) in enumerate(links.neighbours, start=1):
        put(f"{_LLDP}.4.1.1.4", 0, port, number, ("int", 4))  # the chassis by a hardware address
        put(f"{_LLDP}.4.1.1.5", 0, port, number, ("bytes", bytes(_octets(mac))))
        put(f"{_LLDP}.4.1.1.6", 0, port, number, ("int", 5))  # the port by its interface's name
        put(f"{_LLDP}.4.1.1.7", 0, port, number, ("str", there))
        put(f"{_LLDP}.4.1.1.9", 0, port, number, ("str", name))


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
