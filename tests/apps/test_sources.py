"""Sources through the API: validated, tested without storing, synced over the wire, and what they drop."""

import asyncio
import threading
import time

import pytest

from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Run, RunAddress, Source, SourceDevice, Sweep, Sync
from tarn.apps.discovery.sources.change import make_source, start_due_syncs
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sources.syncing import carry_out_sync
from tarn.apps.discovery.sweeps.runs import start_due
from tarn.apps.discovery.sweeps.shown import compared
from tarn.apps.estate.models import Asset, AssetSpan, Term
from tarn.apps.estate.models import Sighting as Stored
from tarn.apps.people.models import AuditEntry
from tarn.collect.sources.mapped import PREPARED
from tarn.lab import systems
from tarn.lab.keys import public_pin
from tarn.lab.serve import Lab

PIN = public_pin("directory.skerrivane.example")

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def others():
    ready, stop = threading.Event(), threading.Event()

    async def serve():
        lab = Lab(400)
        await lab.start({"systems"})
        ready.set()
        while not stop.is_set():
            await asyncio.sleep(0.05)
        await lab.stop()

    thread = threading.Thread(target=lambda: asyncio.run(serve()))
    thread.start()
    assert ready.wait(20)
    yield
    stop.set()
    thread.join()


@pytest.fixture
def described(people):
    bind = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "dir", "protocol": "ldap", "reach": ["10.60.0.0/16"], "user": systems.BIND}
        ),
        {"password": systems.BIND_PASSWORD},
    )
    token = make_credential(
        None,
        CredentialIn.model_validate({"name": "tok", "protocol": "http", "reach": ["10.60.0.0/16"], "auth": "bearer"}),
        {"password": systems.DEVICES_TOKEN},
    )
    managed = {
        **PREPARED["device management, JSON by pages"],
        "certificate": public_pin("devices.skerrivane.example"),
    }
    return {
        "directory": {
            "name": "Directory",
            "kind": "directory",
            "settings": {"address": systems.DIRECTORY, "certificate": PIN},
            "credential": bind.pk,
            "route": "lab",
        },
        "managed": {
            "name": "Lanyard",
            "kind": "device management",
            "settings": managed,
            "credential": token.pk,
            "route": "lab",
            "gone": "mark",
        },
    }


def state_of(asset):
    span = AssetSpan.objects.get(asset=asset, valid_to=None)
    return Term.objects.get(pk=span.state_id).text if span.state_id else None


def synced(source):
    sync = Sync.objects.create(source=source, made_at=int(time.time()))
    carry_out_sync(sync.pk)
    sync.refresh_from_db()
    return sync


def test_a_test_shows_a_sample_and_stores_nothing(as_role, others, described):
    answer = (
        as_role("manager").post("/api/sources/test", described["directory"], content_type="application/json").json()
    )
    assert answer["found"] > 60
    assert answer["sample"][0]["facts"]["os_name"].startswith("Windows")
    assert not Stored.objects.exists()
    wrong = {**described["directory"], "settings": {"address": "10.60.4.99"}}
    answer = as_role("manager").post("/api/sources/test", wrong, content_type="application/json").json()
    assert "refused" in answer["problem"]
    assert as_role("operator").post("/api/sources/test", wrong, content_type="application/json").status_code == 403


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"kind": "oracle"}, "kind"),
        ({"settings": {}}, "settings.address"),
        ({"settings": {"address": "10.60.4.60", "condition": "cn=x"}}, "settings.condition"),
        ({"settings": {"address": "10.60.4.60", "shoe": 1}}, "settings.shoe"),
        ({"kind": "inventory"}, "settings.address"),
        (
            {
                "kind": "inventory",
                "settings": {"base": "https://x", "list": "l", "key": "id", "fields": {"kind": {"from": "k"}}},
            },
            "settings.fields",
        ),
        ({"schedule": "now and then"}, "schedule"),
        ({"gone": "burn"}, "gone"),
        ({"credential": 999}, "credential"),
    ],
)
def test_what_cannot_stand_names_its_field(as_role, described, change, field):
    answer = as_role("manager").post(
        "/api/sources", {**described["directory"], **change}, content_type="application/json"
    )
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert not Source.objects.exists()


def test_two_systems_that_know_a_laptop_make_one_asset_of_it(others, described):
    directory, managed = (make_source(None, SourceIn.model_validate(d)) for d in described.values())
    assert synced(directory).state == "done"
    known = Asset.objects.count()
    sync = synced(managed)
    assert sync.counts["found"] == SourceDevice.objects.filter(source=managed).count()
    assert sync.counts["new"] + known == Asset.objects.count()
    again = synced(managed)
    assert again.since is not None
    assert "new" not in again.counts


def test_a_name_zone_finds_the_devices_of_the_directory_and_those_it_alone_knows(others, described):
    synced(make_source(None, SourceIn.model_validate(described["directory"])))
    known = set(Asset.objects.values_list("pk", flat=True))
    zone = {"server": "10.60.4.53", "zone": "skerrivane.example"}
    source = make_source(
        None, SourceIn.model_validate({"name": "Names", "kind": "name zone", "settings": zone, "route": "lab"})
    )
    sync = synced(source)
    assert (sync.state, sync.faults) == ("done", [])
    linked = set(SourceDevice.objects.filter(source=source).values_list("asset_id", flat=True))
    assert len(linked & known) > 60
    assert sync.counts["new"] == len(linked - known) > 0
    assert "new" not in synced(source).counts


def test_what_the_other_side_drops_is_marked_and_comes_back(others, described):
    source = make_source(None, SourceIn.model_validate(described["managed"]))
    synced(source)
    gone = SourceDevice.objects.filter(source=source).first()
    stray = SourceDevice.objects.create(source=source, key="was-there", asset_id=gone.asset_id, last_sync=0)
    Sync.objects.filter(source=source).update(made_at=int(time.time()) - 90_000)
    full = synced(source)
    assert full.counts["no longer there"] == 1
    assert state_of(stray.asset_id) == "missing"
    stray.refresh_from_db()
    assert stray.told == "missing"
    # The same asset is known under another id still: when that is seen again its own word stands.
    SourceDevice.objects.filter(pk=gone.pk).update(told="missing")
    Sync.objects.filter(source=source).update(made_at=int(time.time()) - 180_000)
    synced(source)
    assert state_of(gone.asset_id) is None


def test_a_sync_that_fails_says_why_and_loses_nothing(described):
    source = make_source(None, SourceIn.model_validate(described["directory"]))
    sync = synced(source)
    assert sync.state == "failed"
    assert "refused" in sync.message
    assert sync.ended_at is not None


def test_a_sweep_of_the_directorys_workstations(as_role, others, described):
    source = make_source(None, SourceIn.model_validate(described["directory"]))
    call = f"/api/sources/{source.pk}/pick"
    found = as_role("manager").post(call, {"pick": "workstations"}, content_type="application/json").json()
    assert found["names"] > 40
    assert as_role("manager").post(call, {"pick": "boats"}, content_type="application/json").json()["field"] == "pick"


def test_what_is_due_starts_once_and_its_next_turn_is_noted(monkeypatch, described):
    monkeypatch.setattr("tarn.apps.discovery.sources.change.run_sync", lambda n: None)
    monkeypatch.setattr("tarn.apps.discovery.sweeps.runs._hand_over", lambda n: None)
    nightly = "FREQ=DAILY;BYHOUR=1;BYMINUTE=30;BYSECOND=0"
    source = make_source(None, SourceIn.model_validate({**described["directory"], "schedule": nightly}))
    sweep = Sweep.objects.create(name="n", ranges=["10.60.4.0/30"], schedule=nightly, next_at=5)
    Source.objects.update(next_at=5)
    now = int(time.time())
    assert len(start_due_syncs(now)) == len(start_due(now)) == 1
    assert start_due_syncs(now) == start_due(now) == []
    for held in (source, sweep):
        held.refresh_from_db()
        assert now < held.next_at <= now + 90_000


def test_a_run_is_compared_with_the_one_before(people):
    sweep = Sweep.objects.create(name="n", ranges=["10.60.4.0/29"])
    outcomes = [
        ("no answer", "answered"),
        ("fully read", "no answer"),
        ("fully read", "part read"),
        ("answered", "fully read"),
        ("answered", "answered"),
    ]
    runs = [Run.objects.create(sweep=sweep, state="done", made_at=n, ended_at=n) for n in (1, 2)]
    for position, pair in enumerate(outcomes):
        for run, outcome in zip(runs, pair, strict=True):
            RunAddress.objects.create(run=run, position=position, address=f"10.60.4.{position}", outcome=outcome)
    assert compared(runs[0], []) is None
    changes = compared(runs[1], list(RunAddress.objects.filter(run=runs[1])))["changes"]
    assert changes == {
        "newly answering": ["10.60.4.0"],
        "gone silent": ["10.60.4.1"],
        "read worse": ["10.60.4.2"],
        "read better": ["10.60.4.3"],
    }


def test_addresses_are_left_out_of_a_sweep_and_that_is_undone(as_role):
    sweep = Sweep.objects.create(name="n", ranges=["10.60.4.0/29"])
    call = f"/api/sweeps/{sweep.pk}/exclude"
    body = {"addresses": ["10.60.4.2"]}
    assert as_role("operator").post(call, body, content_type="application/json").status_code == 403
    assert as_role("manager").post(call, body, content_type="application/json").json()["exclusions"] == ["10.60.4.2"]
    entry = AuditEntry.objects.get(verb="left addresses out of")
    assert as_role("manager").post(f"/api/audit/{entry.pk}/undo").status_code == 200
    sweep.refresh_from_db()
    assert sweep.exclusions == []
