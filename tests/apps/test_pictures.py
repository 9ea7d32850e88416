"""Pictures over HTTP: ports, talk, networks, two days, files; every figure opens its rows, as of any day."""

import csv
import io
from xml.etree import ElementTree

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.door.entrance import take_in
from tests.apps.standing import DATA, HOST, MATE, SWITCH, WEB, device, talk

pytestmark = pytest.mark.django_db


def strip(ask, name, **asked):
    (found,) = [s for s in ask("/services/ports", **asked)["switches"] if s["name"] == name]
    return {p["name"]: p for p in found["ports"]}


def test_every_switch_has_its_ports_with_who_is_behind(ask):
    ports = strip(ask, "switch")
    assert [ports[p]["state"] for p in ("port3", "port4", "up")] == ["several", "one", "switch"]
    assert {b["name"] for b in ports["port3"]["behind"]} == {"host", "web"}
    assert (ports["port4"]["behind"][0]["name"], ports["port4"]["vlans"]) == ("mate", ["4"])
    assert (ports["up"]["to_port"], ports["up"]["seen_by"]) == ("port2", "neighbours tell (LLDP)")
    steps = [s["steps"] for s in ask("/services/ports")["switches"]]
    assert steps == sorted(steps), "the nearest to the way out come first"


def test_a_mac_address_leads_to_its_port_and_who_was_there_before_is_told(ask):
    learnt = [{"mac": HOST, "vlan": 4, "port": "port3"}, {"mac": MATE, "vlan": 4, "port": "port7"}]
    up = [{"port": "up", "chassis": "18:f9:5e:00:00:02", "name": "gate", "remote_port": "port2"}]
    assert list(take_in([device("switch", 2, SWITCH, 40, forwarding=learnt, neighbours=up)]))
    ports = strip(ask, "switch", filter=f'interfaces[mac = "{MATE}"]', as_of="2026-11-03")
    assert ports["port7"]["behind"][0]["name"] == "mate"
    assert (ports["port7"]["new"], ports["port4"]["state"], ports["port4"]["before"]) == (True, "nothing", ["mate"])
    was = strip(ask, "switch", filter=f'interfaces[mac = "{MATE}"]', as_of="2026-10-20")
    assert was["port4"]["behind"][0]["name"] == "mate"


def test_a_table_full_of_one_port_is_told_in_words_and_nothing_is_lost(ask):
    many = [{"mac": f"02:00:00:00:{n // 256:02x}:{n % 256:02x}", "vlan": 1, "port": "port9"} for n in range(5_000)]
    assert list(take_in([device("switch", 2, SWITCH, 41, forwarding=many)]))
    port = strip(ask, "switch", as_of="2026-11-05")["port9"]
    assert (port["state"], port["addresses"]) == ("several", 5_000)
    assert port["guess"] == "an unmanaged switch, guessed: 5000 addresses at one port"


def test_talk_is_told_by_group_and_opens_its_callers(ask):
    told = ask("/services/talk", by="name")
    assert {(c["caller"], c["called"], tuple(c["ports"])) for c in told["cells"]} == {
        ("web", "data", ("5432",)),
        ("user", "web", ("443",)),
    }
    by_place = ask("/services/talk", by="place", as_of="2026-09-25")
    for cell in by_place["cells"]:
        found = ids(question(cell["filter"], read_dial("2026-09-25")))
        assert len(found) == cell["devices"]
    assert {c["caller"] for c in ask("/services/talk", by="name", filter="name = user")["cells"]} == {"user"}


def test_networks_follow_from_addresses_and_routes(ask, as_role):
    addresses = [{"address": "10.60.4.4", "prefix": 24, "interface": "eth0"}]
    routes = [
        {"destination": "10.60.4.0/24", "next_hop": "", "interface": "eth0"},
        {"destination": "0.0.0.0/0", "next_hop": "10.60.4.254"},
        {"destination": "10.60.8.0/24", "next_hop": "10.60.4.1"},
        {"destination": "somewhere", "next_hop": ""},
    ]
    assert list(take_in([device("web", 4, WEB, 42, addresses=addresses, routes=routes)]))
    (network,) = ask("/services/subnets")
    assert (network["network"], network["used"], network["size"]) == ("10.60.4.0/24", 7, 254)
    assert [g["name"] for g in network["gear"]] == ["web"]
    assert len(ids(question(network["devices"]["filter"]))) == network["devices"]["devices"] == 7


def test_two_days_are_held_against_each_other(ask):
    assert list(take_in([device("host2", 9, "18:f9:5e:00:00:09", 30, guests=[
        {"uuid": "00000000-0000-4000-8000-000000000005", "name": "data"}]), device("host", 3, HOST, 30, guests=[])]))  # fmt: skip
    told = ask("/services/between", since="2026-09-23", as_of="2026-10-25")
    rows = {(r["what"], r["stands"]["name"], r["kind"], r["on"]["name"]) for r in told["rows"]}
    assert ("moved", "data", "guest of", "host2") in rows or ("went", "data", "guest of", "host") in rows
    assert ("went", "web", "guest of", "host") in rows
    assert told["came"] + told["went"] + told["moved"] == len(told["rows"])
    assert ask("/services/between", since="2026-10-25", as_of="2026-10-25")["rows"] == []


@pytest.mark.parametrize(
    ("path", "params", "said"),
    [
        ("talk", {"by": "weather"}, "not by “weather”"),
        ("between", {"since": ""}, "since which day"),
        ("between", {"since": "soon"}, "soon"),
        ("edges/doc", {}, "no format here"),
        ("ports", {"filter": "nam = x"}, "no field “nam”"),
        ("subnets", {"as_of": "never"}, "never"),
    ],
)
def test_what_cannot_be_asked_is_refused_and_says_why(as_role, standing, path, params, said):
    answer = as_role("viewer").get(f"/api/services/{path}", params)
    assert answer.status_code in (400, 422), answer.content
    assert said in answer.json()["detail"]


def test_edges_are_written_as_csv_and_graphml(as_role, standing, ask):
    assert list(take_in([device("=evil()", 66, "18:f9:5e:00:00:66", 3, connections=[talk("out", "x & <y>", 5, 99)]),
                         device("data", 5, DATA, 3)]))  # fmt: skip
    client = as_role("viewer")
    asked = {"filter": "standing != none", "as_of": "2026-09-28"}
    rows = list(csv.DictReader(io.StringIO(client.get("/api/services/edges/csv", asked).content.decode())))
    assert {(r["from"], r["to"], r["kind"], r["port"]) for r in rows} >= {("web", "data", "talks to", "5432")}
    assert all(not r["from"].startswith("=") for r in rows), "no cell is a formula"
    text = client.get("/api/services/edges/graphml", asked).content.decode()
    space = "{http://graphml.graphdrawing.org/xmlns}"
    graph = ElementTree.fromstring(text).find(f"{space}graph")
    nodes, edges = graph.findall(f"{space}node"), graph.findall(f"{space}edge")
    assert len(edges) == len(rows)
    names = {n.get("id") for n in nodes}
    assert all({e.get("source"), e.get("target")} <= names for e in edges)
    assert "x &amp; &lt;y&gt;" in text
