"""A maker's warranty service and the service desk, asked over the wire: batches, limits, what fails, what is over."""

import json
from datetime import UTC, datetime, timedelta

import pytest

from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Sync
from tarn.apps.discovery.sources.change import make_source
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.decide import decide
from tarn.apps.lifecycle.reads.contracts import today
from tarn.lab import services
from tarn.lab.keys import public_pin
from tarn.lab.timeline import World
from tests.apps.test_sources import others, synced  # noqa: F401  (a fixture)
from tests.documents import sighting

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def register(people):
    """The maker's computers of the lab and two devices nobody is asked about, all in the register."""
    mine = [d for d in World().on(400) if d.maker == "Halberd" and d.serial and d.place != "Averne Harbour Trust"]
    told = [sighting(d.name, identity={"serial": d.serial, "manufacturer": "Halberd", "model": d.model}) for d in mine]
    told.append(sighting("other-01", identity={"serial": "QQ-1", "manufacturer": "Quarto"}))
    taken = list(take_in(told))
    decide(people["operator"], sorted({t.asset for t in taken}), {"standing": "register", "state": "in use"}, "adopted")
    return mine


@pytest.fixture
def care(people):
    key = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "care", "protocol": "http", "reach": ["10.60.0.0/16"], "auth": "header", "user": "X-Care-Key"}
        ),
        {"password": services.WARRANTY_KEY},
    )
    settings = {
        "base": f"https://{services.WARRANTIES}/v1",
        "certificate": public_pin("care.skerrivane.example"),
        "manufacturer": "Halberd",
        "batch": services.MOST,
    }
    described = {"name": "Halberd care", "kind": "warranty service", "settings": settings, "route": "lab"}
    return make_source(None, SourceIn.model_validate({**described, "credential": key.pk}))


@pytest.fixture
def desk(people):
    token = make_credential(
        None,
        CredentialIn.model_validate({"name": "desk", "protocol": "http", "reach": [services.DESK], "auth": "bearer"}),
        {"password": services.DESK_TOKEN},
    )
    settings = {
        "base": f"http://{services.DESK}:8080/api",
        "items": "tickets",
        "device": "device.serial",
        "paging": "page",
        "size_parameter": "per_page",
        "size": 25,
        "link": "http://desk.skerrivane.example/tickets/{number}",
    }
    described = {"name": "Slipway desk", "kind": "service desk", "settings": settings, "route": "lab"}
    return make_source(None, SourceIn.model_validate({**described, "credential": token.pk}))


def test_coverages_come_in_batches_past_limits_and_a_failure(others, register, care, as_role):  # noqa: F811
    assert len(register) > 5 * services.MOST  # more calls than the service answers without asking to wait
    sync = synced(care)
    assert (sync.state, sync.message) == ("done", "")
    assert sync.counts.get("with faults", 0) == 0  # the call that broke down was made again
    viewer = as_role("viewer")
    rows = viewer.get("/api/assets", {"filter": "warranty.end != none", "fields": "serial"}).json()
    told = {s for s, c in services.warranties(World().on(400), datetime.now(UTC)).items() if c}
    assert rows["total"] == len({d.serial for d in register} & told)
    one = viewer.get("/api/assets", {"filter": 'coverages[name = "On site"]', "fields": "serial"}).json()["rows"][0]
    cover = viewer.get(f"/api/lifecycle/assets/{one['id']}/cover").json()
    assert {c["name"] for c in cover["covers"]} == {"On site", "Return to bench"}
    assert cover["conflict"] == ""


def test_what_differs_from_the_maker_is_told(others, register, care, as_role, people):  # noqa: F811
    synced(care)
    manager = as_role("manager")
    row = manager.get("/api/assets", {"filter": "warranty.end > today", "fields": "serial"}).json()["rows"][0]
    line = {"kind": "workstation", "quantity": 1, "price": "900", "warranty": 1}
    day = (today() - timedelta(days=20)).isoformat()
    body = {"number": "PO-7", "supplier": "Quayside", "day": day, "lines": [line]}
    manager.post("/api/lifecycle/orders", json.dumps(body), content_type="application/json")
    number = manager.get("/api/lifecycle/orders").json()[0]["lines"][0]["id"]
    manager.post(
        f"/api/lifecycle/order-lines/{number}/receive",
        json.dumps({"serials": row["serial"], "day": day, "known": True}),
        content_type="application/json",
    )
    cover = manager.get(f"/api/lifecycle/assets/{row['id']}/cover").json()
    assert cover["conflict"].startswith("They differ on the end of its warranty: hand manager says")
    assert "warranty service Halberd care says" in cover["conflict"]
    # A person's word, as it stands with the batch, is believed before the maker's.
    end = manager.get("/api/assets", {"filter": f"serial = {row['serial']}", "fields": "warranty.end"}).json()
    assert end["rows"][0]["warranty.end"][:7] == (today() - timedelta(days=20) + timedelta(days=29)).isoformat()[:7]


def test_tickets_are_told_by_device_and_go_when_they_are_over(others, register, desk, as_role):  # noqa: F811
    before = Asset.objects.count()
    sync = synced(desk)
    assert sync.state == "done"
    assert Asset.objects.count() == before  # a ticket makes no device
    assert any("GONE-00001" in f["says"] for f in sync.faults)
    viewer = as_role("viewer")

    def total(text):
        return viewer.get("/api/assets", {"filter": text}).json()["total"]

    assert total("tickets.open > 0") == total("tickets[open = yes]") > 0
    assert total("tickets.open = 0") > 0
    asset = viewer.get("/api/assets", {"filter": "tickets.open > 0"}).json()["rows"][0]["id"]
    items = viewer.get(f"/api/assets/{asset}").json()["items"]["tickets"]
    assert items[0]["link"].startswith("http://desk.skerrivane.example/tickets/SD-")
    desk.settings = {**desk.settings, "closed": ["new", "waiting for parts", "resolved", "closed"]}
    desk.save()
    synced(desk)
    assert total("tickets.open > 0") == 0


def test_a_wrong_key_and_settings_that_cannot_be(others, register, care, as_role):  # noqa: F811
    care.credential = None
    care.save()
    assert "refused the sign-in" in synced(care).message
    manager = as_role("manager")
    for settings, field in (
        ({"base": "https://x"}, "settings.manufacturer"),
        ({"base": "https://x", "manufacturer": "H", "batch": 0}, "settings.batch"),
        ({"base": "https://x", "manufacturer": "H", "moon": 1}, "settings.moon"),
    ):
        body = {"name": "X", "kind": "warranty service", "settings": settings, "route": "lab"}
        answer = manager.post("/api/sources", json.dumps(body), content_type="application/json")
        assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_a_source_that_is_asked_about_devices_can_be_tested(others, register, desk, as_role):  # noqa: F811
    answer = as_role("manager").post(
        "/api/sources/test",
        json.dumps(
            {
                "name": "Y",
                "kind": "service desk",
                "settings": desk.settings,
                "route": "lab",
                "credential": desk.credential_id,
            }
        ),
        content_type="application/json",
    )
    assert answer.status_code == 200
    assert answer.json()["found"] > 0
    assert Sync.objects.count() == 0
