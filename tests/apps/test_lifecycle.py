"""Contracts from entry to calendar: what ends when, what is to be paid, who is told and when."""

import json
from datetime import timedelta

import pytest
from icalendar import Calendar

from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.reports.reads.asking import ask
from tarn.apps.reports.shipped import shipped

pytestmark = pytest.mark.django_db


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/lifecycle{path}", json.dumps(body), content_type="application/json")


def lease(**change):
    day = today()
    return {
        "name": "Printer lease",
        "provider": "Quayside Leasing",
        "kind": "lease",
        "starts": (day - timedelta(days=300)).isoformat(),
        "ends": (day + timedelta(days=44)).isoformat(),
        "renews": 12,
        "notice": 30,
        "notices": [14, 90, 45],
        "cost": "250.00",
        "every": "month",
        "covers": "kind = printer",
        **change,
    }


@pytest.fixture
def manager(as_role, estate):
    return as_role("manager")


@pytest.fixture
def held(manager):
    return send(manager, "/contracts", lease()).json()["id"]


def test_a_contract_is_listed_with_its_term_notice_and_devices(manager, held):
    (row,) = manager.get("/api/lifecycle/contracts").json()
    assert (row["state"], row["days_left"], row["notice_days"], row["devices"]) == ("in force", 44, 14, 1)
    opened = manager.get(f"/api/lifecycle/contracts/{held}").json()
    assert [a["name"] for a in opened["assets"]] == ["salt-prn-01"]
    assert opened["notices"] == [90, 45, 14]
    assert [h["verb"] for h in opened["history"]] == ["entered a contract"]


def test_the_river_names_the_first_notice_until_it_is_decided(manager, held):
    told = manager.get("/api/lifecycle/river").json()
    assert told["first_notice"]["name"] == "Printer lease"
    assert [(e["stream"], e["goes_on"]) for e in told["endings"]] == [("contracts", True)]
    assert send(manager, f"/contracts/{held}/decision", {"decision": "let go", "why": "too dear"}).status_code == 200
    told = manager.get("/api/lifecycle/river").json()
    assert told["first_notice"] is None
    assert told["endings"][0]["goes_on"] is False
    assert manager.get(f"/api/lifecycle/contracts/{held}").json()["history"][0]["why"] == "too dear"
    assert send(manager, f"/contracts/{held}/decision", {"decision": "burn"}).json()["field"] == "decided"


def test_payments_stop_where_it_is_let_go_and_stand_out_where_it_goes_on(manager, held):
    def months():
        return manager.get("/api/lifecycle/cash?months=6").json()["months"]

    after = [p["renewal"] for m in months() for p in m["payments"]]
    assert after.count(True) >= 4
    assert all(m["total"] == "250.00" for m in months())
    send(manager, f"/contracts/{held}/decision", {"decision": "let go"})
    assert all(not p["renewal"] for m in months() for p in m["payments"])
    past = manager.get("/api/lifecycle/cash?months=3&since=2001-01-01").json()
    assert [m["total"] for m in past["months"]] == ["0.00"] * 3


def test_each_notice_is_a_row_from_its_day_on(manager, held):
    """44 days before the end the notices of 90 and 45 days have fallen due, that of 14 has not."""
    lines = [li.values for li in ask(shipped()["notices"].definition, None).lines if li.kind == "row"]
    assert sorted(li[3] for li in lines) == [45, 90]
    assert {li[6] for li in lines} == {"goes on"}


def test_the_feed_is_a_calendar_and_a_new_one_ends_the_old(manager, held, client):
    path = send(manager, "/feed", {}).json()["path"]
    told = Calendar.from_ical(client.get(path).content)
    events = {str(e["summary"]): e.decoded("dtstart") for e in told.walk("VEVENT")}
    assert events == {
        "Printer lease: ends": today() + timedelta(days=44),
        "Printer lease: last day to give notice": today() + timedelta(days=14),
    }
    send(manager, "/feed", {})
    assert client.get(path).status_code == 404


def test_what_was_dropped_comes_back(manager, held, people):
    assert manager.delete(f"/api/lifecycle/contracts/{held}").status_code == 204
    undo(people["manager"], AuditEntry.objects.latest("pk").pk)
    assert Contract.objects.get().name == "Printer lease"


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": ""}, "name"),
        ({"provider": " "}, "provider"),
        ({"kind": "handshake"}, "kind"),
        ({"starts": None}, "starts"),
        ({"ends": "2001-01-01"}, "ends"),
        ({"ends": None}, "renews"),
        ({"notice": -1}, "notice"),
        ({"notices": [-3]}, "notices"),
        ({"cost": "-1"}, "cost"),
        ({"currency": "NOK"}, "currency"),
        ({"every": "moon"}, "every"),
        ({"covers": "kind = prnter"}, "covers"),
    ],
)
def test_a_contract_that_cannot_be_is_refused_at_its_field(manager, change, field):
    answer = send(manager, "/contracts", lease(**change))
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_an_older_edit_and_other_hands_are_refused(manager, as_role, held):
    assert send(manager, f"/contracts/{held}", lease(version=9), "put").status_code == 409
    assert send(manager, f"/contracts/{held}", lease(version=1, note="seen"), "put").status_code == 200
    assert send(as_role("operator"), "/contracts", lease(name="Other")).status_code == 403
