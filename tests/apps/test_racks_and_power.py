"""What power comes from, racks, virtual hosts and VLANs: by evidence and by hand, as of any day, and asked by filters."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.edges import graph
from tarn.core.standing.falling import stops
from tarn.core.standing.power import fed, feeds
from tarn.core.standing.racks import Slot, clashing, taken
from tests.apps.standing import HOST, MATE, SWITCH, device

pytestmark = pytest.mark.django_db
DAY_30 = "2026-10-25"


@pytest.fixture
def room(people, standing):
    """Two distributors that feed the estate from the 20th day on: the host by both, data twice by the first."""
    written = (("host", "data plug 1", "Data: plug 2", "nobody we know"), ("host",))
    gear = [
        device(f"pdu-{n}", 10 + n, f"18:f9:5e:00:00:1{n}", 20,
               outlets=[{"name": f"outlet {k}", "feeds": w, "load": 90} for k, w in enumerate(outlets, start=1)])
        for n, outlets in enumerate(written, start=1)
    ]  # fmt: skip
    numbers = [t.asset for t in take_in(gear)]
    decide(people["operator"], numbers, {"standing": "register"}, "adopted")
    return standing | dict(zip(("pdu-1", "pdu-2"), numbers, strict=True))


def powered():
    return {(e.stands, e.on, e.over): e for e in graph(None).edges if e.kind == "powered by"}


def test_power_follows_from_what_is_written_on_outlets_and_from_what_people_say(room, people):
    host, data, web = room["host"], room["data"], room["web"]
    one, two = room["pdu-1"], room["pdu-2"]
    told = {(host, one, "outlet 1"), (data, one, "outlet 2"), (data, one, "outlet 3"), (host, two, "outlet 1")}
    assert powered().keys() == told
    decide(people["operator"], [web], {"fed_by": "PDU-2 outlet 9, pdu-1; elsewhere 4"}, "said")
    decide(people["operator"], [host], {"fed_by": "pdu-1"}, "said")
    edges = powered()
    assert edges.keys() == told | {(web, two, "outlet 9"), (web, one, "")}, "a name nobody has is left out"
    assert edges[host, one, "outlet 1"].sure == 100, "the outlet and the person say the same"
    assert (edges[host, two, "outlet 1"].sure, edges[web, two, "outlet 9"].witnesses) == (90, (web,))


def test_both_plugs_in_one_are_no_two_means(room):
    fates = {f.asset: (f.fate, f.left) for f in stops(graph(None), [room["pdu-1"]])}
    assert fates[room["data"]][0] == "stops"
    assert fates[room["host"]] == ("weakened", (room["pdu-2"],))


def test_supplies_said_to_feed_each_other_are_a_circle_that_ends(room, people, ask):
    one, two = room["pdu-1"], room["pdu-2"]
    decide(people["operator"], [one], {"fed_by": "pdu-2"}, "said")
    decide(people["operator"], [two], {"fed_by": "pdu-1, pdu-2"}, "said")
    assert {(one, two, ""), (two, one, "")} <= powered().keys(), "nothing feeds itself"
    told = ask("/services/stops", filter="name = pdu-1")
    assert {r["name"]: r["fate"] for r in told["rows"]}["pdu-2"] == "stops"
    assert sorted(told["back"][0]) == ["pdu-1", "pdu-2"], "they come up together"


@pytest.mark.parametrize("picture", ["racks", "hosts", "vlans", "certificates", "ports"])
def test_pictures_refuse_what_cannot_be_asked_and_are_empty_where_nothing_is(db, as_role, picture):
    client = as_role("viewer")
    for wrong in ({"filter": "nam = x"}, {"as_of": "soon"}, {"filter": "talks to [name = x] heard within 0d"}):
        answer = client.get(f"/api/services/{picture}", wrong)
        assert answer.status_code == 422, (picture, wrong)
        assert answer.json()["detail"], "in words"
    assert client.get(f"/api/services/{picture}").json() in (
        [],
        {"switches": [], "unplaced": {"devices": 0, "filter": None}, "one_ended": 0},
    )


def test_filters_and_the_past_ask_for_power(room):
    asked = 'powered by [name = "pdu-1"]'
    assert set(ids(question(asked))) == {room["host"], room["data"]}
    assert set(ids(question(f"not {asked} and depends on [name = pdu-2]"))) == {room["web"], room["user"]}
    day_30 = 1_790_000_000 + 40 * 86_400
    assert set(ids(question(f"{asked} heard within 4w", day_30))) == {room["host"], room["data"]}
    assert ids(question(f"{asked} heard within 1h", day_30)) == [], "as it was heard, not as it stands"
    assert ids(question(asked, 1_790_000_000)) == []
    assert ids(question("outlets[feeds ~ nobody]")) == [room["pdu-1"]]


def test_racks_hold_their_devices_and_say_what_cannot_be(room, people, ask):
    for name, unit, height in (("host", 3, 2), ("data", 4, 1), ("web", None, 1)):
        said = {"rack": "Row A 1", "rack_unit": unit, "rack_height": height}
        decide(people["operator"], [room[name]], {k: v for k, v in said.items() if v is not None}, "said")
    (rack,) = ask("/services/racks", filter="name = data")
    assert (rack["rack"], rack["place"], rack["units"], rack["taken"]) == ("Row A 1", "Saltholm", 6, 3)
    slots = {s["name"]: s for s in rack["slots"]}
    assert [s["name"] for s in rack["slots"]] == ["data", "host", "web"], "from the top; who has no place last"
    assert {n: (s["clash"], s["one_feed"], s["mine"]) for n, s in slots.items()} == {
        "host": (True, False, False), "data": (True, True, True), "web": (False, False, False),
    }  # fmt: skip
    assert [(f["name"], f["outlet"]) for f in slots["host"]["feeds"]] == [("pdu-1", "outlet 1"), ("pdu-2", "outlet 1")]
    assert len(ids(question(rack["devices"]["filter"]))) == rack["devices"]["devices"] == 3
    assert ask("/services/racks", as_of="2026-09-25") == []
    assert set(ids(question('rack = "Row A 1" and rack.unit > 2'))) == {room["host"], room["data"]}


def test_hand_written_places_in_racks_are_checked(room, as_role):
    client = as_role("operator")
    answer = client.post("/api/decide", {"assets": [room["host"]], "rack_unit": 0}, content_type="application/json")
    assert (answer.status_code, "rack_unit" in answer.content.decode()) == (422, True)


def test_virtual_hosts_tell_what_they_gave_and_keep(standing, people, ask):
    uuid = "00000000-0000-4000-8000-0000000000{:02}"
    guests = [{"uuid": uuid.format(4), "name": "web", "state": "running", "cores": 2, "memory": 4 << 30},
              {"uuid": uuid.format(9), "name": "old", "state": "off", "cores": 8, "memory": 8 << 30}]  # fmt: skip
    document = device(
        "host", 3, HOST, 12, guests=guests, hardware={"cores": 16, "memory": 64 << 30},
        data_stores=[{"name": "images", "size": 10 << 30, "full": 85}],
        snapshots=[{"guest": "old", "name": "b", "taken": 1_780_000_000}, {"guest": "old", "name": "a"}],
        virtual_networks=[{"guest": "web", "mac": "52:54:00:00:00:01", "network": "br0"}],
        cluster_parts=[{"cluster": "hosts", "sort": "node", "name": n, "state": "online"} for n in ("host", "mate")]
        + [{"cluster": "hosts", "sort": "guest", "name": "web"}],
    )  # fmt: skip
    list(take_in([document]))
    (host,) = ask("/services/hosts", filter="name = web")
    assert (host["name"], host["cores"], host["given_cores"], host["given_memory"]) == ("host", 16, 2, 4 << 30)
    web, old = host["guests"]
    assert (web["asset"], web["networks"], web["snapshots"]) == (standing["web"], ["br0"], 0)
    assert (old["asset"], old["state"], old["snapshots"], old["oldest_at"][:10]) == (None, "off", 2, "2026-05-28")
    assert (host["cluster"], host["beside"], web["kept"], old["kept"]) == ("hosts", ["mate"], True, False)
    fallen = ask("/services/stops", filter="name = host")["rows"]
    assert {r["name"]: (r["fate"], r["left"]) for r in fallen}["web"] == ("weakened", ["mate"])
    both = ask("/services/stops", filter="name in (host, mate)")["rows"]
    assert {r["name"]: r["fate"] for r in both}["web"] == "stops"
    assert host["stores"] == [{"name": "images", "size": 10 << 30, "full": 85}]
    assert ask("/services/hosts", filter="name = mate") == []
    assert [g["name"] for g in ask("/services/hosts", as_of="2026-09-26")[0]["guests"]] == ["data", "web"]


def test_vlans_tell_their_ports_devices_and_where_they_go_by_another_name(standing, ask):
    learnt = [{"mac": MATE, "vlan": 4, "port": "port4"}]
    ports = [
        {"name": "port4", "untagged": "4"},
        {"name": "up", "untagged": "1", "tagged": "4 7", "spanning": "blocking"},
    ]
    named = [{"vlan": 4, "name": "staff"}, {"vlan": 7, "name": "guests"}]
    list(take_in([device("switch", 2, SWITCH, 40, forwarding=learnt, switch_ports=ports, vlans=named)]))
    told = {v["vlan"]: v for v in ask("/services/vlans", as_of="2026-11-04")}
    assert (told[4]["names"], told[4]["untagged"], told[4]["tagged"]) == (["staff"], 1, 1)
    assert ids(question(told[4]["devices"]["filter"])) == [standing["mate"]]
    assert (told[7]["names"], told[7]["devices"]["devices"]) == (["guests"], 0)
    (strip,) = [s for s in ask("/services/ports", as_of="2026-11-04")["switches"] if s["name"] == "switch"]
    assert {p["name"]: p["spanning"] for p in strip["ports"] if p["spanning"]} == {"up": "blocking"}
    assert ids(question("switch_ports[spanning = blocking]")) == [standing["switch"]]


def test_ports_tell_what_they_lost_since_the_reading_before_whenever_it_comes(standing):
    def reading(day, counted):
        return device("switch", 2, SWITCH, day, switch_ports=[{"name": "port4", "counted": counted}])

    def lost(day):
        rows = raw_connection().execute(
            "SELECT errors, discards, counted FROM estate_switch_portsspan WHERE valid_from <= ?1 "
            "AND (valid_to IS NULL OR valid_to > ?1)", [1_790_000_000 + day * 86_400 + 1],
        )  # fmt: skip
        return rows.fetchall()

    list(take_in([reading(12, "1000000 100 0"), reading(14, "3000000 100 4000")]))
    assert (lost(12), lost(14)) == ([(100, 0, "")], [(0, 2_000, "")])
    list(take_in([reading(13, "2000000 100 4000")]))
    assert (lost(12), lost(13), lost(14)) == ([(100, 0, "")], [(0, 4_000, "")], [(0, 0, "")]), "late evidence too"
    list(take_in([reading(15, "500 0 5")]))
    assert lost(15) == [(0, 10_000, "")], "its counters began anew"


NAMES = st.text("abcxyz-1", min_size=1, max_size=6).filter(lambda n: n.strip())


@given(NAMES, st.sets(NAMES, max_size=4), st.sampled_from(["", " plug 1", ": second", ", A"]))
def test_an_outlet_feeds_whom_it_is_marked_with_whatever_stands_after(name, others, rest):
    assert fed(f"{name.upper()}{rest}", others | {name}) == name
    assert fed(f"0{name}", others) is None


@given(st.lists(st.tuples(NAMES, st.sampled_from(["", "outlet 3", "A 1"])), max_size=5))
def test_feeds_are_read_as_they_are_written(told):
    written = "; ".join(f"{name} {outlet}".strip() for name, outlet in told)
    assert feeds(written) == told


@given(st.lists(st.tuples(st.one_of(st.none(), st.integers(1, 40)), st.integers(1, 4)), max_size=8))
def test_no_height_unit_is_counted_twice_and_who_clashes_shares_one(places):
    slots = [Slot(n, unit, height) for n, (unit, height) in enumerate(places)]
    units = [set(s.units) for s in slots]
    assert taken(slots) == len(set().union(*units)) + sum(s.height for s in slots if s.unit is None)
    assert clashing(slots) == {
        s.asset for s in slots if any(units[s.asset] & units[o.asset] for o in slots if o is not s)
    }
