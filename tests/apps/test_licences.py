"""Licences from entry to position, over HTTP, against an estate of known installations."""

import json
from datetime import date, timedelta

import pytest
from typer.testing import CliRunner

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.licences.models import Key, Licence
from tarn.apps.money.actions.ledger import set_ledger, take_in_rates
from tarn.apps.money.inputs import LedgerIn
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry, Person
from tarn.site.cli import app
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db

OFFICE = {"name": "Quill Office, by device", "metric": "device", "products": ["Quill Office"]}
BEFORE = "2020-01-01"


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/licences{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def manager(as_role, estate):
    return as_role("manager")


@pytest.fixture
def office(manager):
    """One unit of Quill Office, which is on two servers."""
    number = send(manager, "", OFFICE).json()["id"]
    bought = {"day": BEFORE, "quantity": 1, "price": "120.00", "order": "PO-7", "supplier": "Made-up Supplies"}
    assert send(manager, f"/{number}/purchases", bought).status_code == 201
    return number


def positions(client, as_of=""):
    told = client.get(f"/api/licences/positions{as_of}").json()
    return told, {b["name"]: b for b in told["balances"]}


def why(client, name, as_of=""):
    _, by_name = positions(client, as_of)
    return client.get(f"/api/licences/positions/{by_name[name]['key']}{as_of}").json()


def test_a_position_with_its_working_and_cure(manager, office):
    """Two installations need two units; one is owned; another costs 120."""
    told, by_name = positions(manager)
    row = by_name["quill-office"]
    assert (row["needed"], row["entitled"], row["short"], row["spare"]) == (2, 1, 1, 0)
    assert (told["cure"], told["uncosted"]) == ("120.00", 0)
    full = why(manager, "quill-office")
    assert [(s["sign"], s["figure"], s["text"]) for s in full["working"]] == [
        ("", 2, "installations count"),
        ("", 2, "devices: 2 × 1"),
        ("=", 2, "devices needed"),
        ("-", 1, "devices entitled"),
        ("=", 1, "short"),
    ]
    assert [(c["buy"], c["cost"]) for c in full["cures"]] == [(1, "120.00")]
    (stray,) = full["uncovered"]
    assert stray["reasons"] == [{"licence": OFFICE["name"], "reason": "all 1 are taken"}]
    opened = manager.get(f"/api/licences/{office}").json()
    assert (opened["used"], opened["quantity"]) == (1, 1)
    assert opened["bearers"][0]["uses"][0]["right"] == "as the product itself"


def test_in_a_branch_a_position_is_the_company_s_and_says_what_of_it_is_there(manager, office, people):
    """The one that nothing covers stands in Gullhaven: of two needed one is there, without a licence."""
    (stray,) = why(manager, "quill-office")["uncovered"]
    decide(people["manager"], [stray["asset"]], {"place": "Gullhaven"}, "moved")
    told, by_name = positions(manager, "?standing_in=place:Gullhaven")
    assert by_name["quill-office"]["here"] == {"name": "here", "covered": 0, "uncovered": 1, "uses": 1}
    assert (by_name["quill-office"]["needed"], told["cure"]) == (2, "120.00")
    assert positions(manager)[1]["quill-office"]["here"] is None
    decide(people["manager"], [stray["asset"]], {"place": "Saltholm"}, "moved")
    assert positions(manager, "?standing_in=place:Gullhaven")[1] == {}


def test_a_day_is_reckoned_with_what_was_bought_and_held_by_then(manager, office):
    """What is bought for tomorrow does not count today; what was not in the register then does not count then."""
    tomorrow = (date.today() + timedelta(days=1)).isoformat()
    send(manager, f"/{office}/purchases", {"day": tomorrow, "quantity": 5, "price": "100"})
    full = why(manager, "quill-office")
    assert full["short"] == 1
    assert "1 purchases are dated after this day" in " ".join(full["warnings"])
    send(manager, f"/{office}/purchases", {"day": date.today().isoformat(), "quantity": 3, "price": "100"})
    assert positions(manager)[1]["quill-office"]["spare"] == 2
    then = positions(manager, f"?as_of={date.fromtimestamp(START + 5 * DAY).isoformat()}")[1]["quill-office"]
    assert (then["needed"], then["entitled"], then["spare"]) == (0, 1, 1)


def test_what_does_not_count_is_told_with_its_reason(manager, office, people, estate):
    decide(people["operator"], estate[:1], {"state": "retired"}, "adopted")
    full = why(manager, "quill-office")
    assert (full["needed"], full["short"]) == (1, 0)
    assert full["working"][0]["note"] == "2 found; 1 on devices that are retired"
    assert full["left_out"][0]["reason"] == "on devices that are retired"


def test_exempt_disputed_and_pinned_and_taken_back(manager, office, people, estate):
    said = {"product": "Quill Office", "assets": estate[:1]}
    assert send(manager, "/said", {**said, "says": "exempt"}).json()["field"] == "why"
    assert send(manager, "/said", {**said, "says": "exempt", "why": "test bench"}).json() == {"count": 1}
    assert why(manager, "quill-office")["short"] == 0
    undo(people["manager"], AuditEntry.objects.latest("pk").pk)
    assert why(manager, "quill-office")["short"] == 1
    send(manager, "/said", {**said, "says": "disputed", "why": "two systems differ"})
    (stray,) = why(manager, "quill-office")["uncovered"]
    assert stray["asset"] == estate[0]
    assert stray["reasons"][0]["reason"] == "disputed, so it counts as unlicensed"
    send(manager, "/said", {**said, "says": "licence", "licence": office})
    assert manager.get(f"/api/licences/{office}").json()["bearers"][0]["uses"][0]["pinned"]
    send(manager, "/said", {**said, "says": ""})
    assert not manager.get(f"/api/licences/{office}").json()["bearers"][0]["uses"][0]["pinned"]


def test_who_has_left_is_the_first_to_be_freed(manager, office, people, estate):
    decide(people["operator"], estate[:1], {"person": "Una Skerry"}, "adopted")
    Person.objects.create(source="D", key="1", name="Una Skerry", joined_at=1, last_sync=1, left_at=2)
    full = why(manager, "quill-office")
    assert [(c["freed"], c["buy"], c["cost"]) for c in full["cures"]] == [(1, 0, "0.00"), (0, 1, "120.00")]
    assert full["cures"][0]["free"][0]["why"] == "Una Skerry has left"
    assert any("Una Skerry" in w for w in full["warnings"])


def test_keys_pasted_masked_over_used_and_joined(manager, as_role, office, estate):
    path = f"/{office}/keys"
    pasted = "QO-AAAA-AAAA-AAAA-11111\nQO-CCCC-CCCC-CCCC-22222;qo-aaaa-aaaa-aaaa-11111, \t"
    assert send(manager, path, {"keys": pasted, "activations": 1}).json() == {
        "count": 2,
        "tails": ["111", "222"],
        "twice": ["keys 1 and 3 (…111) are one"],
    }
    again = send(manager, path, {"keys": "QO-AAAA-AAAA-AAAA-11111"})
    assert again.status_code == 422
    assert "key 1 (…111) is with this licence already" in again.json()["detail"]
    found = [
        {"product": "Quill Office", "key": "QO-AAAA-AAAA-AAAA-11111"},
        {"product": "Quill Office", "key": "QO-EEEE-EEEE-EEEE-33333"},
    ]
    list(take_in([sighting(n, 20, identity={"serial": s}, licence_keys=found[: 2 - i])
                  for i, (n, s) in enumerate((("salt-tix-01", "HB-1001"), ("avrn-gate-01", "HB-1002")))]))  # fmt: skip
    told = {k["tail"]: k for k in manager.get("/api/licences/keys").json()["keys"]}
    assert told["111"]["problem"] == "over-used: on 2 of at most 1"
    assert told["222"]["devices"] == []
    assert (told["333"]["id"], told["333"]["licence"]) == (None, office)
    number = told["111"]["id"]
    assert as_role("viewer").post(f"/api/licences/keys/{number}/show").status_code == 403
    assert manager.post(f"/api/licences/keys/{number}/show").json() == {"key": "QO-AAAA-AAAA-AAAA-11111"}
    assert AuditEntry.objects.latest("pk").verb == "looked at a key"


def test_a_key_on_a_device_that_is_retired_is_no_activation(manager, office, estate, people):
    key = "QO-AAAA-AAAA-AAAA-11111"
    send(manager, f"/{office}/keys", {"keys": key, "activations": 1})
    found = [{"product": "Quill Office", "key": key}]
    list(take_in([sighting(n, 20, identity={"serial": s}, licence_keys=found)
                  for n, s in (("salt-tix-01", "HB-1001"), ("avrn-gate-01", "HB-1002"))]))  # fmt: skip
    assert manager.get("/api/licences/keys").json()["keys"][0]["problem"] == "over-used: on 2 of at most 1"
    decide(people["manager"], estate[1:2], {"state": "retired"}, "decided")
    assert manager.get("/api/licences/keys").json()["keys"][0]["problem"] == ""


def test_a_dropped_licence_comes_back_with_all_it_had(manager, office, people):
    send(manager, f"/{office}/keys", {"keys": "QO-AAAA-11111"})
    assert manager.delete(f"/api/licences/{office}").status_code == 204
    assert Licence.objects.count() == 0
    undo(people["manager"], AuditEntry.objects.latest("pk").pk)
    assert (Licence.objects.get().purchase_set.count(), Key.objects.count()) == (1, 1)
    assert positions(manager)[1]["quill-office"]["entitled"] == 1


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"metric": "moonlight"}, "metric"),
        ({"products": []}, "products"),
        ({"metric": "capacity unit", "formula": "memory //"}, "formula"),
        ({"metric": "capacity unit", "formula": "speed / 2"}, "formula"),
        ({"pack": -1}, "pack"),
        ({"starts": "2026-02-01", "ends": "2026-01-31"}, "ends"),
        ({"cost": "ten", "cost_every": "month"}, "cost"),
        ({"cost": "10", "cost_every": "moon"}, "cost_every"),
    ],
)
def test_a_licence_that_cannot_be_is_refused_at_its_field(manager, change, field):
    answer = send(manager, "", {**OFFICE, **change})
    assert (answer.status_code, answer.json()["field"]) == (422, field)


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"quantity": 0}, "quantity"),
        ({"quantity": -2}, "quantity"),
        ({"price": "-1"}, "price"),
        ({"price": "1.005"}, "price"),
        ({"currency": "NOK"}, "currency"),
        ({"currency": "XYZ"}, "currency"),
    ],
)
def test_a_purchase_that_cannot_be_is_refused_at_its_field(manager, office, change, field):
    answer = send(manager, f"/{office}/purchases", {"day": BEFORE, "quantity": 1, "price": "10", **change})
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_a_purchase_in_another_currency_counts_at_its_days_rate(manager, office, people):
    take_in_rates(people["manager"], "date,currency,rate\n2019-12-01,NOK,10\n2026-01-01,NOK,12\n")
    assert (
        send(
            manager, f"/{office}/purchases", {"day": BEFORE, "quantity": 1, "price": "2000", "currency": "NOK"}
        ).status_code
        == 201
    )
    assert manager.get(f"/api/licences/{office}").json()["price"] == "200.00"
    with pytest.raises(Invalid, match="There are rates against EUR"):
        set_ledger(
            people["manager"],
            LedgerIn.model_validate(
                {"currency": "NOK", "year_begins": 1, "idle_after": 90, "version": ledger().version}
            ),
        )


def test_an_older_edit_and_other_hands_are_refused(manager, as_role, office):
    assert send(manager, f"/{office}", {**OFFICE, "version": 7}, "put").status_code == 409
    assert send(manager, f"/{office}", {**OFFICE, "note": "seen", "version": 1}, "put").status_code == 200
    assert send(as_role("viewer"), "", OFFICE).status_code == 403
    assert send(manager, "", OFFICE).json()["field"] == "name"


def test_a_product_that_needs_a_licence_nobody_holds_is_short(manager):
    assert send(manager, "/needs", {"product": "tixline-server"}).status_code == 204
    row = next(iter(positions(manager)[1].values()))
    assert (row["entitled"], row["short"], row["cure"]) == (0, 1, None)
    assert positions(manager)[0]["uncosted"] == 1
    assert "No device has or had" in send(manager, "/needs", {"product": "moonlight"}).json()["detail"]
    assert send(manager, "/needs", {"product": "tixline-server"}).status_code == 422


def test_a_position_is_taken_away_and_verified_by_the_command(manager, as_role, office, tmp_path):
    answer = manager.post("/api/licences/bundle")
    file = tmp_path / "position.zip"
    file.write_bytes(answer.content)
    run = CliRunner().invoke(app, ["verify-position", str(file)])
    assert run.exit_code == 0, run.output
    assert "1 balances" in run.output
    assert "taken by manager" in run.output
    file.write_bytes(answer.content[:-40])
    assert CliRunner().invoke(app, ["verify-position", str(file)]).exit_code == 1
    assert as_role("operator").post("/api/licences/bundle").status_code == 403


def test_records_of_use_make_the_peak_that_is_needed(manager):
    """Three sessions, two of which overlap; one begins as another ends: 2 at once, 1 owned, 1 short."""
    day = (date.today() - timedelta(days=9)).isoformat()
    number = send(manager, "", {**OFFICE, "name": "At once", "metric": "concurrent use"}).json()["id"]
    send(manager, f"/{number}/purchases", {"day": BEFORE, "quantity": 1, "price": "50"})
    head = "product,begins,ends,person\n"
    lines = [("08:00", "09:00"), ("08:30", "10:00"), ("10:00", "11:00")]
    file = head + "".join(f"quill-office,{day}T{b},{day}T{e},Una\n" for b, e in lines)
    assert send(manager, "/use-records", {"file": file}).json() == {"fresh": 3, "known": 0}
    assert send(manager, "/use-records", {"file": file}).json() == {"fresh": 0, "known": 3}
    row = positions(manager)[1]["quill-office"]
    assert (row["needed"], row["short"], row["installations"]) == (2, 1, 2)
    for wrong, says in (
        ("", "the file is empty"),
        ("person\nUna", "no column “product”"),
        (f"{head}quill-office,soon,{day},", "line 2: begins: “soon” is no time"),
        (f"{head}quill-office,{day}T09:00,{day}T08:00,", "line 2: it ends before it begins"),
        (f"{head},{day},{day},", "line 2: no product"),
    ):
        assert says in send(manager, "/use-records", {"file": wrong}).json()["detail"]
