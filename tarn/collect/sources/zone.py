"""A zone of the name service: every name in it that has an address, by zone transfer (RFC 5936).

A name service says what it was once told and is seldom told that a device has gone: its word is that of a file.
"""

from collections import defaultdict
from collections.abc import AsyncIterator
from dataclasses import dataclass
from itertools import count

import dns.asyncquery
import dns.exception
import dns.name
import dns.rdatatype
import dns.xfr
import dns.zone

from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.kind import Setting, SettingError, SourceKind
from tarn.core.hosting import DnsName
from tarn.core.items import Address
from tarn.core.sections import Identity, Placement
from tarn.core.sightings import make_reading

COLLECTOR = "zone"
LONGEST = 300.0
"""Seconds a transfer may take in all."""
MOST = 1_000_000
"""Sets of records a zone may have: beyond that it is no company's, and would fill the memory."""


class _TooLarge(dns.exception.DNSException):
    pass


class _Bounded(dns.zone.Zone):
    """A zone that is filled up to a bound."""

    def writer(self, replacement: bool = False) -> dns.zone.Transaction:
        """Return a transaction that stops at one record too many."""
        writing, taken = super().writer(replacement), count(1)

        def no_more(*_: object) -> None:
            if next(taken) > MOST:
                raise _TooLarge

        writing.check_put_rdataset(no_more)
        return writing


@dataclass(frozen=True, slots=True)
class ZoneSettings:
    """`server` is the name server's address, `zone` the domain whose names it is asked for."""

    server: str
    zone: str
    port: int = 53


async def read_zone(route: Route, settings: ZoneSettings) -> AsyncIterator[Finding]:
    """Yield the devices a zone names, each with its addresses. Raises Problem where it is not handed over whole.

    The zone's own name, and names that stand for a service or for many (RFC 8552, RFC 4592), are no devices.
    """
    origin = dns.name.from_text(settings.zone)
    told = _Bounded(origin, relativize=False)
    host, port = route.dial(settings.server, settings.port)
    try:
        await dns.asyncquery.inbound_xfr(host, told, port=port, timeout=10.0, lifetime=LONGEST)
    except dns.xfr.TransferError as refused:
        raise Problem("no-transfer", zone=settings.zone, detail=refused.rcode.name) from None
    except _TooLarge:
        raise Problem("zone-too-large", zone=settings.zone, most=f"{MOST:,}") from None
    except (dns.exception.DNSException, OSError, EOFError) as error:
        raise Problem("no-names", detail=str(error)[:160] or type(error).__name__) from None
    addresses: dict[dns.name.Name, list[str]] = defaultdict(list)
    for kind in (dns.rdatatype.A, dns.rdatatype.AAAA):
        for name, _, record in told.iterate_rdatas(kind):
            if name != origin and not name.labels[0].startswith((b"_", b"*")):
                addresses[name].append(record.to_text())
    aliases: dict[dns.name.Name, list[str]] = defaultdict(list)
    for name, _, record in told.iterate_rdatas(dns.rdatatype.CNAME):
        aliases[dns.name.from_text(record.to_text())].append(name.to_text(omit_final_dot=True).lower())
    for name in sorted(addresses):
        yield _finding(name, origin, sorted(set(addresses[name])), sorted(aliases[name]))


def _finding(name: dns.name.Name, origin: dns.name.Name, addresses: list[str], aliases: list[str]) -> Finding:
    whole = name.to_text(omit_final_dot=True).lower()
    short = name.relativize(origin).to_text(omit_final_dot=True).lower()
    identity = Identity(name=short, domain=origin.to_text(omit_final_dot=True).lower())
    named = [(whole, ""), *((alias[:300], whole) for alias in aliases)]
    names = [DnsName(name=n[:300], address=a, alias=of) for n, of in named for a in addresses]
    readings = [
        make_reading("identity", identity, COLLECTOR),
        make_reading("placement", Placement(address=addresses[0]), COLLECTOR),
        make_reading("addresses", [Address(address=one) for one in addresses], COLLECTOR),
        make_reading("dns_names", names, COLLECTOR),
    ]
    return Finding(whole, whole, readings)


def _check(settings: ZoneSettings) -> None:
    try:
        if dns.name.from_text(settings.zone) == dns.name.root:
            raise SettingError("zone", "The root of all names is no company's zone.")
    except dns.exception.DNSException as wrong:
        raise SettingError("zone", f"“{settings.zone}” is no domain: {wrong}.") from None


KINDS = (
    SourceKind(
        "name zone",
        COLLECTOR,
        "a zone of the name service: the names in it and their addresses, handed over whole",
        ZoneSettings,
        (
            Setting("server", "Address of the name server", needed="Say where the name server is, such as 10.0.0.53."),
            Setting("zone", "Domain", needed="Say which domain's names it is asked for, such as company.example."),
            Setting("port", "Port", "number", usual=53, least=1, most=65_535),
        ),
        lambda settings, asking: read_zone(asking.route, settings),
        host_in="server",
        check=_check,
    ),
)
"""Other systems that know devices: each yields what it knows as findings, a device at a time."""
