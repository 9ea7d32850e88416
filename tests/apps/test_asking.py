"""Asking the estate: filters over spans, now and on past days; strata, pages, dossiers, history."""

import pytest

from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset, KeptSet, Phrase
from tarn.apps.estate.register import dossier
from tarn.apps.estate.register.history import history
from tarn.apps.estate.register.pages import FieldError, everything, page
from tarn.apps.estate.register.strata import BANDS, strata
from tarn.apps.people.scope import limited_to
from tarn.apps.software.actions.rulings import rule
from tarn.apps.software.inputs import SoftwareRulingIn
from tarn.core.filters.parse import FilterError
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db

TIX, GATE, LAPTOP, PRINTER = range(4)

CASES = [
    ("", {TIX, GATE, LAPTOP, PRINTER}),
    ("kind = server", {TIX, GATE}),
    ("kind != server", {LAPTOP, PRINTER}),
    ('place in (saltholm, "PORT AVERNE")', {TIX, GATE, LAPTOP}),
    ("place = none", {PRINTER}),
    ("name ~ TIX", {TIX}),
    ("name ~ /^(salt|avrn)-[tg]/", {TIX, GATE}),
    ("memory >= 16GB", {TIX}),
    ("memory in 4GB .. 8GB", {GATE}),
    ("not memory >= 16GB", {GATE, LAPTOP, PRINTER}),
    ("os.version > 11.10", {TIX}),
    ("address in 10.60.4.0/22", {TIX, PRINTER}),
    ("address in 10.60.4.0-10.60.8.255", {TIX, GATE, PRINTER}),
    ("software[name ~ quill and version < 16]", {GATE}),
    ("software[name ~ quill] and no software[name ~ tixline]", {GATE}),
    ("software[name = quill-office and name = tixline-server]", set()),
    ("software[name = quill-office] and software[name = tixline-server]", {TIX}),
    ("no software[name in @sharing]", {TIX, GATE, PRINTER}),
    ("no software", {PRINTER}),
    ("count software > 1", {TIX}),
    ("count software = 0", {PRINTER}),
    ("count software < 2", {GATE, LAPTOP, PRINTER}),
    ("count interfaces[speed >= 1Gb] = 1", {GATE}),
    ("count interfaces[speed >= 1Gb] != 1", {TIX, LAPTOP, PRINTER}),
    ("accounts[administrator = yes and name != root]", set()),
    ("accounts[administrator = no]", {TIX}),
    ("disks[size > 400GB]", {TIX}),
    ("software.count >= 2", {TIX}),
    ("averne", {GATE}),
    ("10.60.4", {TIX}),
    ("HB-1002", {GATE}),
    ('in set "big ones" and not name ~ avrn', {TIX}),
    ("standing = register", {TIX, GATE, LAPTOP, PRINTER}),
    ("kind = server or (place = none and not memory = 1GB)", {TIX, GATE, PRINTER}),
    ("software[since > 2026-09-25]", {TIX}),
]


@pytest.mark.parametrize(("text", "expected"), CASES)
def test_filters_answer(estate, text, expected):
    Phrase.objects.create(name="sharing", values=["driftshare", "/^share/"])
    KeptSet.objects.create(name="big ones", filter="memory > 1GB", made_at=0)
    asked = question(text)
    assert {estate.index(a) for a in ids(asked)} == expected
    assert count(asked) == len(expected)


def test_the_same_text_of_another_day_gives_that_days_answer(estate, people):
    then = START + 5 * DAY
    all_standings = "standing = intake and "
    assert ids(question(all_standings + "memory >= 32GB", then)) == []
    assert [estate.index(a) for a in ids(question(all_standings + "memory = 16GB", then))] == [TIX]
    assert [estate.index(a) for a in ids(question(all_standings + "software[name = old-tool]", then))] == [TIX]
    assert ids(question("software[name = old-tool]")) == []
    assert [
        estate.index(a) for a in ids(question(all_standings + "software[name ~ tixline and version < 3.9]", then))
    ] == [TIX]
    assert count(question("", then)) == 0, "nothing had been adopted yet"
    assert count(question(all_standings + "count software = 3", then)) == 1
    assert count(question("standing = intake", START - DAY)) == 0


def test_pages_are_ordered_whole_and_without_doubles(estate):
    asked = question("")
    rows = [r for offset in range(0, 4, 2) for r in page(asked, ["name", "memory"], "-memory", offset, 2)]
    assert [r["name"] for r in rows] == ["salt-tix-01", "avrn-gate-01", "salt-lt-01", "salt-prn-01"]
    assert [r["name"] for r in everything(asked, ["name"], "name")] == sorted(r["name"] for r in rows)
    with pytest.raises(FieldError, match="memory"):
        page(asked, ["memry"], "name", 0, 1)


def test_the_number_of_statements_does_not_grow_with_the_rows(estate):
    statements = []
    from tarn.apps.estate.store.database import raw_connection

    raw_connection().set_trace_callback(statements.append)
    try:
        page(question("kind = server"), ["name", "place", "memory", "last_seen"], "name", 0, 1)
        few = len(statements)
        statements.clear()
        page(question(""), ["name", "place", "memory", "last_seen"], "name", 0, 100)
        assert len(statements) <= few + 1
    finally:
        raw_connection().set_trace_callback(None)


def test_strata_count_the_selection_and_narrow_to_what_they_show(estate):
    bands = {b["name"]: b["parts"] for b in strata(question(""), ("kind", "place", "evidence", "memory"))}
    assert [(p["label"], p["count"]) for p in bands["kind"]] == [("server", 2), ("laptop", 1), ("printer", 1)]
    for parts in bands.values():
        assert sum(p["count"] for p in parts) == 4
        for part in parts:
            assert count(question(part["filter"])) == part["count"], part
    narrowed = strata(question("kind = server"), ("place",))[0]["parts"]
    assert {(p["label"], p["count"]) for p in narrowed} == {("Saltholm", 1), ("Port Averne", 1)}
    past = strata(question("standing = intake", START + DAY), ("place",))[0]["parts"]
    assert sum(p["count"] for p in past) == 4


def test_a_band_of_more_names_than_a_filter_may_hold_is_shown_all_the_same(estate, monkeypatch):
    monkeypatch.setattr("tarn.core.filters.parse.MOST_TEXT", 20)
    monkeypatch.setattr("tarn.apps.estate.register.strata.MOST_PARTS", 1)
    (band,) = strata(question("kind != printer"), ("place",))
    assert sum(part["count"] for part in band["parts"]) == 3
    assert any(len(part["filter"]) > 20 for part in band["parts"])


def test_history_pairs_updates_and_leaves_first_readings_out(estate):
    lines = history(estate[TIX], START - DAY, START + 20 * DAY)
    told = {(c["section"], c["thing"], c["verb"], c["before"], c["after"]) for c in lines}
    assert ("software", "tixline-server", "updated", "3.8.0", "3.9.0") in told
    assert ("software", "old-tool", "removed", "1", None) in told
    assert ("facts", "Memory", "changed", "16 GB", "32 GB") in told
    assert not any(c["thing"] == "quill-office" for c in lines)


def test_a_dossier_says_who_says_so_and_as_of_then(estate):
    claims = dossier.claims(estate[TIX], None)
    assert claims["memory"]["why"] == "Only one source speaks of it."
    assert [c["source_kind"] for c in claims["kind"]["said"]] == ["hand", "guess"]
    then = dossier.plate(estate[TIX], START + DAY)
    assert then["memory"] == 16 << 30
    assert then["software.count"] == 3
    assert {s["name"] for s in dossier.software(estate[TIX], START + DAY)} == {
        "tixline-server",
        "quill-office",
        "old-tool",
    }
    assert dossier.plate(estate[TIX], START - DAY) is None
    document = dossier.document(dossier.sightings(estate[TIX], None)[0]["document"])
    assert document["schema"] == "tarn.sighting/1"


def test_a_set_in_a_circle_is_refused(estate):
    KeptSet.objects.create(name="a", filter='in set "b"', made_at=0)
    KeptSet.objects.create(name="b", filter='in set "a"', made_at=0)
    with pytest.raises(FilterError, match="circle"):
        question("in set a")


def test_absurd_words_are_only_words(estate):
    for text in ('name = "\'; DROP TABLE estate_asset; --"', 'name ~ "%"', 'name ~ "_"', '"%"'):
        assert count(question(text)) == 0
    assert Asset.objects.count() == 4


def test_a_field_named_like_a_word_of_sql_can_be_asked(estate):
    assert ids(question("protections[on = yes] or no protections[on = no]"))


def test_every_part_of_every_band_can_be_narrowed_to(estate):
    for band in strata(question(""), BANDS):
        for part in band["parts"]:
            assert len(ids(question(part["filter"]))) == part["count"], part["filter"]


def test_addresses_hosts_roots_and_rulings_can_be_asked(estate, people):
    """Worked by hand: one host with two connections and a guest, on whose root there is room."""
    guest = {"uuid": "AA-1", "name": "lt", "cores": 1, "memory": 1}
    host = sighting(
        "hv-7",
        identity={"serial": "H-7"},
        placement={"place": "Vault"},
        guests=[guest],
        filesystems=[{"mount": "/", "type": "ext4"}, {"mount": "/srv", "type": "xfs"}],
        connections=[
            {"process": "x", "peer": "10.60.4.9", "port": 443},
            {"process": "x", "peer": "fe80::1", "port": 1},
        ],
        routes=[{"destination": "10.60.4.0/24", "next_hop": "10.60.0.1"}],
        signins=[{"account": "una", "at": START, "origin": "10.60.4.77"}],
        interfaces=[{"name": "eth0", "mac": "3c:52:82:00:01:ab"}],
    )
    one = sighting("lt", identity={"serial": "G-1", "uuid": "aa-1"}, placement={"place": "Vault"})
    list(take_in([host, one]))
    hv, lt = (Asset.objects.order_by("-pk")[n].pk for n in (1, 0))
    for text, expected in [
        ("connections[peer in 10.60.4.0/24]", {hv}),
        ("connections[peer in 10.60.5.0/24]", set()),
        ("connections[peer = fe80::1]", {hv}),
        ("routes[destination in 10.60.0.0/16]", {hv}),
        ("routes[destination in 10.60.4.0/25]", set()),
        ("routes[next_hop = 10.60.0.1]", {hv}),
        ("signins[origin in 10.60.4.0 .. 10.60.4.80]", {hv}),
        ("interfaces[mac = 3C52.8200.01AB]", {hv}),
        ("filesystems[mount = / and type = ext4]", {hv}),
        ("filesystems[mount = / and type = xfs]", set()),
        ("guest of [place = Vault]", {lt}),
        ("no guest of [name = hv-7] and name = lt", set()),
        ("guest of [filesystems[mount = /]]", {lt}),
        (" or ".join(f"name = hv-{n}" for n in range(400)), {hv}),
    ]:
        assert set(ids(question(text, standing=None))) == expected, text
    assert set(ids(question("guest of [name = hv-7]", START - DAY, standing=None))) == set()
    with limited_to(frozenset({"Elsewhere"})):
        assert set(ids(question("guest of [name = hv-7]", standing=None))) == set()
    rule(people["manager"], SoftwareRulingIn(names=["Quill Office"], verdict="barred", why="x"))
    said = set(ids(question("software[ruling != none]")))
    assert said == set(ids(question("software[ruling = barred]"))) != set()
    assert set(ids(question("software[ruling = none]"))) == set(ids(question('software[ruling = "none yet"]')))


def test_a_release_is_compared_by_its_own_systems_rule(estate):
    """`1.0rc1` is before `1.0` by the plain rule, after it by Debian's; `1.0.0` is `1.0` by the plain rule alone."""
    told = [
        ("avrn-gate-01", {"serial": "HB-1002"}, [{"name": "quill", "version": "1.0rc1", "system": "deb"}]),
        ("salt-lt-01", {"serial": "HB-2001"}, [{"name": "quill", "version": "1.0.0"}]),
        ("salt-tix-01", {"serial": "HB-1001"}, [{"name": "heron", "version": "1.0rc1"}]),
    ]
    for again in told, told[::-1]:
        list(take_in(sighting(n, 20, identity=i, packages=p) for n, i, p in again))
    late = sighting("salt-tix-01", 21, identity={"serial": "HB-1001"}, packages=[
        {"name": "quill", "version": "1.0rc1", "system": "rpm"}, {"name": "heron", "version": "1.0.0", "system": "deb"}])  # fmt: skip
    list(take_in([late]))
    assert count(question("software[name = quill and version > 1.0]")) == 2
    assert count(question("software[name = quill and version = 1.0]")) == 1
    assert count(question("software[name = heron and version = 1.0]")) == 0, "a system learnt later tells its rule"
    assert count(question("software[name = quill and version = 0.9..1.0]")) == 1


def test_words_said_of_a_field_are_offered_those_that_begin_so_first(estate, as_role):
    client = as_role("viewer")

    def offered(begun):
        text = f'supplier = "{begun}'
        return [o["text"] for o in client.get("/api/filter/complete", {"text": text}).json() if o["kind"] == "value"]

    assert offered("") == []
    list(
        take_in(
            sighting(
                f"salt-{n}",
                30,
                source="list",
                kind="file",
                identity={"serial": f"HB-{n}"},
                acquisition={"supplier": said},
            )
            for n, said in (
                (1001, "Quayside Supplies"),
                (1002, "Old Quay"),
                (2001, "Élan Trade"),
                (3001, "Quayside Supplies"),
            )
        )
    )
    assert offered("quay") == ['"Quayside Supplies"', '"Old Quay"']
    assert offered("Quayside S") == ['"Quayside Supplies"']
    assert offered("elan") == ['"Élan Trade"']
