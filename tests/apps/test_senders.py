"""What a machine that sends evidence may not say is refused at every door, and so is a date no clock here knows."""

import json
import time
from datetime import UTC, datetime

import pytest

from tarn.apps.discovery.hooks.change import make_hook
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Sighting as Stored
from tarn.core.signing import signature
from tests.documents import reading, sighting

OVERSTEPS = [
    (reading("decision", {"standing": "register"}), "readings[1]"),
    (reading("same_as", {"sighting": "x" * 20, "asset": None}), "readings[1]"),
    (reading("placement", {"place": "Saltholm"}), "readings[1]"),
    (reading("placement", {"organisation": "Harbour Trust"}), "readings[1]"),
    (reading("identity", {"tarn": "A-00001"}), "readings[1].facts.tarn"),
]


def document(source=("sweep", "mine"), **more):
    told = sighting("new-1", identity={"serial": "NEW-1"}).model_dump(mode="json", by_alias=True, exclude_none=True)
    at = datetime.fromtimestamp(int(time.time()), UTC).isoformat()
    return {**told, "at": at, "source": {"kind": source[0], "name": source[1]}, **more}


@pytest.fixture
def push(people, client):
    hook, secret = make_hook(people["manager"], "endpoints")

    def send(told):
        body, stamp = json.dumps({"sighting": told}).encode(), str(int(time.time()))
        signed = {
            "webhook-id": "m1",
            "webhook-timestamp": stamp,
            "webhook-signature": signature(secret, "m1", stamp, body),
        }
        path = f"/api/inbound/{hook.key}"
        return client.post(path, body, content_type="application/json", headers=signed)

    return send


@pytest.mark.parametrize(("extra", "place"), OVERSTEPS)
def test_what_is_not_a_senders_to_say_is_refused_with_its_place(push, as_role, extra, place):
    told = document(("inventory", "endpoints"))
    told["readings"] = [*told["readings"], extra]
    for answer in (push(told), as_role("operator").post("/api/sightings", told, content_type="application/json")):
        assert answer.status_code == 422, answer.content
        assert [f["place"] for f in answer.json()["faults"]] == [place]
    assert not Stored.objects.exists()


@pytest.mark.parametrize("at", ["2099-01-01T00:00:00Z", "1971-01-01T00:00:00Z", "9999-12-31T23:00:00Z"])
def test_a_date_that_no_clock_here_knows_is_refused_at_every_door(push, as_role, at):
    told = document(("inventory", "endpoints"), at=at)
    for answer in (push(told), as_role("operator").post("/api/sightings", told, content_type="application/json")):
        assert answer.status_code == 422
        assert answer.json()["faults"][0]["place"] == "at"
    from tarn.core.sightings import read_sighting

    good = document(id="g" * 12)
    taken = list(take_in([read_sighting(told), read_sighting(good)]))
    assert [t.verdict for t in taken] == ["refused", "new"], "one bad thing does not stop the others"
    assert "clock" in taken[0].reasons[0]
    assert Stored.objects.count() == 1


def test_a_clock_set_back_is_said_and_no_decision_is_lost_without_a_word(as_role, estate, monkeypatch):
    operator, real = as_role("operator"), time.time
    monkeypatch.setattr("time.time", lambda: real() - 86_400)
    answer = operator.post("/api/decide", {"assets": estate[:1], "place": "Quay"}, content_type="application/json")
    assert answer.status_code == 503
    assert "24.0 hours behind" in answer.json()["detail"]
    monkeypatch.undo()
    answer = operator.post("/api/decide", {"assets": estate[:1], "place": "Quay"}, content_type="application/json")
    assert answer.status_code == 200
    assert operator.get("/api/assets", {"filter": "place = Quay"}).json()["total"] == 1
