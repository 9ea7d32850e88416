"""Other systems: the lab's directory and inventories over the wire, and servers that answer wrongly."""

import asyncio
import datetime as dt
import json
import ssl
import time
from contextlib import asynccontextmanager

import pytest
from aiohttp import web

from tarn.collect.credentials import HttpCredential, LdapCredential
from tarn.collect.ldap.client import COMPUTERS, PEOPLE, directory
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT, LAB
from tarn.collect.sources import trust
from tarn.collect.sources.directory import PICKS, DirectorySettings, computer, picked, read_directory, unit
from tarn.collect.sources.inventory import Inventory, InventorySettings, at_path, from_xml
from tarn.collect.sources.sbom import SbomError, read_sbom
from tarn.lab import systems
from tarn.lab.keys import certificate_pem, public_pin
from tarn.lab.serve import Lab
from tarn.lab.timeline import World

PIN = public_pin("directory.skerrivane.example")
BIND = LdapCredential("dir", systems.BIND, systems.BIND_PASSWORD, timeout=3)


@pytest.fixture
async def others():
    lab = Lab(400)
    await lab.start({"systems"})
    yield lab
    await lab.stop()


@pytest.mark.parametrize("plain", [False, True])
async def test_the_directory_tells_its_computers_page_by_page(others, monkeypatch, plain):
    monkeypatch.setattr("tarn.collect.ldap.client.PAGE", 7)
    credential = LdapCredential("d", systems.BIND, systems.BIND_PASSWORD, plain=plain, port=389 if plain else 636)
    found = [
        f
        async for f in read_directory(
            LAB, credential, DirectorySettings(systems.DIRECTORY, people=False, certificate=PIN)
        )
    ]
    there = systems.directory_entries(World().on(400), others.moment)
    computers = {e["cn"][0] for e in there.values() if "computer" in e["objectclass"]}
    assert {f.label.split(".")[0] for f in found} == computers
    assert len({f.key for f in found}) == len(found)
    assert all(not f.faults for f in found)


async def test_a_further_condition_narrows_and_a_wrong_one_is_said(others):
    some = DirectorySettings(systems.DIRECTORY, people=False, certificate=PIN, condition="(operatingSystem=*Server*)")
    found = [f async for f in read_directory(LAB, BIND, some)]
    assert {f.label.split(".")[0] for f in found} == {"salt-win-01", "salt-win-02", "salt-dc-01", "salt-dc-02"}
    with pytest.raises(Problem) as caught:
        [
            f
            async for f in read_directory(
                LAB, BIND, DirectorySettings(systems.DIRECTORY, certificate=PIN, condition="(cn=*(*)")
            )
        ]
    assert "filter" in caught.value.says


@pytest.mark.parametrize(
    ("code", "says"),
    [("532", "password-expired"), ("775", "account-locked"), ("533", "account-locked"), ("52e", "sign-in-refused")],
)
async def test_why_a_bind_is_refused_is_told_apart(code, says):
    from tarn.lab.ldap import DirectoryServer

    server = DirectoryServer(systems.BASE, {}, {systems.BIND.lower(): f"!{code}"})
    listening = await asyncio.start_server(server.serve, "127.0.0.1", 0)
    port = listening.sockets[0].getsockname()[1]
    with pytest.raises(Problem) as caught:
        async with directory(
            DIRECT, "127.0.0.1", LdapCredential("d", systems.BIND, "x", plain=True, port=port, timeout=2), Expected()
        ):
            pass
    listening.close()
    assert caught.value.code == says


async def test_counts_of_what_the_account_may_read(others):
    async with directory(LAB, systems.DIRECTORY, BIND, Expected()) as opened:
        counts = await opened.counts(systems.BASE)
        assert counts["computers"] == len(await opened.search(systems.BASE, COMPUTERS, ["1.1"]))
        assert counts["people"] == len(await opened.search(systems.BASE, PEOPLE, ["1.1"])) > 20


def test_picks_leave_out_the_stale_and_the_disabled():
    now = int(time.time())

    def entry(system, days, control=0x1000):
        stamp = str((now - days * 86_400 + 11_644_473_600) * 10_000_000)
        return computer(
            "cn=a,ou=Bays,ou=computers,dc=x",
            {
                "cn": ["a"],
                "operatingsystem": [system],
                "lastlogontimestamp": [stamp],
                "useraccountcontrol": [str(control)],
            },
        )

    cases = [
        (entry("Windows 11 Pro", 3), "workstations"),
        (entry("Windows Server 2022", 3), "member servers"),
        (entry("Windows Server 2022", 3, 0x2000), "domain controllers"),
        (entry("Windows 11 Pro", 200), None),
        (entry("Windows 11 Pro", 3, 0x1002), None),
    ]
    for finding, expected in cases:
        assert [p for p in PICKS if picked(finding, p, now)] == ([expected] if expected else [])
    assert unit("cn=a,ou=Bay\\, east,ou=computers,dc=x") == "computers / Bay, east"
    assert unit("cn=a,ou=Desk\\2C North,ou=K\\C3\\B8b,dc=x") == "Køb / Desk, North"
    assert unit("no name at all") == ""


MANAGED = {
    "list": "devices", "items": "devices", "key": "id", "paging": "page", "page_parameter": "page",
    "size_parameter": "per_page", "size": 25, "since": "changedSince",
    "fields": {"name": {"from": "deviceName"}, "serial": {"from": "serialNumber"}, "mac": {"from": "hardware.wifiMac"}},
}  # fmt: skip
TOKEN = HttpCredential("t", "bearer", secret=systems.DEVICES_TOKEN, timeout=3)


async def test_device_management_tells_all_pages_and_what_changed_since(others):
    asked = Inventory(
        LAB,
        TOKEN,
        InventorySettings(
            base=f"https://{systems.DEVICES}/api/v2", certificate=public_pin("devices.skerrivane.example"), **MANAGED
        ),
    )
    there = systems.managed_devices(World().on(400), others.moment)
    assert {f.key for f in [f async for f in asked.findings()]} == {r["id"] for r in there}
    since = sorted(r["lastCheckIn"] for r in there)[len(there) // 2]
    assert {f.key for f in [f async for f in asked.findings(since)]} == {
        r["id"] for r in there if r["lastCheckIn"] > since
    }


@pytest.mark.parametrize(
    ("pin", "code"),
    [("", "untrusted-source"), (public_pin("another.example"), "other-certificate")],
)
async def test_a_source_with_another_key_gets_nothing_and_its_own_is_told(others, pin, code):
    base = f"https://{systems.DEVICES}/api/v2"
    asked = Inventory(LAB, TOKEN, InventorySettings(base=base, certificate=pin, **MANAGED))
    with pytest.raises(Problem) as caught:
        [f async for f in asked.findings()]
    assert caught.value.code == code
    assert public_pin("devices.skerrivane.example") in caught.value.says, "so that a person can compare it"


async def test_a_certificate_of_an_authority_is_taken_for_its_name_alone(monkeypatch, tmp_path):
    """A server with a certificate for localhost that an authority of ours signed, and the same one under another name."""
    now = dt.datetime.now(dt.UTC)
    pem = certificate_pem("localhost", now - dt.timedelta(2), now + dt.timedelta(30))
    (tmp_path / "both.pem").write_bytes(pem)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(tmp_path / "both.pem")
    trusting = ssl.create_default_context(cadata=pem[pem.index(b"-----BEGIN CERT") :].decode())
    monkeypatch.setattr(trust, "_ordinary", lambda: trusting)
    app = web.Application()
    app.router.add_get("/devices", lambda r: web.json_response({"devices": [{"id": "1", "deviceName": "a"}]}))
    runner = web.AppRunner(app)
    await runner.setup()
    site = web.TCPSite(runner, "127.0.0.1", 0, ssl_context=context)
    await site.start()
    port = site._server.sockets[0].getsockname()[1]
    try:
        for host, code in (("localhost", False), ("127.0.0.1", True)):
            fields = {"fields": {"name": {"from": "deviceName"}}, "items": "devices"}
            settings = InventorySettings(base=f"https://{host}:{port}", list="devices", key="id", **fields)
            monkeypatch.setattr("tarn.collect.sources.inventory.addresses_of", _here)
            told = [f.label async for f in Inventory(DIRECT, None, settings).findings()] if not code else []
            assert told == ([] if code else ["a"])
            if code:
                with pytest.raises(Problem, match="not valid for"):
                    [f async for f in Inventory(DIRECT, None, settings).findings()]
    finally:
        await runner.cleanup()


async def _here(route, name):
    return ["127.0.0.1"]


async def test_endpoint_management_is_read_by_list_and_detail(others):
    from tarn.collect.sources.mapped import PREPARED

    settings = InventorySettings(**{**PREPARED["endpoint management, XML by offset"], "size": 20})
    reader = HttpCredential("b", "basic", systems.ENDPOINTS_USER, systems.ENDPOINTS_PASSWORD, timeout=3)
    found = {f.key: f async for f in Inventory(LAB, reader, settings).findings()}
    there = {r["id"]: r for r in systems.endpoints(World().on(400), others.moment)}
    assert set(found) == set(there)
    for key, row in there.items():
        held = {r.section: r for r in found[key].readings}
        assert held["identity"].facts.serial == row["serial"]
        assert held["hardware"].facts.memory == row["memory"] << 20
        assert {(p.name, p.version) for p in held["packages"].items} == {(n, v) for n, v, _ in row["software"]}


@asynccontextmanager
async def serving(handler):
    app = web.Application()
    app.router.add_get("/{path:.*}", handler)
    runner = web.AppRunner(app)
    await runner.setup()
    site = web.TCPSite(runner, "127.0.0.1", 0)
    await site.start()
    yield f"http://127.0.0.1:{site._server.sockets[0].getsockname()[1]}/api"  # type: ignore[union-attr]
    await runner.cleanup()


async def same_page(request):
    return web.json_response({"devices": [{"id": n, "deviceName": f"pc-{n}"} for n in range(25)]})


async def elsewhere(request):
    raise web.HTTPFound("http://10.60.21.7/secret")


async def bomb(request):
    return web.Response(text='<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "x"><!ENTITY c "&b;&b;">]><a>&c;</a>')


async def nonsense(request):
    return web.Response(text="<html>sign in</html>")


async def forbidden(request):
    return web.Response(status=403)


async def broken(request):
    return web.Response(status=500)


async def endless(request):
    answer = web.StreamResponse()
    await answer.prepare(request)
    while True:
        await answer.write(b" " * 65536)


@pytest.mark.parametrize(
    ("handler", "change", "code"),
    [
        (same_page, {}, "looping-pages"),
        (elsewhere, {}, "elsewhere"),
        (bomb, {"format": "xml", "paging": "none"}, "nonsense"),
        (nonsense, {}, "nonsense"),
        (forbidden, {}, "sign-in-refused"),
        (broken, {}, "failed"),
        (endless, {}, "failed"),
        (same_page, {"list": "http://10.60.21.7/devices"}, "elsewhere"),
    ],
    ids=[
        "the same page for ever",
        "a redirect",
        "an XML bomb",
        "no JSON",
        "forbidden",
        "broken",
        "endless",
        "a call elsewhere",
    ],
)
async def test_an_inventory_that_answers_wrongly_is_told_apart_and_ends(handler, change, code, monkeypatch):
    monkeypatch.setattr("tarn.collect.sources.inventory.MOST_OCTETS", 1 << 20)
    async with serving(handler) as base:
        asked = Inventory(DIRECT, TOKEN, InventorySettings(base=base, **{**MANAGED, **change}))
        with pytest.raises(Problem) as caught:
            [f async for f in asked.findings()]
    assert caught.value.code == code


async def test_a_device_without_an_id_and_an_unreadable_value_are_faults_of_their_row():
    async def one(request):
        return web.json_response({"devices": [{"deviceName": "a", "hardware": {"wifiMac": "7c:1e"}}]})

    async with serving(one) as base:
        asked = Inventory(DIRECT, None, InventorySettings(base=base, **{**MANAGED, "paging": "none"}))
        (found,) = [f async for f in asked.findings()]
    assert {f.target for f in found.faults} == {"key", "mac"}


def test_paths_and_xml():
    document = from_xml(b'<r><c id="1"><n>a</n></c><c id="2"><n>b</n></c></r>')
    assert at_path(document, "r.c.1.@id") == "2"
    assert at_path(document, "r.c.5.@id") is None
    assert at_path({"a": [1]}, "a.b") is None


def test_a_bill_of_materials_is_software_of_a_device():
    bom = {
        "bomFormat": "CycloneDX",
        "specVersion": "1.5",
        "components": [{"name": "keel", "version": "2.1", "group": "marl"}],
    }
    readings = read_sbom(json.dumps(bom).encode(), number="A-00007")
    assert [(p.name, p.version) for p in readings[1].items] == [("marl/keel", "2.1")]
    for wrong, says in (
        (b"{", "no JSON"),
        (b"{}", "CycloneDX"),
        (b'{"bomFormat":"CycloneDX","components":[{}]}', r"components\[0\]"),
    ):
        with pytest.raises(SbomError, match=says):
            read_sbom(wrong, number="A-00007")
