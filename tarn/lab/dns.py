"""The company's name service (RFC 1035): names to addresses and back, with one stale entry."""

import asyncio
from ipaddress import ip_address

import dns.exception
import dns.flags
import dns.message
import dns.rcode
import dns.rdatatype
import dns.reversename
import dns.rrset

from tarn.lab.model import Device

Zone = dict[tuple[str, str], str]
"""Answers by name (with its final dot) and type."""

STALE = {"salt-berth-01": "10.60.4.123"}
"""Names that lead to an address their computer no longer has."""


def zone(devices: list[Device]) -> Zone:
    """Return the names and addresses of these devices."""
    out: Zone = {}
    for device in devices:
        name = f"{device.name}.{device.domain}."
        out[name, "A"] = STALE.get(device.name, device.address)
        out[dns.reversename.from_address(str(ip_address(device.address))).to_text(), "PTR"] = name
    return out


class NameServer(asyncio.DatagramProtocol):
    """Answers for one zone."""

    def __init__(self, held: Zone) -> None:
        self.held = held

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Keep the socket."""
        self.transport = transport

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        """Answer a query; what cannot be read is dropped."""
        try:
            query = dns.message.from_wire(data)
        except dns.exception.DNSException:
            return
        answer = dns.message.make_response(query)
        answer.flags |= dns.flags.AA
        for asked in query.question:
            kind = dns.rdatatype.to_text(asked.rdtype)
            found = self.held.get((asked.name.to_text().lower(), kind))
            if found:
                answer.answer.append(dns.rrset.from_text(asked.name, 300, "IN", kind, found))
            else:
                answer.set_rcode(dns.rcode.NXDOMAIN)
        self.transport.sendto(answer.to_wire(), addr)  # type: ignore[attr-defined]
