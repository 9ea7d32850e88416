"""Steps and hand-overs from the call to the evidence: all or none, dated, acknowledged, undone."""

import json
from datetime import timedelta

import pytest
from django.apps import apps

from tarn.apps.estate.models import Asset
from tarn.apps.lifecycle.models import HandOver, StepTaken
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.people.models import AuditEntry

pytestmark = pytest.mark.django_db


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/lifecycle{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def operator(as_role, estate):
    return as_role("operator")


def row(client, asset, fields="state,person,due_back"):
    rows = client.get("/api/assets", {"fields": fields}).json()["rows"]
    return next({k: v for k, v in r.items() if k in fields.split(",")} for r in rows if r["id"] == asset)


def take(client, assets, step, **data):
    answer = send(client, "/steps/take", {"step": step, "assets": assets, **data})
    assert answer.status_code == 200, answer.json()
    return answer.json()


def due(days):
    return (today() + timedelta(days=days)).isoformat()


def test_a_loan_is_given_acknowledged_overdue_and_returned(operator, estate, client, as_role):
    asset = estate[0]
    take(operator, [asset], "take into stock") if row(operator, asset)["state"] is None else None
    done = take(operator, [asset], "lend", person="Asa Wren", due=due(7))
    held = row(operator, asset)
    assert (held["state"], held["person"], held["due_back"][:10]) == ("on loan", "Asa Wren", due(7))
    path = f"/api/acknowledgements/{done['acknowledge'][0]['path'].removeprefix('/acknowledge/')}"
    assert client.get(path).json()["receiver"] == "Asa Wren"
    assert client.post(path, "{}", content_type="application/json").status_code == 422
    assert client.post(path, json.dumps({"name": " "}), content_type="application/json").json()["field"] == "name"
    assert client.post(path, json.dumps({"name": "A. Wren"}), content_type="application/json").json()["done"]
    assert client.post(path, json.dumps({"name": "Else"}), content_type="application/json").status_code == 422
    (shown,) = operator.get("/api/lifecycle/hand-overs").json()
    assert (shown["acknowledged_by"], shown["overdue"], shown["lent"]) == ("A. Wren", 0, True)
    HandOver.objects.update(due=today() - timedelta(days=3))
    assert operator.get("/api/lifecycle/hand-overs").json()[0]["overdue"] == 3
    refused = send(operator, "/steps/take", {"step": "take back", "assets": [asset]})
    assert refused.json()["field"] == "condition"
    # Another hand takes it back: the first one's word on the day must not stand again.
    take(as_role("manager"), [asset], "take back", condition="scratched")
    assert row(operator, asset) == {"state": "in stock", "person": None, "due_back": None}
    assert operator.get("/api/assets", {"filter": "person = none"}).json()["total"] == len(estate)
    assert all(b["name"] for b in operator.get("/api/branches").json())
    assert operator.get("/api/lifecycle/hand-overs").json() == []
    assert HandOver.objects.get().condition == "scratched"


def test_a_hundred_at_once_are_all_or_none(operator, estate):
    take(operator, estate, "retire", why="worn out")
    before = StepTaken.objects.count()
    Asset.objects.count()
    take(operator, estate[:1], "take up again", why="needed after all")
    refused = send(
        operator,
        "/steps/take",
        {"step": "dispose of", "assets": estate, "method": "recycler", "erasure": "overwritten twice"},
    )
    assert refused.status_code == 200  # retired and in stock may both be disposed of
    assert StepTaken.objects.count() == before + 1 + len(estate)
    again = send(operator, "/steps/take", {"step": "retire", "assets": estate, "why": "x"})
    assert again.json()["field"] == "step"
    assert StepTaken.objects.count() == before + 1 + len(estate)


def test_an_undone_step_leaves_everything_as_it_was(operator, estate):
    asset = estate[0]
    take(operator, [asset], "retire", why="old")
    take(operator, [asset], "take up again", why="young")
    take(operator, [asset], "lend", person="Asa Wren", due=due(7))
    last = take(operator, [asset], "take back", condition="fine")
    operator.post(f"/api/audit/{last['entry']}/undo")
    assert row(operator, asset)["state"] == "on loan"
    assert row(operator, asset)["person"] == "Asa Wren"
    assert row(operator, asset)["due_back"][:10] == due(7)
    assert HandOver.objects.get().returned_at is None
    told = operator.get(f"/api/lifecycle/assets/{asset}/steps").json()
    assert [t["step"] for t in told["taken"]] == ["lend", "take up again", "retire"]
    assert told["hand_over"]["receiver"] == "Asa Wren"


def test_only_what_all_may_take_is_open_and_strangers_see_nothing(operator, estate):
    take(operator, estate[:1], "retire", why="old")
    names = {s["name"] for s in send(operator, "/steps/open", {"step": "", "assets": estate[:1]}).json()}
    assert names == {"take up again", "dispose of"}
    assert operator.get("/api/lifecycle/assets/999999/steps").json() == {"open": [], "taken": [], "hand_over": None}
    gone = send(operator, "/steps/take", {"step": "retire", "assets": [999_999], "why": "x"})
    assert "not in the register" in gone.json()["detail"]
    assert send(operator, "/steps/take", {"step": "bury", "assets": estate}).json()["field"] == "step"
    shown = send(operator, "/steps/take", {"step": "retire", "filter": "", "expected": 1, "why": "x"})
    assert shown.status_code == 409


def test_a_step_of_a_day_gone_by_is_told_from_that_day_on(operator, estate):
    """Lent ten days ago and noted today: two weeks ago it was not lent, last week it was, and is overdue by now."""
    asset = estate[0]
    refused = send(operator, "/steps/take", {"step": "retire", "assets": [asset], "why": "x", "day": due(-10)})
    assert refused.json()["field"] == "day"  # adopted a moment ago: its state was changed after that day
    assert (
        send(operator, "/steps/take", {"step": "retire", "assets": [asset], "why": "x", "day": due(2)}).json()["field"]
        == "day"
    )
    FieldSpan = apps.get_model("estate", "FieldSpan")
    FieldSpan.objects.filter(field="state").update(valid_from=1_700_000_000)
    take(operator, [asset], "lend", person="Asa Wren", due=due(-2), day=due(-10))
    (shown,) = operator.get("/api/lifecycle/hand-overs").json()
    assert (shown["given_at"][:10], shown["overdue"]) == (due(-10), 2)
    assert operator.get("/api/lifecycle/hand-overs", {"as_of": due(-12)}).json() == []
    late = send(
        operator,
        "/steps/take",
        {"step": "lend", "assets": estate[1:2], "person": "A", "due": due(-12), "day": due(-10)},
    )
    assert late.json()["field"] == "due"


def test_papers_stay_with_their_step(operator, estate):
    take(operator, estate[:1], "retire", why="old")
    (told,) = operator.get(f"/api/lifecycle/assets/{estate[0]}/steps").json()["taken"]
    kept = operator.post(f"/api/lifecycle/steps-taken/{told['anchor']}/papers", {"text": "erased, certificate 12"})
    assert kept.json()[0]["text"] == "erased, certificate 12"
    (told,) = operator.get(f"/api/lifecycle/assets/{estate[0]}/steps").json()["taken"]
    assert told["papers"][0]["text"] == "erased, certificate 12"
    assert operator.post("/api/lifecycle/steps-taken/none/papers", {"text": "x"}).status_code == 404


def test_the_company_adapts_the_steps(as_role, estate):
    manager = as_role("manager")
    now = manager.get("/api/lifecycle/steps").json()
    steps = [s for s in now["steps"] if s["name"] != "dispose of"]
    steps[0] |= {"needs": ["why"]}
    assert send(manager, "/steps", {"steps": steps, "version": now["version"]}, "put").status_code == 200
    assert send(manager, "/steps", {"steps": steps, "version": now["version"]}, "put").status_code == 409
    after = manager.get("/api/lifecycle/steps").json()
    assert (after["own"], len(after["steps"])) == (True, len(now["steps"]) - 1)
    bad = send(manager, "/steps", {"steps": [{"name": "x", "begins": [], "to": "in use"}], "version": 1}, "put")
    assert bad.json()["field"] == "steps"
    manager.post(f"/api/audit/{AuditEntry.objects.latest('pk').pk}/undo")
    assert manager.get("/api/lifecycle/steps").json()["own"] is False
    assert send(as_role("operator"), "/steps", {"steps": [], "version": 2}, "put").status_code == 403
