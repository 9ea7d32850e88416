"""Fill rules from rehearsal to force to withdrawal, over real evidence; and what is around a device."""

import time

import pytest

from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.custom.change import make_field
from tarn.apps.estate.custom.inputs import OwnFieldIn
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.dossier import claims
from tarn.apps.estate.register.relations import hosts, switches, usual_accounts
from tarn.apps.filling.actions.carry_out import carry_out, when_changed
from tarn.apps.filling.actions.rules import change_rule, drop_rule, make_rule, order, rehearse, set_in_force
from tarn.apps.filling.inputs import FillRuleIn, RehearseIn
from tarn.apps.filling.models import Fill
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry, Person
from tests.documents import DAY, START, sighting

BY_NAME = {
    "name": "Department by name",
    "filter": "kind in (server, laptop)",
    "fills": "department",
    "reads": "name",
    "pattern": "^([a-z]+)-",
    "table": {"salt": "Fleet", "avrn": "Harbour Desk"},
}


def held(asset, field="department"):
    told = claims(asset, None).get(field)
    first = told and told["said"][0]
    return first and (first["value"], first["source_kind"], first["source"])


def test_from_rehearsal_to_force_to_withdrawal(people, estate):
    manager = people["manager"]
    decide(people["operator"], [estate[1]], {"department": "Accounts"}, "decided")
    found = rehearse(manager, RehearseIn.model_validate(BY_NAME))
    assert {k: n for k, n in found["counts"].items() if n} == {"fills": 2, "pinned": 1}
    pinned = next(v for v in found["rows"] if v.outcome == "pinned")
    assert (pinned.asset, pinned.before, pinned.value) == (estate[1], "Accounts", "Harbour Desk")
    assert "operator says “Accounts”, which stands" in pinned.words
    assert held(estate[0]) is None, "a rehearsal changes nothing"
    made = make_rule(manager, FillRuleIn.model_validate(BY_NAME))
    _, assets = set_in_force(manager, made.pk, True)
    assert assets == 2
    assert held(estate[0]) == ("Fleet", "rule", "Department by name")
    assert sorted(ids(question("department = Fleet"))) == sorted([estate[0], estate[2]])
    assert held(estate[1])[0] == "Accounts"
    seen = Asset.objects.get(pk=estate[0]).last_seen
    assert seen < time.time() - DAY, "being filled is not being seen"
    set_in_force(manager, made.pk, False)
    assert held(estate[0]) is None
    undo(manager, AuditEntry.objects.filter(verb="took a fill rule out of force").latest("pk").pk)
    assert held(estate[0])[0] == "Fleet"


def test_always_keeps_in_step_and_change_does_not_withdraw(people, estate):
    manager = people["manager"]
    always = make_rule(manager, FillRuleIn.model_validate({**BY_NAME, "filter": "memory >= 16GB"}))
    note = {**BY_NAME, "name": "Note by name", "fills": "note", "filter": "memory >= 16GB", "when": "change"}
    change = make_rule(manager, FillRuleIn.model_validate(note))
    for rule in (always, change):
        set_in_force(manager, rule.pk, True)
    assert held(estate[0])[0] == held(estate[0], "note")[0] == "Fleet"
    before = Fill.objects.count()
    assert carry_out() == 0, "nothing has changed, so nothing is said again"
    assert Fill.objects.count() == before
    take_in_one = sighting("salt-tix-01", 20, identity={"serial": "HB-1001"}, hardware={"memory": 8 << 30})
    assert list(take_in([take_in_one]))
    assert when_changed() == 1
    assert held(estate[0]) is None
    assert held(estate[0], "note")[0] == "Fleet"
    assert when_changed() == 0


def test_a_rule_does_not_see_what_it_filled_and_a_rehearsal_says_what_rules_do_to_each_other(people, estate):
    manager = people["manager"]
    own = {**BY_NAME, "filter": "department = none"}
    found = rehearse(manager, RehearseIn.model_validate(own))
    assert found["counts"]["fills"] == 4
    assert found["notes"][0].startswith("On 4 devices what the rule fills ends its own condition")
    assert rehearse(manager, RehearseIn.model_validate(BY_NAME))["notes"] == []
    made = make_rule(manager, FillRuleIn.model_validate(own))
    assert set_in_force(manager, made.pk, True)[1] == 4
    for n in range(3):  # evidence comes again and again
        list(take_in([sighting("salt-tix-01", 20 + n, identity={"serial": "HB-1001"}, hardware={"memory": 8 << 30})]))
        assert when_changed() == 0
        assert held(estate[0])[0] == "Fleet"
    assert rehearse(manager, RehearseIn.model_validate(own), made.pk)["counts"]["same"] == 4
    decide(people["operator"], [estate[0]], {"department": "Accounts"}, "decided")
    when_changed()
    assert held(estate[0])[0] == "Accounts"
    assert not Fill.objects.filter(asset_id=estate[0]).exists(), "somebody else says it now"
    back = {**BY_NAME, "name": "Place by department", "filter": "department != none", "fills": "place"}
    assert "asks for department, which" in rehearse(manager, RehearseIn.model_validate(back))["notes"][0]
    change_rule(
        manager, made.pk, FillRuleIn.model_validate({**own, "filter": "place != none", "version": made.version + 1})
    )
    assert "rest on each other" in rehearse(manager, RehearseIn.model_validate(back))["notes"][0]
    with pytest.raises(Invalid, match="the very field it fills"):
        rehearse(manager, RehearseIn.model_validate({**BY_NAME, "fills": "note", "reads": "", "formula": "note + 1"}))


def test_of_new_devices_only_once(people, estate):
    manager = people["manager"]
    made = make_rule(manager, FillRuleIn.model_validate({**BY_NAME, "filter": "", "when": "new"}))
    _, assets = set_in_force(manager, made.pk, True)
    assert assets == 0, "these were there before"
    late = sighting("salt-ws-77", (time.time() + 5 - START) / DAY, identity={"serial": "HB-77"})
    (taken,) = take_in([late])
    decide(people["operator"], [taken.asset], {"standing": "register"}, "adopted")
    carry_out()
    assert held(taken.asset)[0] == "Fleet"


def test_the_first_in_order_fills_and_when_it_goes_the_next_does(people, estate):
    manager = people["manager"]
    first = make_rule(manager, FillRuleIn.model_validate(BY_NAME))
    second = make_rule(
        manager, FillRuleIn.model_validate({**BY_NAME, "name": "All to IT", "pattern": "", "table": {"*": "IT"}})
    )
    for rule in (first, second):
        set_in_force(manager, rule.pk, True)
    assert held(estate[0])[0] == "Fleet"
    found = rehearse(
        manager,
        RehearseIn.model_validate({**BY_NAME, "name": "All to IT", "pattern": "", "table": {"*": "IT"}}),
        second.pk,
    )
    assert found["counts"]["yields"] == 3
    order(manager, [second.pk, first.pk])
    assert held(estate[0])[::2] == ("IT", "All to IT")
    drop_rule(manager, second.pk)
    assert held(estate[0])[::2] == ("Fleet", "Department by name")


def test_the_order_is_changed_over_the_api(people, estate, as_role):
    rules = [{"name": n, "fills": "place", "reads": "name", "formula": "", "pattern": "(.*)"} for n in ("one", "two")]
    manager = as_role("manager")
    made = [manager.post("/api/fill-rules", r, content_type="application/json").json()["id"] for r in rules]
    answer = manager.put("/api/fill-rules", {"order": made[::-1]}, content_type="application/json")
    assert [r["name"] for r in answer.json()] == ["two", "one"]


def test_it_fills_a_field_of_ones_own_and_says_what_does_not_fit(people, estate):
    manager = people["manager"]
    make_field(manager, OwnFieldIn.model_validate({"name": "Rank", "type": "number"}))
    data = {"name": "rank", "filter": "", "fills": "field:Rank", "reads": "name", "pattern": "-([a-z]+-[0-9]+)$"}
    assert rehearse(manager, RehearseIn.model_validate(data))["counts"]["wrong"] == 4
    data["pattern"] = "-([0-9]+)$"
    set_in_force(manager, make_rule(manager, FillRuleIn.model_validate(data)).pk, True)
    assert len(ids(question('field("Rank") = 1'))) == 4
    make_field(manager, OwnFieldIn.model_validate({"name": "Share", "type": "number"}))
    share = {"name": "share", "filter": "", "fills": "field:Share", "formula": "memory / 1024 / 1024 / 1024 / cores"}
    set_in_force(manager, make_rule(manager, FillRuleIn.model_validate(share)).pk, True)
    assert ids(question('field("Share") = 4')) == [estate[0]]


def test_what_is_around_a_device(people, estate):
    manager, mac = people["manager"], "7c:1e:b0:00:00:01"
    now = (time.time() - START) / DAY
    make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room", "place": "Saltholm"}))
    Person.objects.create(
        source="Keel", key="1", name="Una Skerry", account="uskerry", department="Crewing",
        joined_at=1, last_sync=1,
    )  # fmt: skip
    behind = [{"mac": mac, "vlan": 1, "port": "7"}]
    uplink = [{"mac": f"7c:1e:b0:00:01:{n:02x}", "vlan": 1, "port": "24"} for n in range(9)]
    near = sighting("sw-near", now, identity={"serial": "S1"}, forwarding=behind, placement={"place": "Attic"})
    far_rows = [*uplink, {"mac": mac, "vlan": 1, "port": "24"}]
    far = sighting("sw-far", now, identity={"serial": "S2"}, forwarding=far_rows, placement={"place": "Cellar"})
    person = [
        sighting("salt-lt-01", day, identity={"serial": "HB-2001", "uuid": "aa-1"}, system={"last_user": f"SK\\{who}"},
                 interfaces=[{"name": "eth0", "mac": mac}])
        for day, who in ((now - 40, "uskerry"), (now - 5, "ines"), (now - 1, "ines"))
    ]  # fmt: skip
    guest = {"uuid": "AA-1", "name": "lt", "cores": 1, "memory": 1}
    host = sighting("hv", now, identity={"serial": "S3"}, guests=[guest], placement={"place": "Vault"})
    list(take_in([near, far, *person, host]))
    laptop = estate[2]
    assert switches([laptop])[laptop] == {"switch.name": "sw-near", "switch.place": "Attic", "switch.port": "7"}
    assert hosts([laptop])[laptop]["host.place"] == "Vault"
    assert usual_accounts([laptop], int(time.time()))[laptop] == "uskerry", "on most days, not the last"
    for reads, field, value in (
        ("switch.place", "place", "Attic"),
        ("usual.person", "person", "Una Skerry"),
        ("person.department", "department", "Crewing"),
    ):
        rule = {"name": reads, "filter": "kind = laptop", "fills": field, "reads": reads}
        set_in_force(manager, make_rule(manager, FillRuleIn.model_validate(rule)).pk, True)
        assert held(laptop, field)[0] == value, reads


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"name": " "}, "name", "needs a name"),
        ({"fills": "serial"}, "fills", "cannot be filled"),
        ({"reads": "nmae"}, "reads", "Did you mean name"),
        ({"reads": "department"}, "reads", "very field it fills"),
        ({"pattern": "(((("}, "pattern", "cannot be read"),
        ({"filter": "memroy > 3"}, "filter", "memory"),
        ({"reads": "", "formula": "nothing * 2"}, "formula", "which is no field"),
        ({"when": "sometimes"}, "when", "is no time to fill"),
    ],
)
def test_a_rule_that_cannot_be_is_refused_at_its_part(people, estate, as_role, change, field, says):
    with pytest.raises(Invalid, match=says) as caught:
        rehearse(people["manager"], RehearseIn.model_validate({**BY_NAME, **change}))
    assert caught.value.field == field
    answer = as_role("manager").post("/api/fill-rules", {**BY_NAME, **change}, content_type="application/json")
    assert (answer.status_code, answer.json()["field"]) == (422, field)
    assert as_role("operator").post("/api/fill-rules", BY_NAME, content_type="application/json").status_code == 403


def test_a_rule_in_force_keeps_what_it_fills(people, estate):
    manager = people["manager"]
    made = make_rule(manager, FillRuleIn.model_validate(BY_NAME))
    set_in_force(manager, made.pk, True)
    made.refresh_from_db()
    with pytest.raises(Invalid, match="take it out of force first"):
        change_rule(manager, made.pk, FillRuleIn.model_validate({**BY_NAME, "fills": "note", "version": made.version}))
    change_rule(
        manager, made.pk, FillRuleIn.model_validate({**BY_NAME, "table": {"salt": "Workshop"}, "version": made.version})
    )
    assert held(estate[0])[0] == "Workshop"
    assert held(estate[1]) is None
