"""Rules of our own, ends of support, changes of every kind, promises, grades: through the actions people take."""

import time
from datetime import date, timedelta

import pytest

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.door.entrance import take_in as take_sightings
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure import heat, overview
from tarn.apps.exposure.doing import change as changes
from tarn.apps.exposure.doing import change_page, first, given
from tarn.apps.exposure.finding import checking, support
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.grading import acceptances, kept, policies
from tarn.apps.exposure.grading.grades import devices
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import AcceptanceIn, ChangeWordIn, PolicyIn, WorkIn
from tarn.apps.exposure.models import GivenWork, OwnRule, OwnSpan, Status
from tarn.apps.exposure.own import change as own
from tarn.apps.exposure.own import deriving, shown
from tarn.apps.exposure.own.inputs import OwnRuleIn
from tarn.apps.exposure.page import advisory
from tarn.apps.lifecycle.reads.support import support_ends
from tarn.apps.people.actions.refusals import Invalid, Stale
from tarn.apps.software.actions.rulings import rule
from tarn.apps.software.inputs import SoftwareRulingIn
from tarn.core.exposure.grade import SHIPPED
from tests import advisories as made
from tests.apps.test_exposure import SSH, adopt, device, feed
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
EVERYTHING = ""
TELNET = [{"protocol": "tcp", "port": 23}]
HTTP = [{"protocol": "tcp", "port": 80}]


@pytest.fixture(autouse=True)
def only_ours(db):
    OwnRule.objects.all().delete()


def cam(name, day, ports):
    return sighting(name, day, identity={"serial": f"S-{name}"}, ports=ports)


def a_rule(people, **said):
    told = {"name": "Telnet", "filter": "ports[port = 23]", "grade": "this week", "verb": "close", "what": "port 23"}
    return own.make_rule(people["manager"], OwnRuleIn.model_validate(told | said))


def found(at_day=None):
    at = None if at_day is None else START + int(at_day * DAY)
    return sorted(r["asset"] for r in rows(at))


def rows(at=None):
    from tarn.apps.exposure.shown import listed

    return [r for r in listed(question(EVERYTHING, at)) if r["advisory"] == "Telnet"]


def test_a_rule_finds_from_when_to_when_of_any_day_and_late_evidence_is_told(people):
    adopt(cam("c-1", 0, TELNET), cam("c-2", 0, HTTP))
    list(take_sightings([cam("c-2", 3.5, TELNET), cam("c-1", 6.25, HTTP)]))
    a_rule(people)
    one, two = ids(question("name = c-1"))[0], ids(question("name = c-2"))[0]
    assert found() == [two]
    assert found(1) == [one]
    assert found(4) == [one, two]
    spans = {(s.asset, s.begins, s.ends) for s in OwnSpan.objects.all()}
    assert (two, START + int(3.5 * DAY), None) in spans
    assert {e for a, _, e in spans if a == one} == {START + int(6.25 * DAY)}
    # Evidence of the past comes in late, and the past is told anew.
    list(take_sightings([cam("c-2", 2.5, TELNET)]))
    assert found(3) == [one, two]
    before = {(s.asset, s.begins, s.ends) for s in OwnSpan.objects.all()}
    OwnRule.objects.update(settled_at=None, stamp="")
    deriving.catch_up()
    assert {(s.asset, s.begins, s.ends) for s in OwnSpan.objects.all()} == before


def test_a_rule_is_refused_by_name_of_the_part_and_one_that_cannot_be_asked_stops_no_other(people):
    adopt(cam("c-1", 0, TELNET))
    held = a_rule(people)
    for part, told in (
        ("filter", {"filter": "portz[port = 23]"}),
        ("filter", {"filter": "  "}),
        ("filter", {"filter": "vulnerability[late = yes]"}),
        ("filter", {"filter": "kind = server and not exposure = none"}),
        ("days", {"days": -1}),
        ("name", {"name": "telnet "} | {"name": "Telnet"}),
    ):
        with pytest.raises(Invalid) as refused:
            a_rule(people, **({"name": "Another"} | told))
        assert refused.value.field == part
    OwnRule.objects.create(name="gone", filter='field("gone") = x', grade="watch", verb="close", what="x", made_at=1)
    told = {r["name"]: r for r in shown.listed(question(EVERYTHING))["rules"]}
    assert told["gone"]["wrong"]
    assert told["Telnet"]["devices"] == 1
    assert count(question(told["Telnet"]["opens"])) == 1
    body = {"name": "Telnet", "filter": "ports[port = 80]", "grade": "watch", "version": held.version}
    own.change_rule(people["manager"], held.pk, OwnRuleIn.model_validate(body))
    assert found() == []
    with pytest.raises(Stale):
        own.change_rule(people["manager"], held.pk, OwnRuleIn.model_validate(body))
    assert shown.tried("ports[port = 23]")["names"] == ["c-1"]
    own.drop_rule(people["manager"], held.pk)
    assert not OwnSpan.objects.exists()


def test_a_promise_of_our_own_counts_from_when_the_rule_was_made_and_stops_while_accepted(people):
    adopt(cam("c-1", 0, TELNET))
    a_rule(people, days=2)
    there = overview.open_on(question(EVERYTHING))
    assert not there.late().any(), "it was open for weeks, and promised only now"
    OwnRule.objects.update(made_at=START)
    changed(raw_connection())
    assert overview.open_on(question(EVERYTHING)).late().all()
    until = (date.today() + timedelta(days=9)).isoformat()
    data = {"advisory": "Telnet", "own": True, "until": until, "reason": "exchanged in spring"}
    wrong = AcceptanceIn.model_validate(data | {"filter": "vulnerability[accepted = no]"})
    with pytest.raises(Invalid, match="leave vulnerability"):
        acceptances.accept(people["manager"], wrong)
    held = acceptances.accept(people["manager"], AcceptanceIn.model_validate(data))
    assert overview.overview(question(EVERYTHING))["open"] == 0
    held.begins = START
    held.save()
    acceptances.take_back(people["manager"], held.pk)
    assert not overview.open_on(question(EVERYTHING)).late().any(), "the clock stood still while it was accepted"


def test_each_sort_of_finding_is_given_the_change_that_ends_it_and_each_opens_its_devices(people):
    adopt(
        device("n-1", 0, {SSH: "9.2p1-2", "driftshare": "2.9", "oldtool": "1.0"}),
        device("n-2", 0, {SSH: "9.2p1-2"}),
        cam("c-1", 0, TELNET),
    )
    feed(
        made.osv(),
        made.osv("SKA-2", package={"ecosystem": "Tallow Linux:8", "name": "driftshare"}, events=[{"introduced": "0"}],
                 aliases=["CVE-2026-99000002"]),
        made.osv("SKA-3", package={"ecosystem": "Tallow Linux:8", "name": "oldtool"}, events=[{"introduced": "0"}],
                 aliases=["CVE-2026-99000003"]),
        {"support_ends": [{"product": "oldtool", "maker": "Tallow Systems", "versions": "1", "ends": "2020-01-31"}]},
        day=1,
    )  # fmt: skip
    rule(people["manager"], SoftwareRulingIn(names=["driftshare"], verdict="barred", why="leaks"))
    a_rule(people)
    told = first.first(question(EVERYTHING))
    sorts = {(c["verb"], c["product"]): c for c in told["changes"]}
    assert set(sorts) == {("update", SSH), ("remove", "driftshare"), ("replace", "oldtool"), ("close", "port 23")}
    assert told["stays"] == 0
    for change in told["changes"]:
        assert count(question(change["filter"])) == change["devices"], change["filter"]
    assert sorts["replace", "oldtool"]["devices"] == 1
    page = change_page.change_page(question(EVERYTHING), f"update:{SSH}")
    assert page is not None
    assert page["doable"]["of"] == 2
    # A word on a change holds for everybody, and a refused one ends nothing.
    with pytest.raises(Invalid, match="Say why"):
        changes.say_of_change(people["manager"], ChangeWordIn(key=f"update:{SSH}", word="refuse"))
    changes.say_of_change(people["manager"], ChangeWordIn(key=f"update:{SSH}", word="refuse", reason="not in season"))
    changes.say_of_change(people["manager"], ChangeWordIn(key="replace:oldtool", word="pin"))
    again = first.first(question(EVERYTHING))["changes"]
    assert (again[0]["key"], again[0]["word"]) == ("replace:oldtool", "pin")
    assert (again[-1]["key"], again[-1]["word"]) == (f"update:{SSH}", "refuse")
    assert again[-1]["left"] == 2
    assert f"update:{SSH}" not in first.budgeted(question(EVERYTHING), 4)["keys"]


def test_work_is_given_and_only_evidence_ends_it(people):
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}), device("n-2", 0, {SSH: "9.2p1-2"}))
    feed(made.osv(), day=1)
    day = (date.today() + timedelta(days=3)).isoformat()
    told = {"key": f"update:{SSH}", "how": "person", "person": "Una Skerry", "day": day, "expected": 2}
    for part, wrong in (("person", {"person": " "}), ("day", {"day": "2020-01-01"}), ("day", {"day": "soon"}),
                        ("filter", {"expected": 5}), ("key", {"key": "update:nothing"}),
                        ("filter", {"filter": "nme = x"}), ("source", {"how": "ticket"})):  # fmt: skip
        with pytest.raises(Invalid) as refused:
            changes.give(people["operator"], WorkIn.model_validate(told | wrong))
        assert refused.value.field == part
    changes.give(people["operator"], WorkIn.model_validate(told))
    [row] = given.listed()
    assert (row["what"], row["open"], row["devices"]) == (f"Update {SSH} to 9.2p1-5 or later on 2 devices", 2, 2)
    assert count(question(row["filter"])) == 2
    list(take_sightings([device("n-1", 20, {SSH: "9.2p1-5"})]))
    assert given.listed()[0]["open"] == 1
    changes.take_work_back(people["operator"], GivenWork.objects.get().pk)
    assert given.listed() == []


def test_grades_and_promises_change_from_a_day_on_and_are_rehearsed(people):
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}))
    feed(made.osv(), day=1)
    before = overview.overview(question(EVERYTHING))["grades"]
    days = {"act now": 1, "this week": 5, "this month": None, "watch": None}
    data = {"tree": "watch", "days": days, "working": True, "holidays": ["2026-12-25"]}
    told = policies.rehearse(question(EVERYTHING), PolicyIn.model_validate(data))
    assert told["after"]["watch"] == 1
    assert sum(m["findings"] for m in told["moved"]) == 1
    assert overview.overview(question(EVERYTHING))["grades"] == before, "a rehearsal changes nothing"
    for part, wrong in (("tree", {"tree": {"use": {"in use": "act now"}}}), ("tree", {"tree": "soon"}),
                        ("days", {"days": {"soon": 3}}), ("days", {"days": {"watch": 99999}}),
                        ("holidays", {"holidays": ["christmas"]})):  # fmt: skip
        with pytest.raises(Invalid) as refused:
            policies.change_policy(people["manager"], PolicyIn.model_validate(data | wrong))
        assert refused.value.field == part
    policies.change_policy(people["manager"], PolicyIn.model_validate(data))
    assert overview.overview(question(EVERYTHING))["grades"]["watch"] == 1
    assert overview.overview(question(EVERYTHING, START + 2 * DAY))["grades"] == before, "the past keeps its grades"
    with pytest.raises(Stale):
        policies.change_policy(people["manager"], PolicyIn.model_validate(data | {"tree": SHIPPED}))


def test_what_hangs_on_a_device_and_whence_it_is_reached_make_its_grade(people):
    from tarn.apps.discovery.models import Network

    adopt(device("n-1", 0, {SSH: "9.2p1-2"}, placement={"address": "10.60.4.21"}), device("n-2", 0, {SSH: "9.2p1-2"}))
    feed(made.osv(), day=1)
    asset = ids(question("name = n-1"))[0]
    decide(people["operator"], [asset], {"importance": "high"}, "said")
    with pytest.raises(Invalid):
        decide(people["operator"], [asset], {"importance": "very"}, "said")
    Network.objects.create(range="10.60.4.0/25", name="quay", outside=True)
    told = devices(None)
    assert bool(told.important[asset])
    assert bool(told.outside[asset])
    assert asset in told.marked
    number = number_of(made.CVE)
    groups = advisory(number, question(EVERYTHING))["graded"]
    assert any("marked as reached from outside" in s["because"] for g in groups for s in g["steps"])


def test_promises_kept_and_broken_and_how_each_ended(people):
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}), device("n-2", 0, {SSH: "9.2p1-2"}), device("n-3", 0, {SSH: "9.2p1-2"}))
    feed(made.osv(), day=1)
    # Right after, months later, gone, and still open.
    list(take_sightings([device("n-1", 2, {SSH: "9.2p1-5"}), device("n-2", 50, {"other": "1"})]))
    at = START + 60 * DAY
    told = {r["grade"]: r for r in kept.kept(question(EVERYTHING, at), 90)["rows"]}
    grade = overview.open_on(question(EVERYTHING, at)).grade.tolist()
    assert len(grade) == 1
    row = next(r for r in told.values() if r["kept"] + r["broken"])
    assert (row["kept"], row["broken"]) == (1, 1)
    assert row["open_late"]["devices"] == 1
    assert count(question(row["open_late"]["filter"], at)) == 1
    assert [e["how"] for e in kept.ended(question(EVERYTHING, at), 90, row["grade"], "kept")] == ["updated"]
    assert [e["how"] for e in kept.ended(question(EVERYTHING, at), 90, row["grade"], "late")] == ["removed"]


def test_ends_of_support_of_documents_and_of_our_own_list_are_one(people):
    from tarn.apps.lifecycle.actions.support import take_in_support_ends

    adopt(device("n-1", 0, {"oldtool": "1.4"}), device("n-2", 0, {"oldtool": "2.0"}))
    ends = [{"product": "oldtool", "maker": "Tallow Systems", "versions": "1", "ends": "2026-01-31"}]
    feed({"support_ends": ends, "title": "Makers' days"}, day=1)
    assert support_ends().day("oldtool", "1.4") == date(2026, 1, 31)
    assert support_ends().day("oldtool", "2.0") is None
    assert count(question("support[ends < today]")) == 1
    assert count(question("support[product = oldtool and release < 1.5 and sort = software]")) == 1
    [row] = [r for r in support.listed(question(EVERYTHING)) if r["product"] == "oldtool"]
    assert (row["by"], row["devices"]) == ("Makers' days", 1)
    assert row["days"] < 0
    assert count(question(row["filter"])) == 1
    take_in_support_ends(people["manager"], "name,release,day\noldtool,1,2031-05-01")
    [row] = [r for r in support.listed(question(EVERYTHING)) if r["product"] == "oldtool"]
    assert (row["by"], row["day"]) == ("our own list", "2031-05-01")
    assert count(question("support[ends < today]")) == 0


@pytest.mark.parametrize(("by", "across"), [("place", "grade"), ("kind", "age"), ("grade", "kind"), ("age", "grade")])
def test_any_two_things_lay_findings_out_and_every_cell_opens_its_devices(people, by, across):
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}), device("n-2", 0, {SSH: "9.2p1-3"}), cam("c-1", 0, TELNET))
    feed(made.osv(), day=1)
    a_rule(people)
    told = heat.heat(question(EVERYTHING), by, across)
    cells = [c for r in told["rows"] for c in [*r["cells"], {"filter": r["filter"], "devices": r["devices"]}]]
    assert sum(c["devices"] for c in cells) >= 4
    for cell in cells:
        assert count(question(cell["filter"])) == cell["devices"], cell["filter"]


def test_what_was_known_then_and_what_is_now_known_are_asked_apart():
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}))
    feed(made.osv(), day=10)
    before = START + 5 * DAY
    assert overview.overview(question(EVERYTHING, before))["advisories"] == 0
    now = overview.overview(question(EVERYTHING, before), "now")
    assert now["advisories"] == 1
    assert count(question(now["on"]["filter"], before)) == 1
    assert count(question("vulnerability[grade != none]", before)) == 0
    change = first.first(question(EVERYTHING, before), "now")["changes"][0]
    assert count(question(change["filter"], before)) == 1
    assert len(findings("now").at(before)) == 1
    assert time.time() > before


def test_a_check_finds_what_does_not_follow_from_documents_and_evidence(people):
    adopt(device("n-1", 0, {SSH: "9.2p1-2"}), cam("c-1", 0, TELNET))
    feed(made.osv(), day=1)
    a_rule(people)
    assert checking.differences() == []
    Status.objects.update(sure=1)
    OwnSpan.objects.update(begins=START + DAY)
    assert [(d.table, d.only_held, d.only_rebuilt) for d in checking.differences()] == [
        ("exposure_status", 1, 1),
        ("exposure_ownspan", 1, 1),
    ]


def test_what_stands_in_a_bill_of_materials_is_open_wherever_its_product_is(people):
    adopt(device("n-1", 0, {"oldtool": "1.4"}), device("n-2", 0, {"oldtool": "2.0"}))
    feed(made.osv("GHX-1", package={"ecosystem": "npm", "name": "left-cut"}, aliases=["CVE-2026-99000009"],
                  events=[{"introduced": "0"}, {"fixed": "2.0.0"}], type="SEMVER"), day=1)  # fmt: skip
    assert overview.overview(question(EVERYTHING))["advisories"] == 0
    parts = [{"type": "library", "name": "left-cut", "version": "1.3.0", "purl": "pkg:npm/left-cut@1.3.0"}]
    about = {"type": "application", "name": "oldtool", "version": "1.4", "publisher": "Tallow Systems"}
    document = made.bom(parts) | {"serialNumber": "urn:uuid:0e1a2f6e-53a1-4a51-9c0e-7f2c3f4b5a6d"}
    document["metadata"] = {"component": about}
    feed(document, day=2)
    [row] = [r for r in rows_of_all() if r["advisory"] == "CVE-2026-99000009"]
    assert (row["device"], row["product"], row["release"]) == ("n-1", "left-cut", "1.3.0")
    change = first.first(question(EVERYTHING))["changes"][0]
    assert (change["verb"], change["product"]) == ("replace", "oldtool 1.4")
    assert count(question(change["filter"])) == 1
    list(take_sightings([device("n-1", 20, {"oldtool": "2.0"})]))
    assert overview.overview(question(EVERYTHING))["advisories"] == 0
    assert checking.differences() == []


def rows_of_all():
    from tarn.apps.exposure.shown import listed

    return list(listed(question(EVERYTHING)))


def test_an_installed_hotfix_carries_the_cure_and_so_does_one_that_supersedes_it():
    def office(name, day, *updates):
        listed = [{"name": "Quill Office", "version": "16.1.0", "publisher": "Northquill"}]
        told = [{"name": u} for u in updates]
        return sighting(name, day, identity={"serial": f"S-{name}"}, packages=listed, updates=told)

    adopt(office("n-1", 0), office("n-2", 0), office("n-3", 0))
    fix = {"category": "vendor_fix", "details": "QN990100, or release 16.2, carries it.", "product_ids": ["P1"]}
    later = {"category": "vendor_fix", "details": "QN990300 supersedes QN990100 and QN990200.", "product_ids": ["P1"]}
    affected = {"product_status": {"known_affected": ["P1"]}, "remediations": [fix]}
    other = {"cve": "CVE-2026-99000011", "product_status": {"known_affected": ["P1"]}, "remediations": [later]}
    document = made.csaf(affected)
    document["vulnerabilities"].append(other)
    feed(document, day=1)
    assert overview.overview(question(EVERYTHING))["open"] == 6
    list(take_sightings([office("n-1", 20, "QN990100"), office("n-2", 20, "qn990300"), office("n-3", 20, "QN990400")]))
    left = sorted((r["device"], r["advisory"]) for r in rows_of_all())
    assert left == [("n-1", "CVE-2026-99000011"), ("n-3", "CVE-2026-99000011"), ("n-3", made.CVE)]
    assert overview.overview(question(EVERYTHING, START + 10 * DAY))["open"] == 6
