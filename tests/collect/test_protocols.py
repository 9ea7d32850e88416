"""The wire: BER and the lab's agent, TLS certificates from a real port, pace, and late connections."""

import asyncio
import datetime as dt
import socket
import ssl
import time
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.collect.credentials import SnmpCredential
from tarn.collect.look import LookSettings, look
from tarn.collect.looked import Look
from tarn.collect.problems import Problem
from tarn.collect.reach import _late, reach
from tarn.collect.routes import DIRECT, LAB
from tarn.collect.snmp.client import snmp
from tarn.collect.snmp.network import neighbours
from tarn.collect.sweep import Pace, sweep
from tarn.collect.tls import certificate
from tarn.core.ranges import parse_range
from tarn.lab import ber
from tarn.lab.keys import certificate_pem
from tarn.lab.mib import mib, oid
from tarn.lab.shell import run
from tarn.lab.snmp import Agent
from tarn.lab.timeline import World

NOW = dt.datetime(2026, 8, 3, 12, 0, tzinfo=dt.UTC)


@given(st.integers(-(2**62), 2**62))
def test_integers_read_back(number):
    tag, body, _ = ber.read(ber.integer(number))
    assert (tag, ber.number(body)) == (ber.INTEGER, number)


@given(st.lists(st.integers(0, 2**32 - 1), min_size=1, max_size=20))
def test_object_ids_read_back(parts):
    whole = (1, 3, *parts)
    _, body, _ = ber.read(ber.object_id(whole))
    assert ber.read_oid(body) == whole


@given(st.binary(max_size=60))
def test_garbage_is_dropped_by_the_agent_and_not_fatal(data):
    agent = Agent(list, version="v2c", community="c", user="u", auth="a" * 8, privacy="p" * 8, engine=b"\x80engine")
    agent.datagram_received(data, ("127.0.0.1", 1))


def agent_for(name: str, **rest: object) -> Agent:
    device = next(d for d in World().on(400) if d.name == name)
    settings: dict[str, object] = {
        "version": "v2c",
        "community": "kelp",
        "user": "tide",
        "auth": "ebb-auth-pass",
        "privacy": "ebb-priv-pass",
    }
    return Agent(lambda: mib(device), engine=b"\x80\x00\x01kelp", **{**settings, **rest})  # type: ignore[arg-type]


@pytest.fixture
async def agent(request):
    """An agent on a port of its own."""
    made = agent_for("salt-sw-01", **getattr(request, "param", {}))
    transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(lambda: made, local_addr=("127.0.0.1", 0))
    yield transport.get_extra_info("sockname")[1]
    transport.close()


async def test_a_walk_brings_every_row_once_and_in_order(agent):
    device = next(d for d in World().on(400) if d.name == "salt-sw-01")
    expected = [".".join(map(str, o)) for o, _ in mib(device) if o[:10] == oid("1.3.6.1.2.1.2.2.1.2")]
    async with snmp(DIRECT, "127.0.0.1", SnmpCredential("c", "v2c", community="kelp", port=agent, timeout=2)) as walker:
        rows = await walker.walk("1.3.6.1.2.1.2.2.1.2")
        assert [o for o, _ in rows] == expected
        assert await walker.walk("1.3.6.1.9") == []
        assert await walker.get(["1.3.6.1.2.1.1.5.0", "1.3.6.1.9.9.0"]) == {
            "1.3.6.1.2.1.1.5.0": b"salt-sw-01.skerrivane.example"
        }


@pytest.mark.parametrize("agent", [{"version": "v3"}], indirect=True)
async def test_v3_reads_the_same_and_tells_a_wrong_secret_from_silence(agent):
    right = {
        "user": "tide",
        "auth_secret": "ebb-auth-pass",
        "privacy_secret": "ebb-priv-pass",
        "port": agent,
        "timeout": 1.0,
    }
    async with snmp(DIRECT, "127.0.0.1", SnmpCredential("c", "v3", **right)) as walker:
        assert len(await walker.walk("1.3.6.1.2.1.2.2.1.2")) == 26
    with pytest.raises(Problem) as caught:
        async with snmp(
            DIRECT, "127.0.0.1", SnmpCredential("c", "v3", **{**right, "auth_secret": "wrong-wrong"})
        ) as walker:
            await walker.get(["1.3.6.1.2.1.1.5.0"])
    assert caught.value.code == "sign-in-refused"
    with pytest.raises(Problem) as caught:
        async with snmp(
            DIRECT, "127.0.0.1", SnmpCredential("c", "v2c", community="kelp", port=agent, timeout=0.2)
        ) as walker:
            await walker.get(["1.3.6.1.2.1.1.5.0"])
    assert caught.value.code == "snmp-silent"


@pytest.mark.parametrize("agent", [{"looping": True}], indirect=True)
async def test_an_agent_that_answers_in_a_circle_is_ended(agent):
    async with snmp(DIRECT, "127.0.0.1", SnmpCredential("c", "v2c", community="kelp", port=agent, timeout=1)) as walker:
        with pytest.raises(Problem) as caught:
            await walker.walk("1.3.6.1.2.1.2.2.1.2")
    assert caught.value.code == "looping"


async def test_a_certificate_is_read_from_a_real_port_whoever_signed_it(tmp_path):
    file = tmp_path / "c.pem"
    file.write_bytes(certificate_pem("berth.skerrivane.example", NOW, NOW + dt.timedelta(days=90)))
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(file)
    server = await asyncio.start_server(lambda r, w: w.close(), "127.0.0.1", 0, ssl=context)
    plain = await asyncio.start_server(lambda r, w: w.close(), "127.0.0.1", 0)
    async with server, plain:
        read = await certificate(DIRECT, "127.0.0.1", server.sockets[0].getsockname()[1], 3)
        none = await certificate(DIRECT, "127.0.0.1", plain.sockets[0].getsockname()[1], 3)
    assert read is not None
    assert read.subject == read.issuer == "berth.skerrivane.example"
    assert read.ends - read.begins == 90 * 86_400
    assert len(read.fingerprint) == 64
    assert none is None


async def test_reach_tells_open_from_refused_and_both_from_silence():
    server = await asyncio.start_server(lambda r, w: w.close(), "127.0.0.1", 0)
    async with server:
        port = server.sockets[0].getsockname()[1]
        direct = await reach(DIRECT, "127.0.0.1", (port, 1), 1)
        assert direct.open == [port]
        assert direct.refused
    lab = await reach(LAB, "10.60.96.1", (22, 80), 0.2)
    assert not lab.anything, "on the lab's loopback a refusal proves nothing"


def test_a_connection_the_system_made_while_we_were_busy_counts():
    def late(port: int) -> str:
        with socket.socket() as sock:
            sock.setblocking(False)
            sock.connect_ex(("127.0.0.1", port))
            time.sleep(0.05)
            return _late(sock)

    with socket.socket() as listener:
        listener.bind(("127.0.0.1", 0))
        port = listener.getsockname()[1]
        assert late(port) == "refused"
        listener.listen()
        assert late(port) == "open"


async def test_a_networks_pace_bounds_what_is_in_flight_there(monkeypatch):
    flying = most = 0

    async def slow(address: str, settings: LookSettings, stage: object) -> Look:
        nonlocal flying, most
        flying += 1
        most = max(most, flying)
        await asyncio.sleep(0.01)
        flying -= 1
        return Look(address, outcome="no answer")

    monkeypatch.setattr("tarn.collect.sweep.begin", slow)
    kept = Pace((parse_range("10.60.95.0/24"),), at_once=3)
    addresses = [f"10.60.95.{i}" for i in range(1, 13)]
    done = [k.address async for k in sweep(addresses, LookSettings(LAB, ()), at_once=12, pace=lambda a: kept)]
    assert most == 3
    assert sorted(done) == sorted(addresses)


async def test_a_phone_without_credentials_is_known_by_what_router_and_switch_tell(running_terminal):
    from tarn.collect.credentials import SnmpCredential

    by = SnmpCredential("v3", "v3", user="harbour", auth_secret="harbour-auth-pass", privacy_secret="harbour-priv-pass")
    addresses = ["10.60.8.96", "10.60.8.1", "10.60.8.2", "10.60.8.3", "10.60.8.98", "10.60.8.240"]
    looks = {k.address: k async for k in sweep(addresses, LookSettings(LAB, (by,), patience=0.4), at_once=8)}
    camera = next(d for d in World().on(400) if d.address == "10.60.8.96")
    sighting = looks["10.60.8.96"].sighting(("sweep", "t"))
    assert sighting is not None
    assert [m for r in sighting.readings if r.section == "identity" for m in r.facts.macs] == [camera.interfaces[0].mac]
    assert looks["10.60.8.98"].code == "heard-of"
    assert "avrn-gw-01" in looks["10.60.8.98"].reason
    assert "avrn-sw-0" in looks["10.60.8.98"].reason
    assert looks["10.60.8.240"].outcome == "no answer"


@pytest.fixture
async def running_terminal():
    from tarn.lab.serve import Lab

    lab = Lab(400)
    await lab.start({"avrn-gw-01", "avrn-sw-01", "avrn-sw-02", "avrn-cam-06"})
    yield
    await lab.stop()


def test_what_switches_have_learnt_agrees_with_their_neighbours_and_with_the_router():
    devices = {d.name: d for d in World().on(400)}
    macs = {i.mac for d in devices.values() for i in d.interfaces}
    for device in devices.values():
        if device.links is None:
            continue
        for _, chassis, name, port in device.links.neighbours:
            other = devices[name]
            assert chassis == other.interfaces[0].mac
            assert port in {i.name for i in other.interfaces}
            assert any(n == device.name for _, _, n, _ in other.links.neighbours)
        assert {m for m, _, _ in device.links.forwarding} <= macs
        for address, mac in device.links.arp:
            there = next(d for d in devices.values() if d.address == address)
            assert mac == there.interfaces[0].mac


async def test_a_neighbours_port_of_six_letters_is_no_hardware_address():
    class Walker:
        def __init__(self, *sorts: int) -> None:
            self.sorts = sorts

        async def walk(self, oid: str) -> list[tuple[str, Any]]:
            table = oid.removeprefix("1.0.8802.1.1.2.1.")
            held: dict[str, Any] = {"4.1.1.5": b"\x18\xf9\x5e\x8c\xa9\xc7", "4.1.1.7": b"port26", "4.1.1.9": b"salt"}
            held |= dict(zip(("4.1.1.4", "4.1.1.6"), self.sorts, strict=False))
            return [(f"{oid}.0.1.1", held[table])] if table in held else []

    for walker in (Walker(4, 5), Walker()):
        (reading,) = await neighbours(walker)
        assert [(n.chassis, n.remote_port) for n in reading.items] == [("18:f9:5e:8c:a9:c7", "port26")]


async def test_a_look_never_raises_whatever_a_library_does(monkeypatch):
    async def broken(*_: object) -> None:
        raise RuntimeError("out of the blue")

    monkeypatch.setattr("tarn.collect.look.reach", broken)
    found = await look("10.60.4.1", LookSettings(LAB, ()))
    assert (found.outcome, found.code) == ("answered", "failed")
    assert "out of the blue" in found.reason


@pytest.mark.parametrize(
    ("line", "code", "says"),
    [
        ("echo one; echo two", 0, "one\ntwo\n"),
        ("hostname", 0, "salt-tix-01\n"),
        ("sudo -n hostname -f", 0, "salt-tix-01.skerrivane.example\n"),
        ("no-such-command", 127, ""),
        ("rpm -qa 2>/dev/null; echo 'a;b'", 0, "a;b\n"),
        ("cat /etc/shadow", 1, ""),
    ],
)
def test_the_labs_shell_answers_as_a_shell_does(line, code, says):
    device = next(d for d in World().on(400) if d.name == "salt-tix-01")
    out, err, ended = run(device, line, NOW)
    assert (out, ended) == (says, code)
    assert bool(err) == (code != 0)
