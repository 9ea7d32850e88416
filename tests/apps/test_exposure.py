"""What documents say about what is here: kept, weighed, told of any day; held against a plain reckoning."""

import io
import json
from datetime import date, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in as take_sightings
from tarn.apps.estate.models import Asset, AssetSpan, InstallSpan
from tarn.apps.exposure import overview, page
from tarn.apps.exposure.actions import own_words
from tarn.apps.exposure.doing import first
from tarn.apps.exposure.feeds import take
from tarn.apps.exposure.finding import deriving
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.grading import acceptances, accepted
from tarn.apps.exposure.inputs import AcceptanceIn, OwnWordIn
from tarn.apps.exposure.models import (
    Acceptance,
    Alias,
    Content,
    Document,
    Feed,
    OwnRule,
    StatementRow,
    Status,
    Thing,
    Vulnerability,
)
from tarn.apps.exposure.shown import listed
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.people.roles import NotAllowed
from tarn.core.versions import version_key
from tests import advisories as made
from tests.advisories import CVE, NOTICE
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
SSH = "secure-shell-server"


def feed(*documents, day=0.0, into=None, share=100):
    """Read documents in, so many days after START."""
    target = into or take.feed_by_hand()
    body = "\n".join(json.dumps(d) for d in documents).encode()
    parts = take.read_file("feed.json", io.BytesIO(body))
    target.loss_share = share
    return take.take_in(target, parts, START + int(day * DAY))


def device(name, day, packages, system="Tallow Linux", version="8.10", order="deb", **sections):
    listed_packages = [
        {"name": n, "version": v, "system": order, "publisher": "Tallow Systems"} for n, v in packages.items()
    ]
    if system:
        sections["system"] = {"platform": "Linux", "os_name": system, "os_version": version}
    return sighting(name, day, identity={"serial": f"S-{name}"}, packages=listed_packages, **sections)


def adopt(*sightings):
    list(take_sightings(sightings))
    names = {s.readings[0].facts.name for s in sightings}
    hands = []
    for name in sorted(names):
        asset = AssetSpan.objects.filter(name=name).first().asset
        decision = {"standing": "register", "kind": "server"}
        hands.append(
            sighting(
                name,
                0,
                source="ines",
                kind="hand",
                id=f"adopt-{name}",
                identity={"tarn": asset.number},
                decision=decision,
            )
        )
    list(take_sightings(hands))
    deriving.refresh_things()


def told(at_day=None, known="then", filter=""):
    at = None if at_day is None else START + int(at_day * DAY)
    return [(r["device"], r["advisory"], r["release"], r["status"]) for r in listed(question(filter, at), known)]


def test_a_document_is_kept_as_it_came_and_a_version_has_its_time():
    first, second = made.osv(), made.osv(modified="2026-11-09T08:00:00Z", summary="worse than it seemed")
    assert feed(first, day=1)[0].counts["new"] == 1
    assert feed(first, day=2)[0].counts["same"] == 1
    assert feed(second, day=3)[0].counts["changed"] == 1
    assert feed(first, day=4)[0].counts["older"] == 1
    spans = [(d.begins, d.ends) for d in Document.objects.order_by("id")]
    assert spans == [(START + DAY, START + 3 * DAY), (START + 3 * DAY, None)]
    assert Content.objects.count() == 2
    assert Status.objects.count() == 0, "nobody has it"


def test_names_are_joined_by_whichever_document_joins_them_and_what_was_told_stays():
    adopt(device("salt-mon-01", 0, {SSH: "9.2p1-3"}))
    feed(made.osv("NQ-7", aliases=[]), day=1)
    feed(made.cve(CVE), day=2)
    assert Vulnerability.objects.count() == 2
    feed(
        made.openvex("under_investigation", "pkg:deb/tallow/other", vulnerability={"name": CVE, "aliases": ["NQ-7"]}),
        day=3,
    )
    [one] = Vulnerability.objects.all()
    assert one.name == CVE
    assert set(Alias.objects.values_list("name", flat=True)) == {CVE, "NQ-7"}
    assert told() == [("salt-mon-01", CVE, "9.2p1-3", "affected")]
    feed(
        made.osv("RING-1", aliases=["NQ-7"]),
        made.osv("NQ-7", aliases=["RING-1"], modified="2026-11-20T08:00:00Z"),
        day=4,
    )
    assert Vulnerability.objects.count() == 1, "a ring of aliases is only a group"


def test_a_finding_ends_by_evidence_alone_and_opens_again():
    adopt(
        *(
            device("salt-tix-01", day, {SSH: version})
            for day, version in ((0, "9.2p1-2"), (5, "9.2p1-3"), (10, "9.2p1-5"), (20, "9.2p1-3"))
        )
    )
    feed(made.osv(), day=2)
    rows = [
        (r["release"], r["since"][:10], r["until"] and r["until"][:10]) for r in listed(question("", START + 7 * DAY))
    ]
    begins, ends = (date.fromtimestamp(START + n * DAY).isoformat() for n in (2, 10))
    assert rows == [("9.2p1-3", begins, ends)], "one finding, however many releases were open to it"
    assert told(1) == [], "nobody knew it then"
    assert told(1, "now") == [("salt-tix-01", CVE, "9.2p1-2", "affected")], "it was so all the same"
    assert told(15) == []
    assert told(25) == [("salt-tix-01", CVE, "9.2p1-3", "affected")]
    assert told(25, filter="name = nobody") == []


def test_a_second_thing_that_must_be_there_is_looked_for_on_the_device():
    both = {
        "operator": "AND",
        "nodes": [
            {"cpeMatch": [made.match("a:tallow_systems:tern_notes", versionEndExcluding="4.2")]},
            {"cpeMatch": [made.match("o:debian:debian_linux:12", vulnerable=False)]},
        ],
    }
    software = {"tern-notes": "4.1"}
    adopt(
        device("on-debian", 0, software, "Debian GNU/Linux", "12"),
        device("on-tallow", 0, software),
        device("unread", 0, software, system=""),
    )
    feed(made.page(made.nvd(CVE, both)), day=1)
    assert told() == [("on-debian", CVE, "4.1", "affected"), ("unread", CVE, "4.1", "under investigation")]
    list(take_sightings([device("on-debian", 6, software, "Debian GNU/Linux", "13")]))
    assert [t[0] for t in told()] == ["unread"], "the system was exchanged"
    assert [t[0] for t in told(5)] == ["on-debian", "unread"]


def test_firmware_systems_and_models_are_things_too():
    switch = {"platform": "firmware", "os_name": "Selkie Networks firmware", "os_version": "3.2.1"}
    maker = {"manufacturer": "Selkie Networks", "model": "SX48"}
    adopt(sighting("salt-sw-01", 0, identity={"serial": "SW-1", **maker}, system=switch))
    firmware = {"nodes": [{"cpeMatch": [made.match("o:selkie_networks:sx48_firmware", versionEndExcluding="3.3")]}]}
    model = {"nodes": [{"cpeMatch": [made.match("h:selkie_networks:sx48")]}]}
    feed(made.page(made.nvd("CVE-2026-99000001", firmware), made.nvd("CVE-2026-99000002", model)), day=1)
    assert [(r["product"], r["release"]) for r in listed(question("", None))] == [
        ("SX48 firmware", "3.2.1"),
        ("SX48", ""),
    ]


def test_a_rejected_record_ends_what_it_opened_and_much_at_once_waits_for_a_person():
    adopt(device("salt-mon-01", 0, {SSH: "9.2p1-3"}))
    mirror = Feed.objects.create(name="mirror", kind="folder")
    notices = [made.osv(f"SKA-{n}", aliases=[]) for n in range(30)]
    feed(*notices, day=1, into=mirror)
    assert len(told()) == 30
    gone = [
        made.osv(f"SKA-{n}", aliases=[], modified="2026-11-20T08:00:00Z", withdrawn="2026-11-20T08:00:00Z")
        for n in range(30)
    ]
    _, loss = feed(gone[0], day=2, into=mirror, share=20)
    assert (loss, len(told())) == (None, 29)
    _, loss = feed(*gone, day=3, into=mirror, share=20)
    assert loss == {"withdrawn": 29, "of": 30}
    assert len(told()) == 29, "nothing is taken back without a yes"
    _, loss = feed(*gone, day=4, into=mirror, share=100)
    assert (loss, told()) == (None, [])
    assert len(told(3)) == 29, "and what was known stays told"


def test_chances_and_lists_of_use_have_their_days():
    adopt(device("salt-mon-01", 0, {SSH: "9.2p1-3"}))
    feed(made.osv(), day=1)
    for day, chance in ((2, 0.1), (5, 0.64)):
        text = f"#model_version:v1,score_date:2026-11-0{day}T00:00:00+0000\ncve,epss,percentile\n{CVE},{chance},0.9\n"
        take.take_in(take.feed_by_hand(), take.read_file("epss.csv", io.BytesIO(text.encode())), START + day * DAY)
    used = {"title": "In use", "catalogVersion": "1", "vulnerabilities": [{"cveID": CVE, "dateAdded": "2026-11-09"}]}
    feed(used, day=6)
    feed(used | {"catalogVersion": "2", "vulnerabilities": []}, day=8)
    grades = {day: next(listed(question("", START + day * DAY)))["grade"] for day in (1, 3, 7, 9)}
    assert grades == {1: "this month", 3: "this week", 7: "act now", 9: "this week"}


def test_what_is_known_of_a_status_names_its_witness():
    adopt(device("salt-mon-01", 0, {SSH: "9.2p1-3"}))
    feed(made.osv(), day=1)
    [row] = listed(question("", None))
    assert row["because"] == f"below 9.2p1-5 in the distribution's own order (dpkg) (its publisher: OSV {NOTICE})"
    assert row["aliases"] == [NOTICE]


def test_a_false_match_is_said_once_with_its_reach_and_undone(people):
    adopt(
        device("dev-a", 0, {SSH: "9.2p1-2"}), device("dev-b", 0, {SSH: "9.2p1-3"}), device("dev-c", 0, {"other": "1"})
    )
    feed(made.osv(), made.osv("SKA-2", aliases=[]), day=1)
    assert len(told()) == 4
    thing = Thing.objects.get(package=SSH, version="9.2p1-2").pk
    with pytest.raises(Invalid):
        own_words.say_not_affected(people["operator"], OwnWordIn(advisory=CVE, thing=thing, reason=" "))
    with pytest.raises(NotAllowed):
        own_words.say_not_affected(people["viewer"], OwnWordIn(advisory=CVE, thing=thing, reason="not built in"))
    for reach, left in (("release", ["dev-b"]), ("product", []), ("advisory", [])):
        said = OwnWordIn(advisory=NOTICE, thing=thing, reach=reach, reason="The feature is not built in.")
        number = own_words.say_not_affected(people["operator"], said)
        assert [d for d, advisory, *_ in told() if advisory == CVE] == left, reach
        assert [d for d, advisory, *_ in told() if advisory == "SKA-2"] == ["dev-a", "dev-b"], (
            "nothing is said of the other"
        )
        own_words.take_back(people["operator"], number)
        assert len(told()) == 4
    own_words.say_not_affected(people["operator"], OwnWordIn(advisory=CVE, thing=thing, reason="Looked into it."))
    again = undo(people["operator"], AuditEntry.objects.filter(verb="said not affected").latest("pk").pk)
    assert len(told()) == 4
    undo(people["operator"], again.pk)
    assert len(told()) == 3, "undone and done again"
    standings = page.advisory(number_of(CVE), question("", None))["standings"]
    assert standings[1]["because"].startswith("Looked into it.")


def test_what_is_accepted_is_not_open_until_its_day_and_the_gravest_needs_two(people):
    adopt(device("dev-a", 0, {SSH: "9.2p1-2"}), device("dev-b", 0, {SSH: "9.2p1-3"}))
    feed(made.osv(), day=1)
    manager, administrator = people["manager"], people["administrator"]
    day = (date.today() + timedelta(days=30)).isoformat()
    said = AcceptanceIn(advisory=CVE, filter="name = dev-a", until=day, reason="It is in the workshop, unplugged.")
    for changed in (
        {"reason": ""},
        {"until": "soon"},
        {"until": "2020-01-01"},
        {"filter": "name = nobody"},
        {"filter": "nmae = 1"},
    ):
        with pytest.raises(Invalid) as refused:
            acceptances.accept(manager, said.model_copy(update=changed))
        assert refused.value.field == next(iter(changed))
    with pytest.raises(NotAllowed):
        acceptances.accept(people["operator"], said)
    held = acceptances.accept(manager, said)
    assert overview.overview(question("", None))["on"]["devices"] == 1
    assert [t[0] for t in told(filter="vulnerability[accepted = yes]")] == ["dev-a"]
    assert [t[0] for t in told(filter="vulnerability[accepted = no]")] == ["dev-b"]
    assert first.first(question("", None))["open"] == 1
    Acceptance.objects.update(until=START)
    assert overview.overview(question("", None))["on"]["devices"] == 2, "its day has passed: it is open by itself"
    Acceptance.objects.update(until=held.until)
    acceptances.take_back(manager, held.pk)
    assert overview.overview(question("", None))["on"]["devices"] == 2
    feed({"title": "In use", "catalogVersion": "1", "vulnerabilities": [{"cveID": CVE, "dateAdded": "2026-11-09"}]})
    grave = acceptances.accept(manager, said)
    assert overview.overview(question("", None))["on"]["devices"] == 2, "it waits for a second person"
    with pytest.raises(NotAllowed, match="second person"):
        acceptances.approve(manager, grave.pk)
    acceptances.approve(administrator, grave.pk)
    assert overview.overview(question("", None))["on"]["devices"] == 1
    assert [a["state"] for a in accepted.listed()] == ["accepted", "taken back"]


_VERSIONS = ("9.2p1-2", "9.2p1-3", "9.2p1-5", "9.8p1-1")


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(st.sampled_from(("dev-a", "dev-b", "dev-c")), st.integers(0, 20), st.sampled_from((*_VERSIONS, ""))),
        min_size=1,
        max_size=9,
    ),
    st.lists(
        st.tuples(st.sampled_from(("SKA-1", "SKA-2")), st.integers(0, 20), st.sampled_from(_VERSIONS)), max_size=6
    ),
    st.integers(0, 22),
)
def test_any_day_is_what_a_plain_reckoning_of_that_day_says(db, readings, notices, day):
    """Devices read and notices read in whatever order: who is open is who has a version below what the notice of that
    day calls cured."""
    from django.db import transaction

    with transaction.atomic():
        readings = sorted({(name, at): v for name, at, v in readings}.items(), key=lambda r: r[0][1])
        adopt(*(device(n, at, {SSH: v} if v else {"other": "1"}) for (n, at), v in readings))
        for number, (name, at, cured) in enumerate(sorted(notices, key=lambda n: n[1])):
            changed = f"2026-11-{number + 1:02d}T08:00:00Z"
            events = [{"introduced": "0"}, {"fixed": cured}]
            feed(made.osv(name, aliases=[], events=events, modified=changed), day=at)
        moment = START + day * DAY
        standing: dict[str, str] = {}
        for name, at, cured in sorted(notices, key=lambda n: n[1]):
            if at <= day:
                standing[name] = cured
        on: dict[str, str] = {}
        for (name, at), version in readings:
            if at <= day:
                on[name] = version
        expected = {
            (asset, notice)
            for asset, version in on.items()
            for notice, cured in standing.items()
            if version and version_key(version, "deb") < version_key(cured, "deb")
        }
        names = dict(Vulnerability.objects.values_list("id", "name"))
        devices = dict(AssetSpan.objects.values_list("asset_id", "name"))
        rows = findings("then").at(moment)
        assert {
            (devices[a], names[v]) for v, a in zip(rows["vulnerability"].tolist(), rows["asset"].tolist(), strict=True)
        } == expected
        held = sorted(Status.objects.values_list("thing_id", "vulnerability_id", "status", "begins", "ends"), key=str)
        Status.objects.all().delete()
        deriving.derive_all()
        assert (
            sorted(Status.objects.values_list("thing_id", "vulnerability_id", "status", "begins", "ends"), key=str)
            == held
        )
        transaction.set_rollback(True)
    from tarn.apps.estate.door.entrance import forget

    forget()


def test_reading_a_device_again_costs_its_own_things_alone(django_assert_max_num_queries):
    OwnRule.objects.all().delete()  # each is asked anew of the days since, whatever was read
    adopt(*(device(f"n-{i}", 0, {SSH: "9.2p1-3"}) for i in range(30)))
    feed(made.osv(), day=1)
    assert len(told()) == 30
    list(take_sightings([device("n-7", 2, {SSH: "9.2p1-5"})]))
    with django_assert_max_num_queries(25):
        assert len(findings("then").at(None)) == 29
    assert InstallSpan.objects.filter(valid_to=None).count() == 30
    assert Asset.objects.count() == 30
    assert StatementRow.objects.count() == 1
