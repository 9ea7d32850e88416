"""Intake rules: rehearsed, in force, once of each device, and the person's word over theirs."""

import pytest

from tarn.apps.discovery.intake.rules import apply_rules
from tarn.apps.discovery.models import IntakeRule
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.pages import everything
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tests.documents import sighting

pytestmark = pytest.mark.django_db
RULE = {"name": "Directory PCs", "filter": "kind = workstation and name ~ pc-", "in_force": True}


def assets_of(text):
    return [r["name"] for r in everything(question(text), ["name"], "name")]


def found(*names, kind="workstation"):
    documents = [
        sighting(
            n,
            1,
            source="dir",
            kind="directory",
            identity={"serial": f"HB-{n}", "manufacturer": "Halberd"},
            decision={"kind": kind},
        )
        for n in names
    ]
    return [t.asset for t in take_in(documents)]


def send(client, **change):
    return client.post("/api/intake/rules", {**RULE, **change}, content_type="application/json")


def test_a_rehearsal_counts_and_changes_nothing(as_role):
    found("pc-1", "pc-2", "tablet-1")
    answer = as_role("manager").post(
        "/api/intake/rules/rehearse", {"filter": RULE["filter"]}, content_type="application/json"
    )
    assert answer.json() == {"count": 2, "first": ["pc-1", "pc-2"]}
    assert assets_of("standing = register") == []


def test_a_rule_in_force_adopts_what_is_there_and_what_comes(as_role):
    found("pc-1", "tablet-1")
    assert send(as_role("manager")).json()["decided"] == 1
    found("pc-2")
    assert apply_rules() == 1
    assert assets_of("standing = register") == ["pc-1", "pc-2"]
    assert assets_of("standing = intake") == ["tablet-1"]


def test_a_persons_undo_stands_against_the_rule(as_role, people):
    found("pc-1")
    send(as_role("manager"))
    undo(people["operator"], AuditEntry.objects.get(verb="adopted").pk)
    assert apply_rules() == 0
    assert assets_of("standing = intake") == ["pc-1"]


def test_a_rule_sets_aside_with_its_reason_and_can_be_taken_out_of_force(as_role):
    found("pc-1")
    manager = as_role("manager")
    made = send(manager, action="aside", reason="Belongs to the trust", in_force=False).json()
    assert apply_rules() == 0
    call = f"/api/intake/rules/{made['id']}"
    assert manager.put(call, {"in_force": True}, content_type="application/json").json()["decided"] == 1
    assert assets_of('standing = "set aside" and aside_reason ~ trust') == ["pc-1"]
    assert manager.put(call, {"in_force": False}, content_type="application/json").json()["in_force"] is False
    assert manager.delete(call).status_code == 204
    assert not IntakeRule.objects.exists()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": ""}, "name"),
        ({"filter": ""}, "filter"),
        ({"filter": "knid = x"}, "filter"),
        ({"action": "aside"}, "reason"),
    ],
)
def test_a_rule_that_cannot_stand_names_its_field(as_role, change, field):
    answer = send(as_role("manager"), **change)
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert send(as_role("operator")).status_code == 403


def test_what_one_person_decided_another_can_undo(as_role, people):
    from tarn.apps.estate.register.decide import decide

    entry = decide(people["operator"], found("pc-1"), {"standing": "register"}, "adopted")
    undo(people["manager"], entry)
    assert assets_of("standing = intake") == ["pc-1"]
