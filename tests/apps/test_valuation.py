"""Worth and cost from rules to figures: book values, the money of a selection, plans of refresh."""

import json
from datetime import date, timedelta
from decimal import Decimal

import pytest
from dateutil.relativedelta import relativedelta

from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.people.models import AuditEntry
from tarn.apps.reports.reads.asking import ask
from tarn.core.reports import Definition

pytestmark = pytest.mark.django_db


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def manager(as_role, estate):
    return as_role("manager")


BOUGHT = (today() + timedelta(days=1)).replace(day=1) - relativedelta(months=12)
"""So that twelve months have ended: on the last day of one, it has."""


@pytest.fixture
def laptops(manager):
    """Two laptops bought twelve months ago for 1,200 each, received into the register."""
    line = {"kind": "laptop", "quantity": 2, "price": "1200.00", "warranty": 6, "cost_centre": "IT-400"}
    body = {"number": "PO-1", "supplier": "Quayside", "day": BOUGHT.isoformat(), "lines": [line]}
    send(manager, "lifecycle/orders", body)
    (made,) = manager.get("/api/lifecycle/orders").json()
    day = (BOUGHT + timedelta(days=3)).isoformat()
    told = send(
        manager, f"lifecycle/order-lines/{made['lines'][0]['id']}/receive", {"serials": "HLX-101\nHLX-102", "day": day}
    )
    return told.json()["assets"]


@pytest.fixture
def rule(manager, laptops):
    answer = send(manager, "valuation/rules", {"name": "Laptops", "filter": "kind = laptop", "months": 36})
    assert answer.status_code == 201
    return manager.get("/api/valuation/rules").json()["rules"][0]


def money(client, **asked):
    return client.get("/api/valuation/money", asked).json()


def test_a_rule_gives_book_values_and_says_what_has_none(manager, laptops, rule):
    """12 months of 36 have ended: a third of 1,200 is gone, 33.33 a month (33.34 once in a while)."""
    told = money(manager)
    assert told["whole"]["cost"] == "2400.00"
    assert told["whole"]["book"] == "1600.00"
    assert told["whole"]["depreciation"] in ("66.66", "66.68")
    assert {a["why"]: a["devices"] for a in told["apart"]} == {"no price is known": 4}
    assert money(manager, filter="kind = server")["whole"]["book"] == "0.00"
    assert money(manager, by="cost_centre")["groups"][0]["name"] == "IT-400"
    assert manager.get("/api/valuation/money", {"by": "moon"}).status_code == 422


def test_what_a_rule_writes_down_and_what_has_no_worth_is_opened_exactly(manager, laptops, rule):
    whole = money(manager)
    opened = [(rule["name"], rule["devices"]), *((a["why"], a["devices"]) for a in whole["apart"])]
    assert len(opened) > 1
    for words, devices in opened:
        found = money(manager, written=words)
        assert found["whole"]["devices"] == devices
        assert {r["why"] for r in found["rows"]} == {words}
    assert sum(n for _, n in opened) == whole["whole"]["devices"]


def test_as_of_a_past_day_the_book_value_is_that_days(manager, laptops, rule):
    """What was received is known from the day of its receipt on; of the day before nothing is."""
    past = (today() - timedelta(days=1)).isoformat()
    assert money(manager, as_of=past)["whole"]["devices"] <= money(manager)["whole"]["devices"]


def test_an_asset_shows_its_schedule_and_its_terms_can_be_its_own(manager, laptops, rule):
    asset = laptops[0]
    told = manager.get(f"/api/valuation/assets/{asset}").json()
    assert (told["by"], told["terms"]["months"], told["book"]) == ("Laptops", 36, "800.00")
    assert sum(Decimal(y["charge"]) for y in told["years"]) == 1200
    own = {"cost": "1200", "start": BOUGHT.isoformat(), "months": 24, "why": "hard use"}
    assert send(manager, f"valuation/assets/{asset}/terms", own, "put").status_code == 200
    told = manager.get(f"/api/valuation/assets/{asset}").json()
    assert (told["by"], told["book"], told["own"]["why"]) == ("terms of its own", "600.00", "hard use")
    assert send(manager, f"valuation/assets/{asset}/terms", own, "put").status_code == 409
    short = {**own, "months": 0, "version": 1}
    assert send(manager, f"valuation/assets/{asset}/terms", short, "put").json()["field"] == "months"
    assert manager.delete(f"/api/valuation/assets/{asset}/terms").status_code == 204
    assert manager.get(f"/api/valuation/assets/{asset}").json()["book"] == "800.00"
    manager.post(f"/api/audit/{AuditEntry.objects.latest('pk').pk}/undo")
    assert manager.get(f"/api/valuation/assets/{asset}").json()["book"] == "600.00"


def test_parting_with_an_asset_gives_its_gain_or_loss(manager, laptops, rule):
    """800 are left of it in the month it is sold for 500, which costs 20: a loss of 320.

    The month it is sold in does not count, so on the last day of one eleven have been written down.
    """
    step = {
        "step": "dispose of",
        "assets": laptops[:1],
        "method": "sold",
        "erasure": "wiped",
        "proceeds": "500",
        "costs": "20",
    }
    assert send(manager, "lifecycle/steps/take", step).status_code == 200
    told = manager.get(f"/api/valuation/assets/{laptops[0]}").json()
    months = (today().year - BOUGHT.year) * 12 + today().month - BOUGHT.month
    book, gain = {12: ("800.00", "-320.00"), 11: ("833.33", "-353.33")}[months]
    assert told["disposal"] == {"book": book, "gain": gain}
    assert told["book"] == "0.00"


def test_what_an_asset_costs_a_month_is_all_in_and_adds_up(manager, laptops, rule, estate):
    """A contract of 100 a quarter over three laptops is 33.33 a month: 11.11 each. 50 W for 10 hours at 0.40."""
    day = today()
    contract = {
        "name": "Care",
        "provider": "Quayside",
        "kind": "maintenance",
        "starts": (day - timedelta(days=30)).isoformat(),
        "cost": "100.00",
        "every": "quarter",
        "covers": "kind = laptop",
    }
    assert send(manager, "lifecycle/contracts", contract).status_code == 201
    assert (
        send(
            manager, "valuation/energy", {"price": "0.40", "kinds": {"laptop": [50, 10]}, "version": 0}, "put"
        ).status_code
        == 200
    )
    told = manager.get(f"/api/valuation/assets/{estate[2]}").json()
    parts = {line["part"]: line["amount"] for line in told["month"]}
    # 50 W × 10 h × 365/12 days = 15.2083 kWh at 0.40.
    assert parts == {"contracts": "11.11", "energy": "6.08"}
    whole = money(manager)["whole"]
    assert whole["contracts"] == "33.33"
    assert whole["energy"] == "6.08"  # those in stock are switched off
    shown = [Decimal(r["month"]) for r in money(manager)["rows"]]
    assert sum(shown) == Decimal(whole["month"])
    wrong = send(manager, "valuation/energy", {"price": "-1", "kinds": {}, "version": 1}, "put")
    assert wrong.json()["field"] == "price"


def test_amounts_without_a_rate_are_told_and_in_no_sum(manager, laptops, rule):
    from tarn.apps.lifecycle.models import Contract

    Contract.objects.create(
        name="Abroad", provider="x", kind="lease", starts=date(2020, 1, 1), cost=100_00, currency="NOK", every="month",
        covers="kind = laptop", made_by="x", made_at=0,
    )  # fmt: skip
    told = money(manager)
    assert told["whole"]["contracts"] == "0.00"
    assert "no rate of NOK" in told["without_rate"][0]


def test_rules_are_tried_in_their_order(manager, laptops, rule):
    send(manager, "valuation/rules", {"name": "All", "filter": "", "months": 60})
    first, second = manager.get("/api/valuation/rules").json()["rules"]
    assert (first["name"], first["devices"], second["devices"]) == ("Laptops", 2, 0)
    assert manager.post(f"/api/valuation/rules/{second['id']}/up").status_code == 204
    first, second = manager.get("/api/valuation/rules").json()["rules"]
    assert (first["name"], first["devices"], second["devices"]) == ("All", 2, 0)
    assert manager.delete(f"/api/valuation/rules/{first['id']}").status_code == 204
    assert manager.get("/api/valuation/rules").json()["rules"][0]["devices"] == 2


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"months": 0}, "months"),
        ({"residual": "120"}, "residual"),
        ({"residual": "much"}, "residual"),
        ({"method": "guess"}, "method"),
        ({"filter": "knid = laptop"}, "filter"),
        ({"changes": [{"day": "2026-01-01", "months": 0}]}, "months"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_at_its_field(manager, change, field):
    answer = send(manager, "valuation/rules", {"name": "Laptops", "filter": "kind = laptop", "months": 36, **change})
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_a_rule_is_changed_from_the_version_it_was_read_at_and_taken_back(manager, laptops, rule, as_role):
    said = {"name": "Laptops", "filter": "kind = laptop", "months": 24}
    path = f"valuation/rules/{rule['id']}"
    changed = send(manager, path, {**said, "version": rule["version"]}, "put")
    assert (changed.status_code, changed.json()["version"]) == (200, rule["version"] + 1)
    assert money(manager)["whole"]["book"] == "1200.00"  # twelve of twenty-four months are over
    stale = send(manager, path, {**said, "months": 60, "version": rule["version"]}, "put")
    assert stale.status_code == 409
    assert money(manager)["whole"]["book"] == "1200.00"
    send(manager, "valuation/rules", {"name": "All", "filter": "", "months": 60})
    taken = send(manager, path, {**said, "name": "All", "version": rule["version"] + 1}, "put")
    assert (taken.status_code, taken.json()["field"]) == (422, "name")
    assert send(manager, "valuation/rules/99", {**said, "version": 1}, "put").status_code == 404
    assert send(as_role("operator"), path, {**said, "version": rule["version"] + 1}, "put").status_code == 403
    entry = next(e for e in manager.get("/api/audit").json() if e["verb"] == "changed a rule of depreciation")
    assert manager.post(f"/api/audit/{entry['id']}/undo").status_code == 200
    assert money(manager)["whole"]["book"] == "1600.00"


def scenario(**change):
    return {
        "name": "As it is",
        "filter": "kind = laptop",
        "settings": {"life": {"laptop": 13}, "price": {"laptop": "900"}, "budgets": ["1000"], "quarters": 4, **change},
    }


def test_a_plan_is_drawn_kept_and_held_against_another_budget(manager, laptops):
    asked = {k: v for k, v in scenario().items() if k != "name"}
    told = send(manager, "valuation/refresh", asked).json()
    # Two bought a year ago are due within the quarters; the third was first seen lately.
    assert told["planned"] == 2
    assert all(Decimal(q["cost"]) <= 1000 for q in told["quarters"])
    assert "13 months of life, bought in" in told["rows"][0]["why"]
    kept = send(manager, "valuation/scenarios", scenario()).json()
    more = send(
        manager,
        "valuation/refresh",
        {**asked, "beside": kept["id"], "settings": {**asked["settings"], "budgets": ["2000"]}},
    )
    assert more.json()["moved"] == 1
    beside = manager.get("/api/valuation/scenarios/beside").json()
    assert [b["name"] for b in beside] == ["As it is"]
    rows = list(ask(Definition(row="refresh", columns=[{"field": "name"}, {"field": "quarter"}]), None).lines)
    assert len(rows) == 2
    assert send(manager, f"valuation/scenarios/{kept['id']}", {**scenario(), "version": 9}, "put").status_code == 409
    assert manager.delete(f"/api/valuation/scenarios/{kept['id']}").status_code == 204
    wrong = send(manager, "valuation/refresh", {"settings": {"life": {"laptop": -4}}})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "life")


def test_support_that_ends_comes_from_a_file_and_makes_due(manager, estate):
    bad = send(manager, "lifecycle/support-ends", {"text": "name,release,day\nDebian GNU/Linux,11,soon"})
    assert "Line 2" in bad.json()["detail"]
    soon = (today() + timedelta(days=40)).isoformat()
    good = send(manager, "lifecycle/support-ends", {"text": f"name,release,day\nDebian GNU/Linux,11,{soon}\n"})
    assert good.json() == {"taken": 1}
    told = send(manager, "valuation/refresh", {"settings": {"life": {"server": 600}}}).json()
    assert [r["name"] for r in told["rows"] if "support for its system ends" in r["why"]] == ["avrn-gate-01"]
    river = manager.get("/api/lifecycle/river").json()
    assert [(e["stream"], e["count"]) for e in river["endings"]] == [("support", 1)]


def test_only_managers_plan(as_role, estate):
    viewer = as_role("viewer")
    assert viewer.get("/api/valuation/money").status_code == 200
    for path, body in (("rules", {"name": "x", "months": 3}), ("scenarios", scenario())):
        assert send(as_role("operator"), f"valuation/{path}", body).status_code == 403


def test_what_is_typed_of_an_acquisition_is_dated_undone_and_refused_where_it_cannot_be(manager, estate, rule):
    def put(**body):
        return send(manager, f"lifecycle/assets/{estate[2]}/acquisition", body, "put")

    assert put(warranty_from="2026-02-01", warranty_end="2026-01-01").json()["field"] == "warranty_end"
    assert put(price="9.999").json()["field"] == "price"
    assert put(bought="2026-01-05", price="900", currency="NOK").json()["field"] == "currency"
    told = put(bought=BOUGHT.isoformat(), price="900", supplier="Quayside", warranty_end="2027-01-01").json()
    assert manager.get(f"/api/valuation/assets/{estate[2]}").json()["book"] == "600.00"  # 12 of 36 months are over
    row = manager.get("/api/assets", {"filter": "warranty.end = 2027-01-01", "fields": "supplier"}).json()["rows"][0]
    assert row["supplier"] == "Quayside"
    put(price="")
    assert manager.get(f"/api/valuation/assets/{estate[2]}").json()["apart"] == "no price is known"
    manager.post(f"/api/audit/{AuditEntry.objects.latest('pk').pk}/undo")
    assert manager.get(f"/api/valuation/assets/{estate[2]}").json()["book"] == "600.00"
    manager.post(f"/api/audit/{told['entry']}/undo")
    assert manager.get(f"/api/valuation/assets/{estate[2]}").json()["book"] is None


def test_loans_and_ends_of_support_are_in_the_calendar_feed(manager, estate, client):
    soon = (today() + timedelta(days=40)).isoformat()
    send(manager, "lifecycle/support-ends", {"text": f"name,release,day\nDebian GNU/Linux,11,{soon}\n"})
    step = {"step": "lend", "assets": estate[:1], "person": "Asa Wren", "due": soon}
    assert send(manager, "lifecycle/steps/take", step).status_code == 200
    path = send(manager, "lifecycle/feed", {}).json()["path"]
    told = client.get(path).content.decode()
    assert "SUMMARY:salt-tix-01\\, Asa Wren: is due back" in told
    assert "SUMMARY:Debian GNU/Linux 11: support ends" in told
