"""The company's name service (RFC 1035): names to addresses and back, with one stale entry; over TCP its zones whole
(RFC 5936)."""

import asyncio
from collections.abc import Iterator
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


ALIASES = {"tickets": "salt-tix-02", "crew": "salt-crew-01", "mail": "salt-mail-01", "database": "salt-db-01"}
"""Other names of servers, by which people know them."""


def zone(devices: list[Device]) -> Zone:
    """Return the names and addresses of these devices."""
    out: Zone = {}
    for device in devices:
        name = f"{device.name}.{device.domain}."
        out[name, "A"] = STALE.get(device.name, device.address)
        out[dns.reversename.from_address(str(ip_address(device.address))).to_text(), "PTR"] = name
    for alias, server in ALIASES.items():
        if any(d.name == server for d in devices):
            out[f"{alias}.skerrivane.example.", "CNAME"] = f"{server}.skerrivane.example."
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
            name = asked.name.to_text().lower()
            if kind == "A" and (other := self.held.get((name, "CNAME"))):
                answer.answer.append(dns.rrset.from_text(asked.name, 300, "IN", "CNAME", other))
                name = other
            found = self.held.get((name, kind))
            if found:
                answer.answer.append(dns.rrset.from_text(name, 300, "IN", kind, found))
            else:
                answer.set_rcode(dns.rcode.NXDOMAIN)
        self.transport.sendto(answer.to_wire(), addr)  # type: ignore[attr-defined]


RECORDS_A_MESSAGE = 100


def transfer(held: Zone, query: dns.message.Message) -> Iterator[bytes]:
    """Yield the messages of a zone transfer: its records between two of its start of authority."""
    [asked] = query.question
    origin = asked.name.to_text().lower()
    start = dns.rrset.from_text(asked.name, 300, "IN", "SOA", f"ns.{origin} hostmaster.{origin} 1 3600 600 86400 300")
    records = [
        dns.rrset.from_text(name, 300, "IN", kind, value)
        for (name, kind), value in sorted(held.items())
        if name.endswith(f".{origin}")
    ]
    for first in range(0, max(1, len(records)), RECORDS_A_MESSAGE):
        part = records[first : first + RECORDS_A_MESSAGE]
        answer = dns.message.make_response(query)
        answer.flags |= dns.flags.AA
        answer.answer = [*([start] if first == 0 else []), *part]
        if first + RECORDS_A_MESSAGE >= len(records):
            answer.answer.append(start)
        yield answer.to_wire(max_size=65_535)


async def hand_over(held: Zone, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    """Answer a connection over TCP: zones that are held are handed over, anything else is refused."""
    try:
        size = int.from_bytes(await reader.readexactly(2))
        query = dns.message.from_wire(await reader.readexactly(size))
        held_here = any(name.endswith(f".{query.question[0].name.to_text().lower()}") for name, _ in held)
        if query.question[0].rdtype == dns.rdatatype.AXFR and held_here:
            messages = list(transfer(held, query))
        else:
            refusal = dns.message.make_response(query)
            refusal.set_rcode(dns.rcode.REFUSED)
            messages = [refusal.to_wire()]
        for message in messages:
            writer.write(len(message).to_bytes(2) + message)
        await writer.drain()
    except (asyncio.IncompleteReadError, ConnectionError, dns.exception.DNSException):
        pass  # whoever asked has gone, or asked for nothing that can be read
    finally:
        writer.close()
