"""A zone of the name service, handed over whole, refused, or broken off; on real sockets."""

import asyncio
from contextlib import asynccontextmanager
from functools import partial

import dns.asyncquery
import dns.asyncresolver
import dns.rdatatype
import dns.zone
import pytest

from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT, route_named
from tarn.collect.sources import zone
from tarn.collect.sources.kind import Asking, SettingError, kinds
from tarn.collect.sources.zone import ZoneSettings, read_zone
from tarn.core.truth import Claim, order
from tarn.lab.dns import hand_over

ZONE = "isles.example"
HELD = {(f"pc-{n:03d}.{ZONE}.", "A"): f"10.9.{n // 200}.{n % 200 + 1}" for n in range(250)} | {
    (f"pc-007.{ZONE}.", "AAAA"): "fd00::7",
    (f"v6.{ZONE}.", "AAAA"): "fd00::8",
    (f"Till.Quay.{ZONE}.".lower(), "A"): "10.9.9.9",
    (f"{ZONE}.", "A"): "10.9.9.1",
    (f"*.{ZONE}.", "A"): "10.9.9.2",
    (f"_ldap.{ZONE}.", "A"): "10.9.9.3",
    ("1.9.9.10.in-addr.arpa.", "PTR"): f"{ZONE}.",
    (f"www.{ZONE}.", "CNAME"): f"pc-001.{ZONE}.",
}


@asynccontextmanager
async def serving(handler):
    server = await asyncio.start_server(handler, "127.0.0.1", 0)
    async with server:
        yield server.sockets[0].getsockname()[1]


async def ask(port, domain=ZONE):
    return [f async for f in read_zone(DIRECT, ZoneSettings("127.0.0.1", domain, port))]


def read(finding, section):
    [reading] = [r for r in finding.readings if r.section == section]
    return reading.facts if hasattr(reading, "facts") else reading.items


async def test_every_name_with_an_address_is_a_device_and_nothing_else_is():
    async with serving(partial(hand_over, HELD)) as port:
        found = {f.key: f for f in await ask(port)}
    assert len(found) == 252
    assert set(found) >= {f"pc-249.{ZONE}", f"v6.{ZONE}", f"till.quay.{ZONE}"}
    seven = found[f"pc-007.{ZONE}"]
    assert [a.address for a in read(seven, "addresses")] == ["10.9.0.8", "fd00::7"]
    assert (read(seven, "identity").name, read(seven, "identity").domain) == ("pc-007", ZONE)
    assert read(found[f"till.quay.{ZONE}"], "identity").name == "till.quay"
    assert not any(f.faults for f in found.values())


async def test_a_zone_that_is_not_handed_over_says_so():
    async with serving(partial(hand_over, HELD)) as port:
        with pytest.raises(Problem, match=r"does not hand over the zone “other\.example”: REFUSED"):
            await ask(port, "other.example")
    with pytest.raises(Problem, match="The name service did not answer"):
        await ask(port)


async def test_a_transfer_that_breaks_off_yields_no_half_of_a_zone():
    async def broken(reader, writer):
        whole = bytearray()

        class Kept:
            def write(self, data):
                whole.extend(data)

            async def drain(self):
                pass

            def close(self):
                pass

        await hand_over(HELD, reader, Kept())
        writer.write(whole[: len(whole) // 2])
        await writer.drain()
        writer.close()

    async with serving(broken) as port:
        with pytest.raises(Problem) as told:
            await ask(port)
    assert told.value.code == "no-names"


async def test_a_zone_without_end_is_given_up_and_nothing_of_it_taken(monkeypatch):
    monkeypatch.setattr(zone, "MOST", 100)
    async with serving(partial(hand_over, HELD)) as port:
        with pytest.raises(Problem, match="more than 100 sets of records"):
            await ask(port)
    monkeypatch.setattr(zone, "MOST", len(HELD) + 1)
    async with serving(partial(hand_over, HELD)) as port:
        assert len(await ask(port)) == 252


async def test_what_answers_no_dns_is_told():
    async def chatter(reader, writer):
        writer.write(b"220 quay mail ready\r\n" * 40)
        await writer.drain()
        writer.close()

    async with serving(chatter) as port:
        with pytest.raises(Problem):
            await ask(port)


async def test_the_labs_zone_says_what_its_name_server_answers(lab):
    kind, route = kinds()["name zone"], route_named("lab")
    given = {"server": "10.60.4.53", "zone": "skerrivane.example"}
    found = [f async for f in kind.findings(given, Asking(route, None))]
    assert {"salt-pc-01.skerrivane.example", "salt-berth-01.skerrivane.example"} <= {f.key for f in found}
    resolver = dns.asyncresolver.Resolver(configure=False)
    host, port = route.dial("10.60.4.53", 53)
    resolver.nameservers, resolver.port = [host], port
    for one in found:
        answer = await resolver.resolve(one.key, "A")
        assert [a.address for a in read(one, "addresses")] == [str(r) for r in answer]


@pytest.mark.parametrize("domain", [".", "a..b", "x" * 64 + ".example"])
def test_what_is_no_domain_is_refused(domain):
    with pytest.raises(SettingError) as refused:
        kinds()["name zone"].checked({"server": "10.0.0.53", "zone": domain})
    assert refused.value.name == "zone"


def test_a_name_service_is_believed_after_a_system_of_record():
    claims = [
        Claim(1, "name zone", "identity", "old-name", 0, 900),
        Claim(2, "directory", "identity", "new-name", 0, 100),
    ]
    assert [c.source_kind for c in order(claims)] == ["directory", "name zone"]
