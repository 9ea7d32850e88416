"""Fields and kinds of the company's own, from designer to register: asked, shown, imported, entered, dropped, undone."""

import time

import pytest
from typer.testing import CliRunner

from tarn.apps.discovery.imports import change as imports
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.custom.change import change_field, change_kind, drop_field, drop_kind, make_field, make_kind
from tarn.apps.estate.custom.fields import overview
from tarn.apps.estate.custom.inputs import OwnFieldIn, OwnKindIn
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.door.rebuild import differences, rebuild_beside
from tarn.apps.estate.models import Asset, KeptSet
from tarn.apps.estate.register import pages as register
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.enter import enter
from tarn.apps.estate.register.strata import strata
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.refusals import Invalid, Stale
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.core.fields import FIELDS
from tarn.site.cli import app
from tests.documents import sighting

SIDE = {"name": "Berth side", "type": "choice", "choices": ["port", "starboard"], "group": "Aboard"}
PULL = {"name": "Pull", "type": "number", "unit": "kN", "kinds": ["winch"], "required": True}


@pytest.fixture
def own(people, estate):
    """A kind and two fields; nothing of them is left to other tests' registry."""
    manager = people["manager"]
    make_kind(manager, OwnKindIn.model_validate({"name": "Winch", "names": {"nb": "vinsj"}}))
    made = make_field(manager, OwnFieldIn.model_validate(SIDE)), make_field(manager, OwnFieldIn.model_validate(PULL))
    yield made
    from tarn.core.own import know

    know([], [])


def _last(verb):
    return AuditEntry.objects.filter(verb=verb).latest("pk").pk


def test_a_field_is_filled_asked_shown_and_taken_back(own, people, estate):
    before = int(time.time()) - 1
    entry = decide(people["operator"], estate[:2], {"own:Berth side": "PORT"}, "decided")
    assert sorted(ids(question('field("Berth side") = port'))) == sorted(estate[:2])
    assert len(ids(question('field("Berth side") = none'))) == 2
    rows = register.page(question(""), ["name", "field:Berth side"], "-field:Berth side", 0, 10)
    assert [r["field:Berth side"] for r in rows] == ["port", "port", None, None]
    band = strata(question(""), ("field:Berth side",))[0]["parts"]
    assert {p["label"]: p["count"] for p in band} == {"port": 2, "none known": 2}
    assert all(len(ids(question(p["filter"]))) == p["count"] for p in band)
    undo(people["operator"], entry)
    assert not ids(question('field("Berth side") != none'))
    assert ids(question('field("Berth side") = port', before)) == []


LABEL = {"name": "Label", "type": "made of others", "template": "{name}, {Berth side} ({place})", "listed": True}


def test_a_field_made_of_others_is_asked_shown_and_sorted_like_any_other(own, people, estate, as_role):
    made = make_field(people["manager"], OwnFieldIn.model_validate(LABEL))
    decide(people["operator"], estate[:1], {"own:Berth side": "port"}, "decided")
    assert ids(question('field("Label") = "SALT-TIX-01, port (Saltholm)"')) == estate[:1]
    rows = register.page(question("kind = server"), ["field:Label"], "-field:Label", 0, 10)
    assert [r["field:Label"] for r in rows] == ["salt-tix-01, port (Saltholm)", "avrn-gate-01,  (Port Averne)"]
    asset = as_role("viewer").get(f"/api/assets/{estate[0]}").json()
    assert asset["plate"]["field:Label"] == "salt-tix-01, port (Saltholm)"
    refused = as_role("operator").post(
        "/api/decide", {"assets": estate[:1], "own": {"Label": "x"}}, content_type="application/json"
    )
    assert refused.status_code == 422
    assert "Label" in refused.json()["detail"]
    with pytest.raises(Invalid, match="“Label” is made of “Berth side”"):
        drop_field(people["manager"], own[0].pk)
    with pytest.raises(Invalid, match="made of others itself"):
        make_field(people["manager"], OwnFieldIn.model_validate({**LABEL, "name": "Twice", "template": "{Label}"}))
    change_field(people["manager"], made.pk, OwnFieldIn.model_validate({**LABEL, "template": "{serial}", "version": 1}))
    assert ids(question('field("Label") = HB-1001')) == estate[:1]


def test_a_field_of_several_values_reads_each(own, people, estate):
    make_field(people["manager"], OwnFieldIn.model_validate({"name": "Jacks", "type": "address block", "many": True}))
    said = "10.60.4.9/24, eth0, 10.60.4.1; fd00::9/64"
    decide(people["operator"], estate[:1], {"own:Jacks": said}, "decided")
    (row,) = register.page(question('field("Jacks") ~ "fd00::9"'), ["field:Jacks"], "name", 0, 10)
    assert row["field:Jacks"] == "10.60.4.9/24, gateway 10.60.4.1, name eth0; fd00::9/64"
    with pytest.raises(Invalid, match=r"outside 10\.60\.4\.0/24"):
        decide(people["operator"], estate[:1], {"own:Jacks": "10.60.4.9/24, gateway 10.9.9.9"}, "decided")


def test_a_value_that_does_not_fit_changes_nothing(own, people, estate, as_role):
    with pytest.raises(Invalid, match="one of: port, starboard"):
        decide(people["operator"], estate[:1], {"own:Berth side": "left"}, "decided")
    body = {"assets": estate[:1], "own": {"Depth": "3"}}
    answer = as_role("operator").post("/api/decide", body, content_type="application/json")
    assert answer.status_code == 422
    assert answer.json()["field"] == "own:Depth"
    with pytest.raises(Invalid, match="Did you mean laptop"):
        decide(people["operator"], estate[:1], {"kind": "labtop"}, "decided")


@pytest.mark.django_db(transaction=True)
def test_what_is_entered_by_hand_becomes_one_with_what_a_sweep_finds(own, people, tmp_path):
    with pytest.raises(Invalid, match="Pull is needed of every winch"):
        enter(people["operator"], {"kind": "winch", "name": "tansy-winch-1"})
    with pytest.raises(Invalid, match="to tell it from others"):
        enter(people["operator"], {"kind": "winch", "own:Pull": "40"})
    made = enter(
        people["operator"],
        {"kind": "winch", "name": "tansy-winch-1", "serial": "KW-77", "manufacturer": "Kittle", "own:Pull": "40 kN"},
    )
    assert ids(question('kind = winch and field("Pull") >= 40')) == [made]
    before = Asset.objects.count()
    later = sighting(
        "winch-plc",
        (time.time() + 60 - 1_790_000_000) / 86_400,
        identity={"serial": "KW-77", "manufacturer": "Kittle"},
        system={"platform": "firmware"},
    )
    assert [t.asset for t in take_in([later])] == [made]
    assert Asset.objects.count() == before
    assert ids(question('kind = winch and field("Pull") = 40 and platform = firmware')) == [made]
    db = raw_connection()
    assert differences(db, rebuild_beside(db, tmp_path)) == []


def test_a_file_fills_fields_of_ones_own_and_says_which_row_does_not_fit(own, people):
    text = b"Name,Serial number,Kind,Pull\nwinch-a,KW-1,winch,40\nwinch-b,KW-2,winch,strong\n"
    made = imports.upload(people["manager"], "winches.csv", iter([text]))
    assert made.mapping["own:Pull"]["from"] == "Pull"
    found = imports.rehearse(people["manager"], made.pk)
    assert found["counts"]["refused"] == 1
    assert "“strong” is not a number of kN" in str(found)
    imports.carry_out(people["manager"], made.pk)
    assert len(ids(question('standing = intake and kind = winch and field("Pull") = 40'))) == 1


def test_a_field_changes_with_its_values_in_view(own, people, estate):
    side, _ = own
    decide(people["operator"], estate[:2], {"own:Berth side": "port"}, "decided")
    narrower = {**SIDE, "choices": ["starboard", "aft"], "version": 1}
    with pytest.raises(Invalid, match="“port” on 2"):
        change_field(people["manager"], side.pk, OwnFieldIn.model_validate(narrower))
    change_field(people["manager"], side.pk, OwnFieldIn.model_validate({**narrower, "anyway": True}))
    with pytest.raises(Stale):
        change_field(people["manager"], side.pk, OwnFieldIn.model_validate({**SIDE, "version": 1}))
    undo(people["manager"], _last("changed a field"))
    assert len(ids(question('field("Berth side") = port'))) == 2


def test_a_dropped_field_comes_back_with_its_values(own, people, estate):
    side, _ = own
    decide(people["operator"], estate[:1], {"own:Berth side": "starboard"}, "decided")
    kept = KeptSet.objects.create(name="Aft", filter='field("Berth side") = starboard', made_at=1)
    with pytest.raises(Invalid, match="The set “Aft” asks for"):
        drop_field(people["manager"], side.pk)
    kept.delete()
    drop_field(people["manager"], side.pk)
    with pytest.raises(ValueError, match="no field of its own called"):
        question('field("Berth side") = starboard')
    undo(people["manager"], _last("dropped a field"))
    assert ids(question('field("Berth side") = starboard')) == estate[:1]


def test_kinds_stand_below_each_other_and_are_dropped_only_when_empty(own, people, estate):
    make_kind(people["manager"], OwnKindIn.model_validate({"name": "capstan", "parent": "winch"}))
    winch = next(k for k in overview()["kinds"] if k["name"] == "winch")
    with pytest.raises(Invalid, match="winch → capstan → winch"):
        change_kind(people["manager"], winch["id"], OwnKindIn.model_validate({"parent": "capstan", "version": 1}))
    decide(people["operator"], estate[:1], {"kind": "capstan"}, "decided")
    capstan = next(k for k in overview()["kinds"] if k["name"] == "capstan")
    assert (capstan["assets"], capstan["fields"]) == (1, ["Pull", "Berth side"])
    with pytest.raises(Invalid, match="1 assets are of the kind"):
        drop_kind(people["manager"], capstan["id"])
    with pytest.raises(Invalid, match="Tarn brings along"):
        make_kind(people["manager"], OwnKindIn.model_validate({"name": "Laptop"}))


def test_a_kind_is_asked_by_its_name_in_another_language_at_the_command_line_too(own, people, estate):
    make_kind(
        people["manager"], OwnKindIn.model_validate({"name": "crane", "names": {"de": "Kran", "nl": "hijskraan"}})
    )
    decide(people["operator"], estate[:1], {"kind": "crane"}, "decided")
    shown = CliRunner().invoke(app, ["ask", "kind = KRAN", "--format", "count"])
    assert (shown.exit_code, shown.stdout.strip()) == (0, "1")
    assert ids(question("kind in (hijskraan, crane)")) == estate[:1]
    assert FIELDS["kind"].choice("kran") == "crane"
    with pytest.raises(ValueError, match="Did you mean Kran"):
        question("kind = Kram")
    with pytest.raises(Invalid, match="“kran” is what the kind “crane” is called already"):
        make_kind(people["manager"], OwnKindIn.model_validate({"name": "hoist", "names": {"de": "kran"}}))


def test_reports_and_the_register_over_http_know_the_field(own, people, estate, as_role):
    decide(people["operator"], estate[:1], {"own:Berth side": "port"}, "decided")
    manager = as_role("manager")
    listed = manager.get("/api/fields").json()
    assert "field:Berth side" in [f["name"] for f in listed["fields"]]
    answer = manager.get("/api/assets", {"fields": "name,field:Berth side", "filter": 'field("Berth side") = port'})
    assert answer.json()["rows"][0]["field:Berth side"] == "port"
    report = {"row": "asset", "columns": [{"field": "name"}, {"field": "field:Berth side"}], "filter": ""}
    shown = manager.post("/api/reports/preview", {"definition": report}, content_type="application/json")
    assert shown.status_code == 200, shown.content
    assert "port" in shown.content.decode()
    assert manager.get("/api/strata", {"bands": "field:Berth side"}).status_code == 200
