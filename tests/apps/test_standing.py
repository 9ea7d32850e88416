"""What stands on what, from evidence to answers: guests, plugs and talk; what stops; links; noise; as of a past day."""

from urllib.parse import quote

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tests.apps.standing import DATA, MATE, ROUTER, device, talk

pytestmark = pytest.mark.django_db


def pairs(edges):
    return {(e["stands"]["name"], e["on"]["name"], e["kind"], e["over"]) for e in edges}


def test_what_web_stands_on_and_who_says_so(ask, standing):
    told = ask(f"/services/standing/{standing['web']}", hops=8)
    assert pairs(told["on"]) == {
        ("web", "host", "guest of", ""),
        ("web", "switch", "plugged into", "port3"),
        ("web", "data", "talks to", "5432"),
        ("data", "host", "guest of", ""),
        ("host", "switch", "plugged into", "port3"),
        ("switch", "gate", "plugged into", "port2"),
    }
    talks = next(e for e in told["on"] if e["kind"] == "talks to")
    assert (talks["process"], talks["sure"], talks["witnesses"]) == ("tixline", 100, ["web", "data"])
    assert pairs(told["under"]) == {("user", "web", "talks to", "443")}


def test_a_connection_gone_quiet_is_said_for_a_month_and_a_past_day_tells_what_was_then(ask, standing):
    def calls(as_of):
        return {e["stands"]["name"]: e for e in ask(f"/services/standing/{standing['data']}", as_of=as_of)["under"]}

    assert calls("2026-09-23").keys() == {"web", "mate"}
    quiet = calls("2026-10-20")["mate"]
    assert (quiet["process"], quiet["last_heard"][:10], quiet["witnesses"]) == (
        "crewroster",
        "2026-10-01",
        ["data", "mate"],
    )
    assert calls("2026-11-20").keys() == {"web"}
    under = ask(f"/services/standing/{standing['web']}", as_of="2026-09-23")["under"]
    assert under == []  # the user called only later


def test_what_stops_opens_its_rows_and_says_why(ask, standing):
    told = ask("/services/stops", filter="name = data")
    assert [(r["name"], r["fate"]) for r in told["rows"]] == [("web", "stops"), ("user", "weakened")]
    then = ask("/services/stops", filter="name = data and standing != none", as_of="2026-10-20")
    assert ("mate", "weakened") in {(r["name"], r["fate"]) for r in then["rows"]}
    assert told["rows"][0]["because"] == "its tixline talks to data over port 5432"
    assert told["back"] == [["data"], ["web"]]
    for count in (told["stops"], told["weakened"]):
        assert ask("/assets", filter=count["filter"], limit=0)["total"] == count["devices"]
    boxes = told["picture"]["boxes"]
    assert [(b["layer"], b["name"], b["fate"]) for b in boxes] == [
        ("callers", "user", "weakened"),
        ("computers", "web", "stops"),
        ("computers", "data", "gone"),
        ("virtual hosts", "host", "carries on"),
        ("network", "switch", "carries on"),
        ("network", "gate", "carries on"),
    ]
    for box in boxes:
        assert ask("/assets", filter=box["filter"], limit=0)["total"] == box["devices"]
    lost = {(boxes[k["above"]]["name"], boxes[k["below"]]["name"]) for k in told["picture"]["lines"] if k["lost"]}
    assert lost == {("user", "web"), ("web", "data")}
    all_of_it = ask("/services/stops", filter="name = gate")
    assert all_of_it["stops"]["devices"] == 5
    assert ask("/services/stops", filter="name = nothing")["rows"] == []
    singles = ask("/services/singles")
    assert [(s["name"], s["stops"]) for s in singles] == [("gate", 5), ("switch", 4), ("host", 2), ("data", 1)]
    for s in singles:
        assert ask("/services/stops", filter=f"number = {s['number']}")["stops"]["devices"] == s["stops"]


def test_links_from_both_ends_and_by_what_was_learnt(ask):
    rows = [
        (k["switch"]["name"], k["port"], k["device"]["name"], k["device_port"], k["seen_by"])
        for k in ask("/services/links")
    ]
    assert rows == [
        ("gate", "port2", "switch", "up", ["gate", "switch"]),
        ("switch", "port3", "host", "", ["switch"]),
        ("switch", "port3", "web", "", ["switch"]),
        ("switch", "port4", "mate", "", ["switch"]),
        ("switch", "up", "gate", "port2", ["gate", "switch"]),
    ]
    assert [k["port"] for k in ask("/services/links", filter="name = gate")] == ["port2", "up"]
    (plug,) = ask("/services/links", filter=f'interfaces[mac = "{MATE}"]')
    assert (plug["switch"]["name"], plug["port"]) == ("switch", "port4")


def test_a_clone_has_its_guests_uuid_and_is_told_apart_by_name(ask, standing, people):
    (taken,) = take_in([device("twin", 44, "18:f9:5e:00:00:14", 10, uuid=4)])
    decide(people["operator"], [taken.asset], {"standing": "register"}, "seen")
    assert taken.asset not in standing.values()
    hosts = {(e["stands"]["name"], e["sure"]) for e in ask(f"/services/standing/{standing['host']}")["under"]}
    assert hosts == {("web", 90), ("data", 100)}


def test_filters_ask_for_relations_and_agree_with_what_is_told(ask, as_role, standing):
    def named(filter, **day):
        return {r["name"] for r in ask("/assets", filter=filter, **day)["rows"]}

    assert named("talks to [name = data]") == {"web"}
    assert named("called by [talks to [name = data]]") == {"data"}
    assert named("plugged into [name = switch]") == {"host", "web", "mate"}
    assert named("depends on [name = host]") == {"web", "data", "user"}
    assert named("needed by [name = user] and not kind = router") == {"web", "data", "host", "switch"}
    assert named("no depends on [name = gate] and name != gate") == set()
    assert named("talks to [name = data] and standing != none", as_of="2026-10-20") == {"web", "mate"}
    as_role("manager").post("/api/services/noise", {"port": 5432, "why": "tried"}, content_type="application/json")
    assert named("talks to [name = data]") == set()


def test_noise_is_left_out_until_it_is_taken_back(ask, as_role, standing):
    def say(**said):
        held = as_role("manager").post("/api/services/noise", said, content_type="application/json").json()
        return next(n["id"] for n in held if n["why"] == said["why"])

    def callers():
        return [(e["stands"]["name"], e["process"]) for e in ask(f"/services/standing/{standing['data']}")["under"]]

    one_end = say(process="Tixline", port=5432, why="tried")
    assert callers() == []  # by whatever name the other end knows it
    other_end = say(process="heron", why="its other end")
    manager = as_role("manager")
    assert manager.delete(f"/api/services/noise/{one_end}").status_code == 204
    assert manager.delete(f"/api/services/noise/{one_end}").status_code == 404
    assert callers() == []
    assert manager.delete(f"/api/services/noise/{other_end}").status_code == 204
    assert callers() == [("web", "tixline")]


@pytest.mark.parametrize(
    ("said", "place"),
    [
        ({"why": "all"}, "process"),
        ({"port": 70_000, "why": "x"}, "port"),
        ({"process": "heron", "why": " "}, "why"),
    ],
)
def test_noise_that_cannot_be_is_refused_with_its_place(as_role, standing, said, place):
    answer = as_role("manager").post("/api/services/noise", said, content_type="application/json")
    assert answer.status_code == 422
    assert place in answer.content.decode()


def test_wrong_questions_are_refused(as_role, standing):
    client = as_role("viewer")
    for path, status in (
        ("/api/services/standing/987654", 404),
        (f"/api/services/standing/{standing['web']}?hops=99", 422),
        (f"/api/services/stops?filter={quote('nmae = x')}", 422),
        ("/api/services/singles?as_of=soon", 422),
        ("/api/services/links?filter=(", 422),
    ):
        assert client.get(path).status_code == status, path


def test_who_calls_from_behind_a_way_out_is_told_apart_from_it(ask, standing):
    heard = [talk("in", "heron", 1, 5432), talk("in", "heron", 4, 5432)]
    list(take_in([device("data", 5, DATA, 40, connections=heard)]))
    assert ("gate", "data", "talks to", "5432") not in pairs(ask(f"/services/standing/{standing['data']}")["under"])
    told = ask("/services/talk", by="name")
    assert ("behind gate", "data") in {(c["caller"], c["called"]) for c in told["cells"]}
    assert ("gate", "weakened") not in {
        (r["name"], r["fate"]) for r in ask("/services/stops", filter="name = data")["rows"]
    }
    (column,) = [c for c in ask("/services/inquiry", of=["data"])["columns"] if c["name"] == "data"]
    assert "behind gate" in {t["name"] for t in column["talk"]}
    list(take_in([device("gate", 1, ROUTER, 41, connections=[talk("out", "proxy", 5, 5432)])]))
    assert ("gate", "data", "talks to", "5432") in pairs(ask(f"/services/standing/{standing['data']}")["under"])
