"""Contracts from entry to calendar: what ends when, what is to be paid, who is told and when."""

import json
from datetime import timedelta

import pytest
from dateutil.relativedelta import relativedelta
from icalendar import Calendar

from tarn.apps.lifecycle.actions.contracts import make_contract
from tarn.apps.lifecycle.inputs import ContractIn
from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.reports.actions.watches import ask_due, make_watch
from tarn.apps.reports.inputs import WatchIn
from tarn.apps.reports.models import Letter
from tarn.apps.reports.reads.asking import ask
from tarn.apps.reports.shipped import shipped
from tarn.core.days import noon

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

    ends = (today() + timedelta(days=44)).isoformat()
    told = [(p["renewal"], p["day"] > ends) for m in months() for p in m["payments"]]
    assert {after for _, after in told} == {True, False}
    assert all(renewal == after for renewal, after in told)
    assert all(m["total"] == "250.00" for m in months())
    send(manager, f"/contracts/{held}/decision", {"decision": "let go"})
    assert all(not p["renewal"] for m in months() for p in m["payments"])
    past = manager.get("/api/lifecycle/cash?months=3&since=2001-01-01").json()
    assert [m["total"] for m in past["months"]] == ["0.00"] * 3


def test_a_term_that_has_gone_on_is_agreed_up_to_its_own_end(manager):
    """The first term was over 30 days ago and went on by 3 months: the next payments are agreed, later ones are not."""
    ended = (today() - timedelta(days=30)).isoformat()
    send(manager, "/contracts", lease(ends=ended, renews=3))
    told = [p["renewal"] for m in manager.get("/api/lifecycle/cash?months=6").json()["months"] for p in m["payments"]]
    assert told[0] is False
    assert told[-1] is True


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


def order(**change):
    day = today() - timedelta(days=20)
    line = {
        "kind": "laptop",
        "manufacturer": "Halberd",
        "model": "L14",
        "quantity": 3,
        "price": "940.00",
        "warranty": 36,
    }
    return {
        "number": "PO-31",
        "supplier": "Quayside",
        "day": day.isoformat(),
        "lines": [{**line, **change.pop("line", {})}],
        **change,
    }


def received(client, line, serials, day=None, **more):
    body = {"serials": serials, "day": (day or today()).isoformat(), "place": "Saltholm", **more}
    return send(client, f"/order-lines/{line}/receive", body)


@pytest.fixture
def line(manager):
    assert send(manager, "/orders", order()).status_code == 201
    return manager.get("/api/lifecycle/orders").json()[0]["lines"][0]["id"]


def test_an_order_is_received_in_parts_into_assets_with_price_and_warranty(manager, line, estate):
    """HB-2001 was found by a sweep before: it is the same asset, and what is decided of it stays."""
    asked = received(manager, line, "HB-9001\nHB-2001").json()
    assert (asked["field"], "1 of these, the first salt-lt-01, is known already" in asked["detail"]) == (
        "known",
        True,
    )
    assets = received(manager, line, "HB-9001\nHB-2001", known=True).json()["assets"]
    assert assets[1] == estate[2]
    (told,) = manager.get("/api/lifecycle/orders").json()
    assert (told["open"], told["lines"][0]["received"]) == (True, 2)
    rows = {
        r["id"]: r
        for r in manager.get("/api/assets?filter=order = PO-31&fields=state,serial,place,warranty.end").json()["rows"]
    }
    assert rows[assets[0]]["state"] == "in stock"
    assert rows[assets[1]]["state"] == "in use"
    last = today() + relativedelta(months=36) - timedelta(days=1)
    assert rows[assets[0]]["warranty.end"][:10] == last.isoformat()
    # What came without a name of its own is no word a filter offers, and breaks no offer.
    offers = manager.get("/api/filter/complete", {"text": "name = "}).json()
    assert [o["text"] for o in offers if o["kind"] == "value"]
    mends = f"warranty.end < {(last + timedelta(days=1)).isoformat()} and place = Saltholm"
    assert manager.get("/api/assets", {"filter": mends}).json()["total"] == 2
    river = manager.get("/api/lifecycle/river?months=40").json()["endings"]
    assert [(e["name"], e["count"]) for e in river if e["stream"] == "warranties"] == [("laptop, PO-31", 2)]
    assert manager.delete(f"/api/lifecycle/orders/{told['id']}").json()["field"] == "number"


def test_what_came_on_a_past_day_is_there_from_that_day_on(manager, line):
    day = today() - timedelta(days=9)
    (asset,) = received(manager, line, "HB-9009", day).json()["assets"]
    for back, there in ((10, 0), (8, 1), (0, 1)):
        when = (today() - timedelta(days=back)).isoformat()
        told = manager.get("/api/assets", {"filter": "serial = HB-9009", "as_of": when, "fields": "state,place"}).json()
        assert [(r["state"], r["place"]) for r in told["rows"]] == [("in stock", "Saltholm")] * there, when
    money = manager.get(f"/api/valuation/assets/{asset}?as_of={(day + timedelta(days=1)).isoformat()}")
    assert money.status_code == 200
    (entry,) = AuditEntry.objects.filter(verb="received")
    assert entry.at > noon(day) + 86_400, "when it became known is kept too"


def test_what_cannot_be_received_is_refused_whole(manager, line):
    assert received(manager, line, "HB-7001").status_code == 200
    for serials, says in (
        ("", "no serial number"),
        ("HB-8001, hb-8001", "there twice"),
        ("HB-8001, HB-7001", "HB-7001 was received with PO-31"),
        ("HB-8001, HB-8002, HB-8003", "3 are more than the 2"),
        ("HB-8001, none", "none tells no device from others"),
    ):
        answer = received(manager, line, serials)
        assert says in answer.json()["detail"], serials
    assert (
        "nothing of it came before" in received(manager, line, "HB-8001", today() - timedelta(days=40)).json()["detail"]
    )
    assert "still to come" in received(manager, line, "HB-8001", today() + timedelta(days=1)).json()["detail"]
    assert manager.get("/api/lifecycle/orders").json()[0]["lines"][0]["received"] == 1


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"number": ""}, "number"),
        ({"supplier": ""}, "supplier"),
        ({"expected": "2001-01-01"}, "expected"),
        ({"lines": []}, "lines"),
        ({"line": {"quantity": 0}}, "lines"),
        ({"line": {"kind": ""}}, "lines"),
        ({"line": {"price": "-3"}}, "lines"),
        ({"line": {"currency": "NOK"}}, "lines"),
        ({"line": {"warranty": -1}}, "lines"),
    ],
)
def test_an_order_that_cannot_be_is_refused_at_its_field(manager, change, field):
    answer = send(manager, "/orders", order(**change))
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_the_past_keeps_what_was_agreed_then_and_one_payment_exists_once(manager, held, people):
    """Worked by hand: 250.00 a month, 300.00 since 90 days; a subscription bought on its first day."""

    def paid_in(months, since):
        told = manager.get(f"/api/lifecycle/cash?months={months}&since={since.isoformat()}").json()["months"]
        return [(p["name"], p["day"], p["amount"]) for m in told for p in m["payments"]]

    since, begins = today() - timedelta(days=90), today() - timedelta(days=300)
    before = [p for p in paid_in(10, begins) if p[1] < since.isoformat()]
    assert {a for _, _, a in before} == {"250.00"}
    one = manager.get(f"/api/lifecycle/contracts/{held}").json()
    dearer = lease(cost="300.00", version=one["version"], holds_from=since.isoformat())
    assert send(manager, f"/contracts/{held}", dearer, "put").status_code == 200
    after = paid_in(10, begins)
    assert [p for p in after if p[1] < since.isoformat()] == before, "what was paid stays paid"
    assert {a for _, d, a in after if d >= since.isoformat()} == {"300.00"}
    then = manager.get(f"/api/lifecycle/contracts/{held}?as_of={(since - timedelta(days=1)).isoformat()}").json()
    assert (then["cost"], then["former"][0]["until"]) == ("250.00", since.isoformat())
    entry = AuditEntry.objects.filter(verb="changed a contract").latest("pk")
    undo(people["manager"], entry.pk)
    assert {a for _, _, a in paid_in(10, begins)} == {"250.00"}
    ahead = lease(version=one["version"] + 2, holds_from=(today() + timedelta(days=1)).isoformat(), cost="1.00")
    assert send(manager, f"/contracts/{held}", ahead, "put").json()["field"] == "holds_from"

    licence = {"name": "Quill plan", "metric": "device", "products": ["Quill Office"], "starts": since.isoformat()}
    licence |= {"ends": (since + timedelta(days=364)).isoformat(), "cost": "1200.00", "cost_every": "year"}
    made = manager.post("/api/licences", json.dumps(licence), content_type="application/json")
    assert made.status_code == 201, made.content
    bought = {"day": since.isoformat(), "quantity": 12, "price": "100.00"}
    path = f"/api/licences/{made.json()['id']}/purchases"
    assert manager.post(path, json.dumps(bought), content_type="application/json").status_code == 201
    mine = [p for p in paid_in(10, begins) if "Quill plan" in p[0]]
    assert mine == [("Quill plan", since.isoformat(), "1200.00")]


def test_each_notice_is_written_once_and_after_days_off_too(manager, people, monkeypatch):
    """90, 45 and 14 days before the end; on the day of the second nothing ran, and the contract got another name."""
    ends, day = today() + timedelta(days=100), [today()]
    monkeypatch.setattr("tarn.apps.lifecycle.reads.ending.day_of", lambda at: day[0])
    number = send(manager, "/contracts", lease(ends=ends.isoformat())).json()["id"]
    body = {"name": "Ends", "report": "notices", "rule": "FREQ=DAILY;BYHOUR=6", "to": ["a@b.example"]}
    watch, _ = make_watch(
        people["operator"], WatchIn.model_validate({**body, "condition": "new", "number": 0, "attach": "", "on": True})
    )
    told = []
    for left in (100, 95, 90, 89, 88, 31, 30, 14, 13, 1):
        day[0] = ends - timedelta(days=left)
        if left == 88:
            Contract.objects.filter(pk=number).update(name="Lease of printers", cost=1)
        watch.refresh_from_db()
        if ask_due(watch.next_at):
            told.append((left, Letter.objects.latest("pk").subject))
    assert told == [(90, "Ends: 1 row, 1 new"), (31, "Ends: 2 rows, 1 new"), (14, "Ends: 3 rows, 1 new")]


@pytest.mark.django_db
def test_contracts_are_rows_of_reports(people, as_role):
    plain = {"provider": "Quayside", "kind": "support", "starts": "2026-01-01", "cost": "12.50", "every": "month"}
    for name, ends in (("Second", "2027-06-30"), ("First", "2027-01-31")):
        make_contract(
            people["manager"], ContractIn.model_validate({"name": name, "ends": ends, "currency": "EUR", **plain})
        )
    fields = ["name", "ends", "cost", "devices"]
    definition = {"row": "contract", "columns": [{"field": f} for f in fields], "inner": "provider = Quayside"}
    body = {"definition": definition}
    told = as_role("viewer").post("/api/reports/preview", body, content_type="application/json").json()
    rows = [line["values"] for line in told["lines"] if line["kind"] == "row"]
    assert rows == [["First", "2027-01-31", "12.50", 0], ["Second", "2027-06-30", "12.50", 0]]
    none = {"definition": {**definition, "inner": "days_left > 99999"}}
    answer = as_role("viewer").post("/api/reports/preview", none, content_type="application/json").json()
    assert [line for line in answer["lines"] if line["kind"] == "row"] == []
