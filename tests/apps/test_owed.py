"""What licences are told of beyond a position: idle ones, warnings, the remedy, what is expected, former terms, papers."""

import json
from datetime import date, timedelta

import pytest

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import AuditEntry, Person
from tarn.apps.reports.reads.asking import ask
from tarn.core.reports import Definition
from tests.apps.test_licences import OFFICE, manager, office, positions, send, why  # noqa: F401  (fixtures)
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db


def told(client, path, **asked):
    return client.get(f"/api/licences/{path}", asked).json()


@pytest.fixture
def unused(estate):
    """On the first server the product was last used long ago, says the system."""
    day = 1_700_000_000
    list(take_in([sighting("salt-tix-01", 11, identity={"serial": "HB-1001", "manufacturer": "Halberd"},
                           installs=[{"name": "quill-office", "used": day}])]))  # fmt: skip
    return estate[0]


def test_what_nobody_used_for_long_is_idle_and_cures_for_nothing(manager, office, unused):  # noqa: F811
    (idle,) = told(manager, "idle")
    assert (idle["asset"], idle["worth"], idle["units"]) == (unused, "120.00", 1)
    assert idle["why"].startswith("not used for ")
    remedy = told(manager, "remedy")
    assert (remedy["cost"], [s["sort"] for s in remedy["steps"]]) == ("0.00", ["give up"])
    assert remedy["steps"][0]["assets"] == [unused]
    bought = told(manager, "remedy", free="false")
    assert (bought["cost"], bought["steps"][0]["text"]) == ("120.00", "Buy 1 of “Quill Office, by device”")
    ledger = manager.get("/api/money/ledger").json()
    put = manager.put("/api/money/ledger", json.dumps({**ledger, "idle_after": 3650}), content_type="application/json")
    assert put.status_code == 200
    assert told(manager, "idle") == []


def test_warnings_say_what_is_wrong_and_what_is_about_to_be(manager, office, estate):  # noqa: F811
    day = date.today()
    ends = {"ends": (day + timedelta(days=20)).isoformat(), "maintained_until": (day - timedelta(days=3)).isoformat()}
    send(manager, "", {**OFFICE, "name": "Second", "release": "15", **ends})
    sorts = {w["sort"] for w in told(manager, "warnings")}
    assert {"ends soon", "maintenance over", "unlicensed"} <= sorts
    over = {"ends": (day - timedelta(days=1)).isoformat()}
    send(manager, "", {**OFFICE, "name": "Third", "products": ["driftshare"], **over})
    texts = [w["text"] for w in told(manager, "warnings")]
    assert any(t.startswith("The term of “Third” was over") and "still used" in t for t in texts)


def test_a_leaver_s_use_is_told_and_given_up(manager, office, estate, people):  # noqa: F811
    decide(people["operator"], [estate[0]], {"person": "Wren Gone", "department": "Ticketing"}, "gave")
    Person.objects.create(source="x", key="1", name="Wren Gone", joined_at=1, left_at=2, last_sync=1)
    assert [i["why"] for i in told(manager, "idle")] == ["Wren Gone has left"]
    assert "Held by people who have left: Wren Gone." in why(manager, "quill-office")["warnings"]


def test_departments_share_in_units(manager, estate, people):  # noqa: F811
    decide(people["operator"], [estate[0]], {"department": "Ticketing"}, "gave")
    core = {**OFFICE, "name": "By core", "metric": "core", "per_processor": 8, "pack": 2}
    number = send(manager, "", core).json()["id"]
    send(manager, f"/{number}/purchases", {"day": "2020-01-01", "quantity": 10, "price": "5"})
    shares = {d["name"]: (d["covered"], d["uncovered"]) for d in why(manager, "quill-office")["departments"]}
    assert shares == {"Ticketing": (8, 0), "none known": (0, 8)}


def test_what_if_a_department_hires(manager, office, estate, people):  # noqa: F811
    """One of Ticketing has the product; twelve more need twelve units at 120."""
    decide(people["operator"], [estate[0]], {"person": "Una Vale", "department": "Ticketing"}, "gave")
    then = told(manager, "hired", department="ticketing", number=12)
    assert then["products"] == ["quill-office"]
    assert [(b["more"], b["short"], b["cost"]) for b in then["balances"]] == [(12, 12, "1440.00")]
    assert manager.get("/api/licences/hired", {"department": "Moon", "number": 1}).status_code == 422
    assert manager.get("/api/licences/hired", {"department": "Ticketing", "number": 0}).status_code == 422


def test_the_next_year_holds_renewals_payments_and_what_is_short(manager, office):  # noqa: F811
    day = date.today()
    yearly = {**OFFICE, "name": "Yearly", "products": ["driftshare"], "cost": "100", "cost_every": "quarter",
              "starts": (day - timedelta(days=10)).isoformat()}  # fmt: skip
    send(manager, "", yearly)
    told_ = told(manager, "next-year")
    assert told_["sums"] == {"payment": "400.00", "true-up": "120.00"}
    assert told_["total"] == "520.00"


def test_what_changed_since_a_day_is_told(manager, office):  # noqa: F811
    yesterday = (date.today() - timedelta(days=1)).isoformat()
    (one,) = told(manager, "changes", since=yesterday)
    assert (one["name"], one["needed"], one["short"]) == ("quill-office", [0, 2], [0, 1])
    assert told(manager, "changes", since=date.today().isoformat()) == []


def test_need_of_the_past_year_is_told_day_by_day(manager, office):  # noqa: F811
    _, by_name = positions(manager)
    points = told(manager, f"positions/{by_name['quill-office']['key']}/trend")
    assert len(points) == 5
    assert (points[-1]["needed"], points[-1]["short"]) == (2, 1)
    assert points[0]["needed"] == 0  # a year ago nothing was in the register


def test_a_past_day_is_reckoned_with_the_terms_it_had(manager, office):  # noqa: F811
    """Counted by device until five days ago: yesterday is by the new terms, ten days ago by the old."""
    opened = manager.get(f"/api/licences/{office}").json()
    since = (date.today() - timedelta(days=5)).isoformat()
    change = {**OFFICE, "metric": "site", "without_limit": True, "holds_from": since, "version": opened["version"]}
    assert send(manager, f"/{office}", change, "put").status_code == 200
    now = manager.get(f"/api/licences/{office}").json()
    assert (now["metric"], now["former"][0]["until"], now["former"][0]["terms"]["metric"]) == ("site", since, "device")
    before = (date.today() - timedelta(days=10)).isoformat()
    assert manager.get(f"/api/licences/{office}", {"as_of": before}).json()["metric"] == "device"
    always = {**change, "holds_from": None, "release": "16", "version": now["version"]}
    send(manager, f"/{office}", always, "put")
    assert len(manager.get(f"/api/licences/{office}").json()["former"]) == 1
    ahead = {
        **always,
        "metric": "device",
        "holds_from": (date.today() + timedelta(days=2)).isoformat(),
        "version": now["version"] + 1,
    }
    assert send(manager, f"/{office}", ahead, "put").json()["field"] == "holds_from"
    manager.post(f"/api/audit/{AuditEntry.objects.filter(verb='changed a licence').earliest('pk').pk}/undo")
    assert manager.get(f"/api/licences/{office}").json()["former"] == []


def test_a_licence_covers_what_a_phrase_names(manager, estate, as_role):  # noqa: F811
    phrase = {"name": "suites", "values": ["quill-office", "/^drift/"]}
    as_role("operator").post("/api/phrases", json.dumps(phrase), content_type="application/json")
    number = send(manager, "", {**OFFICE, "products": ["@suites"]}).json()["id"]
    send(manager, f"/{number}/purchases", {"day": "2020-01-01", "quantity": 9, "price": "5"})
    assert manager.get(f"/api/licences/{number}").json()["used"] == 3
    wrong = send(manager, "", {**OFFICE, "name": "X", "products": ["@suite"]}).json()
    assert (wrong["field"], "Did you mean @suites?" in wrong["detail"]) == ("products", True)


def test_tags_fields_of_ones_own_papers_and_reports(manager, office, unused):  # noqa: F811
    opened = manager.get(f"/api/licences/{office}").json()
    more = {**OFFICE, "tags": ["office", "office "], "extra": {"Agreement": "EA-7"}, "version": opened["version"]}
    send(manager, f"/{office}", more, "put")
    now = manager.get(f"/api/licences/{office}").json()
    assert (now["tags"], now["extra"]) == (["office"], {"Agreement": "EA-7"})
    kept = manager.post(f"/api/papers-of/licence/{office}", {"text": "signed 2020"}).json()
    assert kept[0]["text"] == "signed 2020"
    assert manager.get(f"/api/papers-of/licence/{office}").json() == kept
    assert manager.get("/api/papers-of/licence/99").status_code == 404
    assert manager.get("/api/papers-of/moon/1").status_code == 404
    assert manager.delete(f"/api/papers/{kept[0]['id']}").status_code == 204
    for row, fields in (("idle", ["name", "why", "worth"]), ("licence_warning", ["sort", "text"])):
        lines = list(ask(Definition(row=row, columns=[{"field": f} for f in fields]), None).lines)
        assert lines
    lines = told(manager, "purchases")
    assert [(x["name"], x["quantity"], x["total"]) for x in lines] == [(OFFICE["name"], 1, "120.00")]


def test_rates_are_taken_in_from_a_file(manager):  # noqa: F811
    def post(text):
        return manager.post("/api/money/rates", json.dumps({"text": text}), content_type="application/json")

    assert post("date,currency,rate\n2026-01-02,NOK,11.6\n").json() == {"taken": 1}
    assert post("date,currency,rate\n2026-01-02,NOK,-1\n").json()["field"] == "file"
    assert manager.get("/api/money/rates").json()[0]["currency"] == "NOK"


def test_a_contract_says_what_it_covers_and_what_is_no_longer_there(manager, office, estate, people):  # noqa: F811
    Person.objects.create(source="x", key="1", name="Wren Gone", joined_at=1, left_at=2, last_sync=1)
    body = {"name": "Care", "provider": "Q", "kind": "support", "starts": "2024-01-01", "covers": "kind = server",
            "licences": [OFFICE["name"]], "people": ["Wren Gone"]}  # fmt: skip

    def post(**change):
        return manager.post("/api/lifecycle/contracts", json.dumps({**body, **change}), content_type="application/json")

    number = post().json()["id"]
    opened = manager.get(f"/api/lifecycle/contracts/{number}").json()
    assert opened["licences"] == [{"name": OFFICE["name"], "there": True}]
    assert opened["people"] == [{"name": "Wren Gone", "there": False}]
    assert post(name="B", licences=["None such"]).json()["field"] == "licences"
    assert post(name="B", people=["Nobody"]).json()["field"] == "people"


def test_after_new_evidence_a_position_is_carried_on_as_if_from_nothing(manager, office, estate, people):  # noqa: F811
    """A release updated, a product gone, a device retired, renamed, a new one, a holder: each time both ways agree."""
    from tarn.apps.licences.reads import reckoning

    core = {**OFFICE, "name": "Old tools", "products": ["old-tool", "tixline-server"], "metric": "core"}
    number = send(manager, "", core).json()["id"]
    send(manager, f"/{number}/purchases", {"day": "2020-01-01", "quantity": 8, "price": "5"})

    def both():
        carried = reckoning.reckoned(None)
        forget()
        anew = reckoning.reckoned(None)
        assert carried.balances == anew.balances
        assert (carried.given.uses, carried.given.machines) == (anew.given.uses, anew.given.machines)
        assert (carried.given.aside, carried.given.left_out) == (anew.given.aside, anew.given.left_out)
        return anew

    identity = {"serial": "HB-1001", "manufacturer": "Halberd"}
    before = both()
    list(take_in([sighting("salt-tix-01", 12, identity=identity, packages=packages(**{"quill-office": "17.0"}))]))
    assert len(both().given.uses) == len(before.given.uses) - 1  # the tix server is gone
    decide(people["operator"], [estate[1]], {"state": "retired"}, "decided")
    assert [one.reason for one in both().given.left_out] == ["on devices that are retired"]
    list(take_in([sighting("salt-tix-99", 13, identity=identity, packages=packages(**{"quill-office": "17.0"}))]))
    both()
    fresh = sighting("new-01", 14, identity={"serial": "HB-9"}, packages=packages(**{"old-tool": "2"}))
    decide(people["operator"], [next(iter(take_in([fresh]))).asset], {"standing": "register", "state": "in use"}, "x")
    both()
    decide(people["operator"], [estate[0]], {"person": "Una Vale", "department": "Ticketing"}, "gave")
    both()
