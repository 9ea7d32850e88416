"""The networks a machine is in itself, by its routing table: where a first sweep may look."""

from collections.abc import Iterable
from ipaddress import IPv4Address, IPv4Network

LARGEST = 22
"""Prefix of the largest network that is proposed whole; of a larger one its first part is."""
_UP, _GATEWAY = 0x1, 0x2


def attached(table: Iterable[str]) -> list[IPv4Network]:
    """Return the networks directly attached, by lines of Linux's /proc/net/route (proc(5)): interface, destination and
    gateway as little-endian hexadecimal, flags, …, mask. Networks of the machine alone are left out. Raises ValueError
    for what is no such table."""
    out: dict[IPv4Network, None] = {}
    for line in list(table)[1:]:
        fields = line.split()
        if not fields:
            continue
        if len(fields) < 8:
            raise ValueError(f"no line of a routing table: {line.strip()[:80]}")
        destination, gateway, flags, mask = (int(fields[n], 16) for n in (1, 2, 3, 7))
        bits = bin(mask).count("1")
        if not flags & _UP or flags & _GATEWAY or gateway or not 0 < bits < 31:
            continue
        network = IPv4Network((_address(destination), bits), strict=False)
        if not network.is_loopback and not network.is_link_local:
            out[network if bits >= LARGEST else IPv4Network((network.network_address, LARGEST))] = None
    return list(out)


def _address(little_endian: int) -> IPv4Address:
    return IPv4Address(little_endian.to_bytes(4, "little"))
