"""Collectors against the lab over real sockets, compared with the lab's own truth file."""

import asyncio
import dataclasses
import json

import pytest

from tarn.collect.credentials import SnmpCredential, SshCredential
from tarn.collect.look import LookSettings
from tarn.collect.routes import LAB, route_named
from tarn.collect.sweep import Halt, sweep
from tarn.core.sightings import effective
from tarn.lab import scenario
from tarn.lab.serve import Lab, aboard
from tarn.lab.timeline import World, truth

CREDENTIALS = (
    SnmpCredential(
        "v3",
        "v3",
        user=scenario.SNMP_USER,
        auth_secret=scenario.SNMP_AUTH,
        privacy_secret=scenario.SNMP_PRIVACY,
        timeout=1,
    ),
    SnmpCredential("v2", "v2c", community=scenario.SNMP_COMMUNITY, timeout=1),
    SshCredential("ssh", scenario.SSH_USER, password=scenario.SSH_PASSWORD, timeout=5),
)
SETTINGS = LookSettings(LAB, CREDENTIALS, patience=0.5)


async def test_what_is_read_is_what_is_there():
    lab = Lab(400)
    await lab.start()
    try:
        told = {t["address"]: t for t in truth(400)}
        looks = []
        for number in {aboard(int(a.split(".")[2])) for a in told}:
            route = route_named("lab" if number == 60 else f"lab-{number}")
            theirs = sorted(a for a in told if aboard(int(a.split(".")[2])) == number)
            looks += [k async for k in sweep(theirs, dataclasses.replace(SETTINGS, route=route), at_once=64)]
    finally:
        await lab.stop()
    assert {k.address for k in looks} == set(told)
    for found in looks:
        there = told[found.address]
        readable = there["snmp"] or (there["ssh"] == "yes" and there["fault"] not in ("stall", "nonsense"))
        assert (found.outcome in ("fully read", "part read")) == bool(readable), (found.address, found.reason)
        if not readable:
            continue
        sighting = found.sighting(("sweep", "lab"))
        assert sighting is not None
        chosen = effective(sighting)
        identity = chosen["identity"].facts
        assert (identity.name, identity.serial, identity.manufacturer) == (
            there["name"],
            there["serial"],
            there["maker"],
        )
        if there["ssh"] == "yes":
            assert chosen["hardware"].facts.memory == there["memory"]
            assert chosen["hardware"].facts.cores == there["cores"]
            system = chosen["system"].facts
            assert f"{system.os_name} {system.os_version}" == there["os"]
            read = {p.name: p.version for p in chosen["packages"].items}
            if there["fault"] == "cut":
                assert not chosen["packages"].complete
                assert read.items() < there["packages"].items()
            else:
                assert read == there["packages"]


async def test_two_hundred_are_in_flight_at_once_and_a_halt_ends_it():
    flying = most = 0

    def stage(address: str, number: int) -> None:
        nonlocal flying, most
        flying += number == 1
        most = max(most, flying)

    addresses = [f"10.60.99.{i}" for i in range(1, 255)]
    halt = Halt()
    seen = 0
    async for _ in sweep(
        addresses, LookSettings(LAB, CREDENTIALS[1:2], patience=0.1), at_once=220, halt=halt, stage=stage
    ):
        flying -= 1
        seen += 1
        halt.wished = True
    assert most >= 200
    assert 220 <= seen < len(addresses)


@pytest.mark.parametrize("day", [330, 365, 399])
def test_a_day_is_the_same_each_time_and_differs_from_others(day):
    once, again = truth(day), truth(day)
    assert json.dumps(once, sort_keys=True) == json.dumps(again, sort_keys=True)
    assert json.dumps(truth(day - 20), sort_keys=True) != json.dumps(once, sort_keys=True)


def test_things_happen_over_time():
    world = World()
    by_name = lambda day: {d.identity: d for d in world.on(day)}  # noqa: E731
    early, late = by_name(300), by_name(399)
    assert early["salt-berth-01"].memory < late["salt-berth-01"].memory
    assert late["salt-ws-07"].name == "salt-ws-31"
    assert "salt-lt-09" in early
    assert "salt-lt-09" not in late
    assert late["salt-prn-03 (second)"].serial != early["salt-prn-03"].serial
    assert "galleykeeper-till" in late["avrn-till-01"].packages
    docks = {
        d.name for day in range(300, 310) for d in world.on(day) if any(i.name == "enx-dock" for i in d.interfaces)
    }
    assert len(docks) == 5


async def test_a_port_that_speaks_something_else_is_no_crash():
    async def babble(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        writer.write(b"\x00\xff" * 2000)
        writer.close()

    host, port = LAB.dial("10.60.98.7", 22)
    server = await asyncio.start_server(babble, host, port)
    async with server:
        looks = [k async for k in sweep(["10.60.98.7"], SETTINGS, at_once=1)]
    assert looks[0].outcome == "answered"
    assert looks[0].code in ("no-greeting", "nonsense", "cut-off")
    assert looks[0].remedy
