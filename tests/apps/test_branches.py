"""Places and departments under each other; standing in a branch narrows every room to it."""

import json
from datetime import date, timedelta

import pytest

from tarn.apps.discovery.models import Network
from tarn.apps.estate.models import Branch
from tarn.apps.estate.register.decide import decide
from tarn.apps.lifecycle.actions.steps import take_step
from tarn.apps.lifecycle.inputs import StepSaid
from tarn.apps.people.models import AuditEntry
from tests.apps.test_reports import body

pytestmark = pytest.mark.django_db


@pytest.fixture
def manager(as_role, estate, people):
    for number, (place, department) in enumerate(
        [("Saltholm", "Ticketing"), ("Port Averne", "Stores"), ("Saltholm quay", "Desk"), ("Gullhaven", "Ticketing")]
    ):
        decide(people["manager"], [estate[number]], {"place": place, "department": department}, "put in its place")
    return as_role("manager")


def put(client, name, under="", field="place"):
    body = json.dumps({"field": field, "name": name, "under": under})
    return client.put("/api/branches", body, content_type="application/json")


def told(client, path, **query):
    answer = client.get(f"/api/{path}", query)
    assert answer.status_code == 200, answer.content
    return answer.json()


@pytest.fixture
def mainland(manager):
    for name, under in (("Saltholm", "Mainland"), ("Port Averne", "Mainland"), ("saltholm quay", "saltholm")):
        assert put(manager, name, under).status_code == 200
    return manager


def test_a_branch_gathers_what_lies_under_it(mainland, estate):
    places = {b["name"]: b for b in told(mainland, "branches") if b["field"] == "place"}
    assert {n: (b["under"], b["depth"], b["here"], b["within"]) for n, b in places.items()} == {
        "Mainland": ("", 0, 0, 3),
        "Port Averne": ("Mainland", 1, 1, 1),
        "Saltholm": ("Mainland", 1, 1, 2),
        "Saltholm quay": ("Saltholm", 2, 1, 1),
        "Gullhaven": ("", 0, 1, 1),
    }
    assert told(mainland, "assets", filter="place in (mainland)")["total"] == 3
    assert told(mainland, "assets", filter="place in (Saltholm, Gullhaven)")["total"] == 3
    assert told(mainland, "assets", filter="place = Saltholm")["total"] == 1
    offered = told(mainland, "filter/complete", text="place in (Mainl", cursor=15)
    assert "Mainland" in json.dumps(offered)


def test_every_room_is_narrowed_to_where_one_stands(mainland, estate):
    put(mainland, "Desk", "Ticketing", "department")
    for number, place in enumerate(("Saltholm quay", "Gullhaven")):
        Network.objects.create(range=f"10.60.{number}.0/24", name=place, place=place)
    stand = {"standing_in": "place:Mainland"}
    assert {r["id"] for r in told(mainland, "assets", **stand)["rows"]} == set(estate[:3])
    assert told(mainland, "assets", filter="kind = server", **stand)["of"] == 3
    assert "within Mainland" in told(mainland, "assets", **stand)["sentence"]
    kinds = next(b for b in told(mainland, "strata", **stand) if b["name"] == "kind")
    assert sum(p["count"] for p in kinds["parts"]) == 3
    everywhere, here = told(mainland, "software"), told(mainland, "software", **stand)
    assert here["devices"] <= 3
    assert everywhere["devices"] >= here["devices"]
    networks = told(mainland, "networks", **stand)
    assert [n["place"] for n in networks] == ["Saltholm quay"]
    report = body(mainland.get("/api/reports/shown/by-place/csv", stand)).decode()
    assert "within Mainland" in report
    assert "Gullhaven" not in report
    assert "Port Averne" in report
    assert told(mainland, "assets", standing_in="department:Ticketing")["total"] == 3
    assert told(mainland, "assets", filter="department = Desk", standing_in="department:Ticketing")["total"] == 1
    assert told(mainland, "assets", filter="department = Stores", standing_in="department:Ticketing")["total"] == 0


def test_an_act_on_a_selection_reaches_only_the_branch_one_stands_in(mainland, estate):
    body = json.dumps({"filter": "", "note": "painted"})
    answer = mainland.post("/api/decide?standing_in=place:Saltholm", body, content_type="application/json")
    assert answer.status_code == 200, answer.content
    assert told(mainland, "assets", filter="note = painted")["total"] == 2


@pytest.mark.parametrize("where", ["Mainland", "shelf:Top", "place: "])
def test_a_branch_nobody_can_stand_in_is_said_so(mainland, where):
    refused = mainland.get("/api/assets", {"standing_in": where})
    assert refused.status_code == 422
    assert "place:NAME" in refused.json()["detail"]


def test_a_circle_and_a_full_branch_are_refused_and_a_move_is_undone(mainland):
    circle = put(mainland, "Mainland", "Saltholm quay")
    assert (circle.status_code, circle.json()["field"]) == (422, "under")
    assert "circle" in circle.json()["detail"]
    full = mainland.delete("/api/branches?field=place&name=Saltholm")
    assert full.status_code == 422
    assert "Saltholm quay" in full.json()["detail"]
    assert put(mainland, "Saltholm quay", "Port Averne").status_code == 200
    entry = AuditEntry.objects.latest("id")
    assert mainland.post(f"/api/audit/{entry.pk}/undo").status_code == 200
    assert Branch.objects.get(name="Saltholm quay").under == "Saltholm"
    assert mainland.delete("/api/branches?field=place&name=Saltholm quay").status_code == 204
    assert mainland.post(f"/api/audit/{AuditEntry.objects.latest('id').pk}/undo").status_code == 200
    assert Branch.objects.get(name="Saltholm quay").under == "Saltholm"


def test_only_who_plans_moves_branches(mainland, as_role):
    assert put(as_role("operator"), "Saltholm", "Elsewhere").status_code == 403


def test_what_is_owed_is_narrowed_to_where_one_stands(mainland, estate, people):
    """A device on the mainland and the one in Gullhaven have a contract each; the one in Gullhaven is handed over."""
    for number, label in ((0, "Upkeep"), (3, "Island upkeep")):
        plate = told(mainland, f"assets/{estate[number]}")["plate"]
        sent = {"name": label, "provider": "Bench", "kind": "support", "starts": "2026-01-01"}
        sent |= {"ends": str(date.today() + timedelta(days=40)), "covers": f"name = {plate['name']}"}
        assert mainland.post("/api/lifecycle/contracts", sent, content_type="application/json").status_code == 201
    take_step(people["manager"], [estate[3]], "hand over", StepSaid(place="Gullhaven"))
    stood = {"standing_in": "place:Mainland"}
    assert [c["name"] for c in told(mainland, "lifecycle/contracts", **stood)] == ["Upkeep"]
    assert "Island upkeep" not in {e["name"] for e in told(mainland, "lifecycle/river", months=12, **stood)["endings"]}
    assert told(mainland, "lifecycle/hand-overs", **stood) == []
    assert [h["asset"] for h in told(mainland, "lifecycle/hand-overs")] == [estate[3]]
