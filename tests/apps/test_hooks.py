"""Hooks: signed messages of other systems; and networks that are left alone while they are under maintenance."""

import json
import time
from datetime import datetime
from zoneinfo import ZoneInfo

import pytest

from tarn.apps.discovery.hooks.change import LATE, make_hook, signature
from tarn.apps.discovery.models import Hook, Run, RunAddress
from tarn.apps.discovery.networks.change import change_network, make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.sweeps import runs
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.dossier import plate
from tarn.apps.people.actions.organisations import make_organisation
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.models import AuditEntry
from tarn.core.schedule import window_ends
from tests.documents import sighting

pytestmark = pytest.mark.django_db


@pytest.fixture
def hook(people, client):
    made, secret = make_hook(people["manager"], "Stores system", make_organisation(None, "Ferry").pk)

    def send(said, *, key=made.key, late=0, secret=secret, body=None, **changed):
        stamp, body = str(int(time.time()) - late), body or json.dumps(said).encode()
        headers = {"webhook-id": "msg-1", "webhook-timestamp": stamp}
        headers["webhook-signature"] = "v1,old= " + signature(secret, "msg-1", stamp, body)
        headers |= {k.replace("_", "-"): v for k, v in changed.items()}
        return client.post(f"/api/inbound/{key}", body, content_type="application/json", headers=headers)

    send.hook = made
    return send


def pushed(source="Stores system", **more):
    made = sighting("stores-pc-1", identity={"serial": "HB-5501"}, source=source, kind="inventory", **more)
    return {"sighting": made.model_dump(mode="json", by_alias=True)}


def test_a_pushed_sighting_is_evidence_of_the_hooks_own_source_and_organisation(hook):
    answer = hook(pushed())
    assert (answer.status_code, answer.json()["verdict"]) == (200, "new")
    assert plate(Asset.objects.get().pk, None)["organisation"] == "Ferry"
    assert hook(pushed()).json()["verdict"] == "already held"
    hook.hook.refresh_from_db()
    assert hook.hook.used_at


@pytest.mark.parametrize(
    ("changed", "status", "says"),
    [
        ({"secret": "whsec_" + "QUFB" * 8}, 403, "signature is not right"),
        ({"late": LATE + 60}, 403, "time stamp"),
        ({"late": -LATE - 60}, 403, "time stamp"),
        ({"webhook_id": ""}, 403, "lacks"),
        ({"webhook_id": "another"}, 403, "signature is not right"),
        ({"webhook_signature": "v1,AAAA"}, 403, "signature is not right"),
        ({"key": "f" * 24}, 403, "not known here"),
        ({"body": b"{"}, 422, "no JSON"),
        ({"body": b"[]"}, 422, "either"),
        ({"body": b'{"changed":{}}'}, 422, "its address, or its name"),
        ({"body": b'{"changed":{"name":"nobody"}}'}, 422, "No device called"),
        ({"body": b'{"changed":{"address":"10.9.9.9"}}'}, 422, "No sweep covers"),
        ({"body": b'{"sighting":5}'}, 422, "Field required"),
        ({"body": json.dumps(pushed("Another")).encode()}, 422, "no other"),
    ],
)
def test_a_message_that_cannot_be_taken_is_refused_in_words(hook, changed, status, says):
    answer = hook({"changed": {"address": "10.60.4.2"}}, **changed)
    assert answer.status_code == status
    assert says in answer.json()["detail"]
    assert Asset.objects.count() == 0


@pytest.mark.parametrize("told", [{"address": "10.60.4.2"}, {"name": "STORES-PC-1"}])
def test_word_of_a_change_has_the_device_read_again(hook, people, monkeypatch, told):
    handed = []
    monkeypatch.setattr(runs, "_hand_over", handed.append)
    ferry = hook.hook.organisation_id
    make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "n", "organisation": ferry}))
    sweep = make_sweep(
        None, SweepIn.model_validate({"name": "night", "ranges": ["10.60.4.1-10.60.4.3"], "organisation": ferry})
    )
    run = plan_run(people["operator"], sweep)
    RunAddress.objects.filter(run=run).update(outcome="fully read")
    Run.objects.update(state="done")
    where = {"address": "10.60.4.2", "organisation": "Ferry"}
    list(take_in([sighting("stores-pc-1", identity={"serial": "HB-5501"}, placement=where)]))
    answer = hook({"changed": told})
    assert (answer.status_code, answer.json()["verdict"]) == (200, "is read again"), answer.content
    assert handed == [run.pk]
    waiting = RunAddress.objects.filter(run=run, outcome="waiting")
    assert list(waiting.values_list("address", flat=True)) == ["10.60.4.2"]
    assert AuditEntry.objects.filter(verb="was told of a change by").count() == 1


def test_hooks_are_made_listed_and_withdrawn(as_role, hook):
    manager = as_role("manager")
    made = manager.post("/api/hooks", {"name": "Other"}, content_type="application/json").json()
    assert made["secret"].startswith("whsec_")
    assert made["secret"] not in manager.get("/api/hooks").content.decode()
    assert {h["name"] for h in manager.get("/api/hooks").json()} == {"Other", "Stores system"}
    assert as_role("operator").get("/api/hooks").status_code == 403
    assert manager.delete(f"/api/hooks/{hook.hook.pk}").status_code == 204
    assert "withdrawn" in hook(pushed()).json()["detail"]
    assert Hook.objects.filter(withdrawn_at=None).count() == 1


def at(text):
    return int(datetime.fromisoformat(text).replace(tzinfo=ZoneInfo("Europe/London")).timestamp())


@pytest.mark.parametrize(
    ("now", "ends"),
    [
        ("2026-11-22T01:59", None),
        ("2026-11-22T02:00", "2026-11-22T06:00"),
        ("2026-11-22T05:59", "2026-11-22T06:00"),
        ("2026-11-22T06:00", None),
        ("2026-11-23T03:00", None),
    ],
)
def test_a_window_begins_by_its_rule_and_lasts_its_minutes(now, ends):
    rule = "FREQ=WEEKLY;BYDAY=SU;BYHOUR=2;BYMINUTE=0;BYSECOND=0"
    assert window_ends(rule, 240, at(now), "Europe/London") == (at(ends) if ends else None)


def test_what_is_under_maintenance_is_left_out_of_a_run_and_says_so(people):
    always = {"quiet": "FREQ=DAILY;BYHOUR=0;BYMINUTE=0;BYSECOND=0", "quiet_minutes": 1440}
    held = make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room"}))
    change_network(
        people["manager"], held.pk, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room", **always})
    )
    sweep = make_sweep(None, SweepIn.model_validate({"name": "night", "ranges": ["10.60.4.1-10.60.4.3", "10.60.5.1"]}))
    run = plan_run(people["operator"], sweep)
    left = RunAddress.objects.filter(run=run, outcome="left out")
    assert run.total == 1
    assert {r.code for r in left} == {"maintenance"}
    assert left.count() == 3
    assert left[0].reason == "data room is under maintenance until 00:00; nothing is probed there."


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"quiet": "sometimes", "quiet_minutes": 60}, "quiet"),
        ({"quiet": "FREQ=DAILY", "quiet_minutes": 1}, "quiet_minutes"),
        ({"range": "10.60.4.1/24"}, "range"),
        ({"at_once": 5000}, "at_once"),
        ({"organisation": 99}, "organisation"),
    ],
)
def test_a_network_that_cannot_stand_is_refused_at_its_field(people, change, field):
    from tarn.apps.people.actions.organisations import Unowned

    held = make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "n"}))
    with pytest.raises((Invalid, Unowned)) as caught:
        change_network(
            people["manager"], held.pk, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "n", **change})
        )
    assert caught.value.field == field
