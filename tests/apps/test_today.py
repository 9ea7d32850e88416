"""Today: what wants a hand, for whom, where its buttons lead, and what people put aside of it."""

import json
from datetime import UTC, datetime, timedelta

import pytest

from tarn.apps.discovery.models import Outpost
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.wanting import Want, all_wants
from tarn.apps.today.models import Aside
from tests.documents import sighting

pytestmark = pytest.mark.django_db


@pytest.fixture
def lines(as_role):
    def of(role="manager"):
        answer = as_role(role).get("/api/today")
        assert answer.status_code == 200, answer.content
        told = answer.json()
        return {w["key"]: w for w in told["wants"]}, told

    return of


def put(client, key, how, until=None):
    body = {"key": key, "how": how, "until": until}
    return client.post("/api/today/aside", json.dumps(body), content_type="application/json")


def full(name, day, percent):
    disk = {"mount": "/var", "device": "/dev/sda2", "size": 100 << 30, "full": percent}
    return sighting(name, day, identity={"serial": f"HB-{name}"}, filesystems=[disk])


def found(*documents):
    return sorted({t.asset for t in take_in(documents)})


def test_a_line_leads_to_exactly_what_it_counts_and_is_gone_when_that_is_mended(lines, as_role, people, estate):
    assets = found(full("salt-a", 0, 99), full("salt-b", 0, 97), full("salt-c", 0, 40))
    decide(people["operator"], assets, {"standing": "register", "state": "in use"}, "adopted")
    line = lines()[0]["disks-full"]
    assert (line["count"], line["text"], line["to"]) == (2, "computers have a disk that is all but full", "/estate")
    asked = as_role("viewer").get("/api/assets", {"filter": line["search"]["q"]}).json()
    assert asked["total"] == 2
    found(full("salt-a", 1, 30), full("salt-b", 1, 30))
    assert "disks-full" not in lines()[0]


def test_the_most_pressing_comes_first_and_nothing_is_told_twice(lines, people, estate):
    found(sighting("stranger", 0, identity={"serial": "X-1"}))
    decide(people["operator"], estate[:1], {"state": "missing"}, "nowhere to be found")
    Outpost.objects.create(name="MV Thrift", made_at=1, last_seen=1)
    _, told = lines()
    grades = [w["grade"] for w in told["wants"]]
    assert grades == sorted(grades, key=["bad", "warn", "note"].index)
    keys = [w["key"] for w in told["wants"]]
    assert {"outposts", "intake", "missing"} <= set(keys)
    assert len(keys) == len(set(keys))
    assert told["wants"][0]["beside"] == "MV Thrift"
    assert len({w.key for w in all_wants()}) == len(all_wants())


def test_each_is_told_what_is_for_them(lines, estate, people):
    found(sighting("stranger", 0, identity={"serial": "X-1"}))
    assert "intake" in lines("operator")[0]
    assert "intake" not in lines("viewer")[0], "a viewer cannot decide"


def test_put_off_until_a_day_done_until_something_new_comes_and_not_for_me(lines, as_role, people, estate):
    found(sighting("stranger", 0, identity={"serial": "X-1"}))
    client = as_role("manager")
    tomorrow = (datetime.now(UTC) + timedelta(days=1)).date().isoformat()
    told = put(client, "intake", "until", tomorrow).json()
    assert "intake" not in {w["key"] for w in told["wants"]}
    assert [(a["key"], a["how"], a["until"][:10]) for a in told["aside"]] == [("intake", "until", tomorrow)]
    assert told["aside"][0]["text"] == "1 found device waits at intake"
    Aside.objects.update(until=1)
    assert "intake" in lines()[0], "its day has come"
    assert "intake" in lines("operator")[0], "what somebody puts aside is theirs alone"

    assert put(client, "intake", "done").json()["done"] == 1
    assert "intake" not in lines()[0]
    found(sighting("another", 0, identity={"serial": "X-2"}))
    assert lines()[0]["intake"]["count"] == 2, "something new has come"

    put(client, "intake", "never")
    found(sighting("a-third", 0, identity={"serial": "X-3"}))
    assert "intake" not in lines()[0]
    assert client.delete("/api/today/aside/intake").status_code == 204
    assert "intake" in lines()[0]
    assert client.delete("/api/today/aside/intake").status_code == 404


@pytest.mark.parametrize(
    ("key", "how", "until", "place"),
    [
        ("intake", "until", None, "until"),
        ("intake", "until", "2020-01-01", "until"),
        ("nothing-such", "done", None, "key"),
        ("intake", "perhaps", None, "how"),
    ],
)
def test_what_cannot_be_put_aside_is_refused_at_its_place(as_role, key, how, until, place):
    answer = put(as_role("manager"), key, how, until)
    assert answer.status_code == 422
    assert place in json.dumps(answer.json())


def test_one_line_that_fails_holds_no_other_up(lines, estate, monkeypatch):
    found(sighting("stranger", 0, identity={"serial": "X-1"}))

    def broken():
        raise RuntimeError("the rows are gone")

    every = all_wants()
    monkeypatch.setattr(
        "tarn.apps.today.wanted.all_wants", lambda: [Want("broken", "bad", "look", "See", broken), *every]
    )
    told, _ = lines()
    assert "the rows are gone" in told["broken"]["beside"]
    assert told["broken"]["button"] == ""
    assert "intake" in told


def test_an_empty_installation_is_led_to_its_first_sweep(lines, as_role, monkeypatch, people):
    monkeypatch.setattr("tarn.apps.today.first.proposed_networks", lambda: ["192.168.4.0/24"])
    first = lines()[1]["first"]
    assert [s["key"] for s in first] == ["networks", "credentials", "sweep", "intake"]
    assert "192.168.4.0/24" in first[0]["text"]
    assert not any(s["done"] for s in first)
    network = {"range": "10.60.4.0/24", "name": "Saltholm", "place": "Saltholm"}
    made = as_role("manager").post("/api/networks", json.dumps(network), content_type="application/json")
    assert made.status_code == 200, made.content
    assert lines()[1]["first"][0]["done"]
    (asset,) = found(sighting("first", 0, identity={"serial": "X-1"}))
    decide(people["operator"], [asset], {"standing": "register", "state": "in use"}, "adopted")
    assert lines()[1]["first"] == []


def test_every_line_can_be_asked_of_an_empty_and_of_a_small_estate(lines, people, request):
    for fill in (None, "standing"):
        if fill:
            request.getfixturevalue(fill)
        _, told = lines("administrator")
        assert [w["key"] for w in told["wants"] if not w["button"]] == []
    assert all_wants()
