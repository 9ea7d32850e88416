"""A warranty service and a service desk that answer well, slowly, wrongly or not at all; on real sockets."""

from contextlib import asynccontextmanager

import pytest
from aiohttp import web
from aiohttp.test_utils import TestServer

from tarn.collect.credentials import HttpCredential
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT
from tarn.collect.sources import inventory
from tarn.collect.sources.desk import DeskSettings, open_ticket, read_desk
from tarn.collect.sources.known import KnownDevice, KnownDevices
from tarn.collect.sources.warranty import WarrantySettings, findings_of, read_warranties
from tarn.lab.services import DESK_TOKEN, service_desk

DEVICES = tuple(KnownDevice(f"A-{n:05d}", f"H-{n}", "Halberd", f"salt-nb-{n}") for n in range(1, 8))
KNOWN = KnownDevices(
    (*DEVICES, KnownDevice("A-00099", "Q-1", "Quarto", "salt-prn-1"), KnownDevice("A-00098", "", "Halberd"))
)
KEY = HttpCredential("care", "header", "X-Key", "s3cret")


@asynccontextmanager
async def served(answer, path="/v1/warranties", method="POST"):
    """Serve one call; what was asked is noted."""
    asked = []

    async def handle(request):
        body = await request.json() if request.can_read_body else dict(request.query)
        asked.append(body)
        return answer(len(asked), request, body)

    app = web.Application()
    app.router.add_route(method, path, handle)
    runner = web.AppRunner(app)
    await runner.setup()
    site = web.TCPSite(runner, "127.0.0.1", 0)
    await site.start()
    port = site._server.sockets[0].getsockname()[1]
    try:
        yield f"http://127.0.0.1:{port}", asked
    finally:
        await runner.cleanup()


def told(serials, **more):
    coverage = {"name": "Bench", "from": "2025-01-01", "to": "2027-12-31", **more}
    return web.json_response({"results": [{"serial": s, "coverages": [coverage]} for s in serials]})


async def ask(base, known=KNOWN, **more):
    settings = WarrantySettings(f"{base}/v1", "halberd", batch=3, **more)
    return [f async for f in read_warranties(DIRECT, KEY, settings, known)]


async def test_only_the_makers_devices_with_a_serial_number_are_asked_about_in_batches():
    async with served(lambda n, r, body: told(body["serials"])) as (base, asked):
        found = await ask(base)
    assert [len(a["serials"]) for a in asked] == [3, 3, 1]
    assert [f.key for f in found] == [d.serial for d in DEVICES]
    facts = next(r.facts for r in found[0].readings if r.section == "acquisition")
    assert facts.warranty_end - facts.warranty_from == (365 * 3 - 1) * 86_400
    assert found[0].readings[0].facts.tarn == "A-00001"


async def test_it_waits_when_told_to_and_gives_up_in_the_end(monkeypatch):
    slept = []

    async def sleep(seconds):
        slept.append(seconds)

    monkeypatch.setattr(inventory.asyncio, "sleep", sleep)

    def limited(n, request, body):
        return told(body["serials"]) if n % 2 == 0 else web.Response(status=429, headers={"Retry-After": "7"})

    async with served(limited) as (base, _):
        assert len(await ask(base)) == 7
    assert [s for s in slept if s] == [7, 7, 7]
    never = web.json_response
    async with served(lambda n, r, b: never({}, status=503, headers={"Retry-After": "900"})) as (base, _):
        with pytest.raises(Problem) as caught:
            await ask(base)
    assert "still asks to wait" in caught.value.says
    assert max(slept) == inventory.LONGEST_WAIT


async def test_a_batch_that_fails_is_asked_again_and_then_told_device_by_device():
    def broken(n, request, body):
        return web.Response(status=500) if "H-4" in body["serials"] else told(body["serials"])

    async with served(broken) as (base, asked):
        found = await ask(base)
    assert sum("H-4" in a["serials"] for a in asked) == 3
    faults = [str(f.faults[0]) for f in found if f.faults]
    assert len(faults) == 3
    assert faults[0].startswith("H-4 was not answered: ")
    assert all(not f.key and not f.readings for f in found if f.faults)  # nothing of it is handed in


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        (lambda n, r, b: web.Response(status=401), "refused the sign-in with “care”"),
        (lambda n, r, b: web.Response(text="<html>"), "JSON"),
        (
            lambda n, r, b: web.Response(status=302, headers={"Location": "http://elsewhere.example/"}),
            "elsewhere.example",
        ),
    ],
)
async def test_what_cannot_be_asked_at_all_is_a_problem_in_words(answer, says):
    async with served(answer) as (base, _):
        with pytest.raises(Problem) as caught:
            await ask(base, KnownDevices(DEVICES[:2]))
    assert says in caught.value.says


@pytest.mark.parametrize(
    ("coverage", "fault"),
    [
        ({"to": "soon"}, "“soon” is no day"),
        ({"to": "2020-01-01"}, "it ends before it begins"),
    ],
)
async def test_a_coverage_that_cannot_be_is_a_fault_and_the_rest_stays(coverage, fault):
    good = {"name": "On site", "from": "2025-01-01", "to": "2026-01-01"}
    bad = {"name": "Bench", "from": "2025-01-01", "to": "2027-12-31", **coverage}
    document = {"results": [{"serial": "h-1", "coverages": [good, bad]}, {"serial": "X-9", "coverages": [good]}]}
    (one,) = findings_of(document, list(DEVICES), WarrantySettings("http://x", "halberd"))
    assert [c.name for c in one.readings[1].items] == ["On site"]
    assert fault in str(one.faults[0])
    # The end of its warranty is not told while one coverage is not known.
    assert [r.section for r in one.readings] == ["identity", "coverages"]


def test_two_coverages_of_one_name_stay_two():
    one = {"name": "Bench", "from": "2024-01-01", "to": "2025-12-31"}
    two = {"name": "Bench", "from": "2026-01-01", "to": "2027-12-31"}
    document = {"results": [{"serial": "H-1", "coverages": [one, two]}]}
    (found,) = findings_of(document, list(DEVICES), WarrantySettings("http://x", "halberd"))
    assert [c.name for c in found.readings[1].items] == ["Bench", "Bench (2, until 2027-12-31)"]


def ticket(number, serial="H-1", state="new", **more):
    return {"number": number, "title": "Loud fan", "device": serial, "state": state, "opened": "2026-05-01", **more}


async def tickets(rows, known=KNOWN, **settings):
    async with served(lambda n, r, b: web.json_response({"tickets": rows}), "/tickets", "GET") as (base, _):
        asked = DeskSettings(base, link="https://desk.example/{number}", **settings)
        return [f async for f in read_desk(DIRECT, None, asked, known)]


async def test_tickets_are_gathered_by_device_and_counted_while_they_are_open():
    rows = [ticket("T1"), ticket("T2", state="Closed"), ticket("T3", "h-2"), ticket("T1")]
    first, second = await tickets(rows)
    assert (first.key, first.readings[2].facts.tickets_open) == ("A-00001", 1)
    assert [t.number for t in first.readings[1].items] == ["T1", "T2"]
    assert first.readings[1].items[0].link == "https://desk.example/T1"
    assert second.key == "A-00002"


async def test_who_had_tickets_and_has_none_is_told_so_and_nobody_else():
    known = KnownDevices(DEVICES, frozenset({"A-00003", "A-00001"}))
    found = {f.key: f.readings[2].facts.tickets_open for f in await tickets([ticket("T1")], known)}
    assert found == {"A-00001": 1, "A-00003": 0}


async def test_tickets_that_cannot_be_placed_or_read_are_faults_and_make_no_device():
    rows = [ticket("T1", "GONE-1"), ticket("T2", ""), ticket("T3", opened="yesterday")]
    found = await tickets(rows)
    assert found[0].key == ""
    assert [str(x) for x in found[0].faults] == ["No device of the register has the serial “GONE-1”."]
    assert "is not a date" in str(found[1].faults[0])
    assert found[1].readings[1].items == []


async def test_a_serial_that_two_devices_share_tells_neither():
    known = KnownDevices((KnownDevice("A-1", "SAME"), KnownDevice("A-2", "same"), KnownDevice("A-3", "OWN")))
    found = await tickets([ticket("T1", "SAME"), ticket("T2", "OWN")], known)
    assert [f.key for f in found if f.key] == ["A-3"]
    by_name = await tickets([ticket("T1", "salt-nb-2")], by="name")
    assert by_name[0].key == "A-00002"


async def test_a_desk_takes_a_ticket_in_and_says_what_is_wrong_where_it_does_not():
    rows = []
    async with TestServer(service_desk(rows)) as server:
        base = f"http://127.0.0.1:{server.port}/api"
        asked = DeskSettings(base, give="tickets", device="device.serial")
        bearer = HttpCredential("desk", "bearer", "", DESK_TOKEN, reach=None)
        number = await open_ticket(DIRECT, bearer, asked, "Update quill", "on two devices", "HB-1")
        assert (rows[0]["number"], rows[0]["device"], rows[0]["text"]) == (number, {"serial": "HB-1"}, "on two devices")
        for credential, title, code in ((None, "x", "sign-in-refused"), (bearer, "", "failed")):
            with pytest.raises(Problem) as refused:
                await open_ticket(DIRECT, credential, asked, title, "")
            assert refused.value.code == code
    assert len(rows) == 1
