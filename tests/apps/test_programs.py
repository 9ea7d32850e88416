"""Unknown programs, from evidence to recognisers: in groups, tried on all that was read, in force, as a file, undone."""

import json

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.services.models import Recogniser
from tests.apps.standing import DATA, MATE, WEB, device, talk
from tests.documents import START, packages

pytestmark = pytest.mark.django_db
FEED = "java -Xmx{} -jar /opt/rota{}/rota-feed.jar --port 8080"


def process(command, name, account="rota", listens="", count=1):
    return {"command": command, "name": name, "account": account, "listens": listens, "count": count}


@pytest.fixture
def programs(standing, people):
    """Three devices on which one application runs in three spellings, beside what packages and the system explain."""
    web = [
        process(FEED.format("512m", ""), "java", listens="8080"),
        process("/usr/sbin/sshd -D", "sshd", "root", "22"),
        process("/opt/tixline/bin/tixline --listen 443", "tixline", "tixline", "443"),
    ]
    data = [process(FEED.format("1g", "-2.4"), "java", listens="8080 9091")]
    mate = [
        process("/usr/lib/jvm/bin/" + FEED.format("2g", "-2.3"), "java", "svc", "8080"),
        process("relay -l 2525", "relay", "relay", "2525", 4),
    ]
    documents = [
        device("web", 4, WEB, 20, processes=web, packages=packages(**{"tixline-server": "3.9"}),
               connections=[talk("out", "java", 5, 5432)]),
        device("data", 5, DATA, 20, processes=data),
        device("mate", 6, MATE, 20, processes=mate),
        device("mate", 6, MATE, 40, processes=mate[1:]),
        device("caller", 8, "18:f9:5e:00:00:08", 20, connections=[talk("out", "x", 6, 2525)]),
    ]  # fmt: skip
    taken = list(take_in(documents))
    decide(people["operator"], [taken[-1].asset], {"standing": "register"}, "adopted", at=START)
    Recogniser.objects.filter(general=True).delete()  # those that come with Tarn have tests of their own
    return standing


@pytest.fixture
def send(as_role, programs):
    client = as_role("manager")

    def sent(method, path, data=None):
        answer = getattr(client, method)(
            f"/api/services{path}", json.dumps(data or {}), content_type="application/json"
        )
        return answer.status_code, answer.json() if answer.content else None

    return sent


def feed(ask, as_of=None):
    told = ask("/services/programs", **({"as_of": as_of} if as_of else {}))
    return next(g for g in told["groups"] if g["stem"] == "rota-feed")


def test_what_is_of_the_system_or_of_a_package_there_is_not_unknown(programs, ask):
    told = ask("/services/programs")
    assert {g["stem"] for g in told["groups"]} == {"rota-feed", "relay"}
    relay, rota = told["groups"]
    assert (relay["stem"], relay["called_by"], relay["processes"]) == ("relay", 1, 4), (
        "what others depend on comes first"
    )
    assert (rota["devices"]["devices"], rota["talks_to"]) == (2, ["data"])
    assert len(ids(question(rota["devices"]["filter"]))) == 2


def test_a_past_day_has_the_programs_of_that_day(programs, ask):
    assert feed(ask, "2026-10-15")["devices"]["devices"] == 3
    assert ask("/services/programs", as_of="2026-09-25")["groups"] == []


def test_a_group_shows_samples_with_what_differs_and_a_rule_that_fits(programs, ask):
    told = ask(f"/services/programs/{feed(ask)['key']}")
    marked = {p["text"] for s in told["samples"] for p in s["command"] if p["differs"]}
    assert "512m" in marked
    assert not any("rota-feed.jar" in m for m in marked)
    assert (told["name"], told["rule"], told["instance"]) == (
        "Rota feed",
        "command ~ rota-feed.jar",
        "a device and port",
    )
    tried = told["tried"]
    assert (tried["samples"], tried["of"], tried["devices"], tried["before"], tried["others"]) == (2, 2, 2, 1, [])


def known(ask, **changed):
    told = ask(f"/services/programs/{feed(ask)['key']}")
    return {k: told[k] for k in ("name", "rule", "version", "instance")} | changed


def test_a_recogniser_is_in_force_at_once_and_in_the_past(send, ask, programs):
    status, made = send("post", "/recognisers", known(ask))
    assert status == 200, made
    assert {g["stem"] for g in ask("/services/programs")["groups"]} == {"relay"}
    (rota,) = ask("/services/applications")
    assert (rota["instances"], rota["versions"], rota["talks_to"]) == (2, {"2.4": 1, "none read": 1}, ["data"])
    assert ask("/services/applications", as_of="2026-10-15")[0]["instances"] == 3

    def names(text, at=None):
        return {name for name, a in programs.items() if a in set(ids(question(text, at)))}

    assert names(rota["devices"]["filter"]) == {"web", "data"}
    assert names("applications[version >= 2.4]") == {"data"}
    assert names("applications[port = 9091]") == {"data"}
    assert names("no applications[name ~ rota] and name in (web, mate)") == {"mate"}


def test_a_recogniser_can_be_changed_dropped_and_all_of_it_undone(send, ask, as_role):
    made = send("post", "/recognisers", known(ask))[1]
    path = f"/recognisers/{made['id']}"
    assert send("put", path, {**made, "name": "Rota", "edition": 9})[0] == 409
    assert send("put", path, {**made, "name": "Rota"})[1]["edition"] == 2
    assert send("delete", path)[0] == 204
    assert feed(ask)["devices"]["devices"] == 2
    audit = as_role("manager").get("/api/audit").json()
    number = (audit["entries"] if isinstance(audit, dict) else audit)[0]["id"]
    assert as_role("manager").post(f"/api/audit/{number}/undo").status_code == 200
    assert [r["name"] for r in ask("/services/recognisers")] == ["Rota"]


def test_recognisers_go_from_one_tarn_to_another_as_a_file(send, ask):
    send("post", "/recognisers", known(ask))
    file = ask("/services/recognisers/file")
    assert send("post", "/recognisers/file", file)[0] == 200
    Recogniser.objects.all().delete()
    assert [r["name"] for r in send("post", "/recognisers/file", file)[1]] == ["Rota feed"]
    broken = {**file, "recognisers": [{**file["recognisers"][0], "name": "New"}, {"name": "Bad", "rule": "nam = x"}]}
    status, answer = send("post", "/recognisers/file", broken)
    assert (status, "Number 2, “Bad”" in json.dumps(answer, ensure_ascii=False)) == (422, True)
    assert [r.name for r in Recogniser.objects.all()] == ["Rota feed"], "all of a file or none"
    assert send("post", "/recognisers/file", {**file, "kind": "other"})[0] == 422


def test_groups_are_left_alone_parted_and_taken_back(send, ask):
    key = feed(ask)["key"]
    assert send("post", f"/programs/{key}/word", {"word": "alone", "why": "it goes next month"})[0] == 204
    assert {g["stem"] for g in ask("/services/programs")["groups"]} == {"relay"}
    assert [g["stem"] for g in ask("/services/programs", alone="true")["groups"]] == ["rota-feed"]
    assert send("post", f"/programs/{key}/word", {"word": "back"})[0] == 204
    assert send("post", f"/programs/{key}/word", {"word": "parted"})[0] == 204
    assert [g["stem"] for g in ask("/services/programs")["groups"]].count("rota-feed") == 2
    assert send("post", "/programs/nothing/word", {"word": "alone"})[0] == 404
    assert send("post", f"/programs/{feed(ask)['key']}/word", {"word": "gone"})[0] == 422


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": ""}, "needs a name"),
        ({"rule": ""}, "fit everything"),
        ({"rule": "comand ~ x"}, "no field “comand”"),
        ({"rule": "count > 2"}, "cannot ask for count"),
        ({"version": "rota-("}, "a pattern that cannot be"),
        ({"version": "rota"}, "needs a group"),
        ({"instance": "a planet"}, "no instance"),
    ],
)
def test_a_recogniser_that_cannot_be_is_refused_and_says_why(send, ask, change, said):
    status, answer = send("post", "/recognisers", known(ask, **change))
    assert (status, said in json.dumps(answer, ensure_ascii=False)) == (422, True), answer
    if change.get("rule"):
        assert send("post", "/recognisers/tried", {"rule": change["rule"]})[0] == 422


def test_a_rule_that_fits_everything_is_no_recogniser(send, people):
    many = [process(f"/opt/own/prog{a}{b} -x", f"prog{a}{b}") for a in "abcdef" for b in "abcdef"]
    list(take_in([device("web", 4, WEB, 50, processes=many)]))
    status, answer = send("post", "/recognisers", {"name": "All", "rule": "command ~ o"})
    assert (status, "different programs" in json.dumps(answer)) == (422, True)
    assert send("post", "/recognisers/tried", {"rule": "command ~ o"})[1]["wide"]


def test_sorts_of_programs_come_with_tarn_and_leave_what_they_fit_unknown(programs, ask):
    from importlib import import_module

    usual = import_module("tarn.apps.services.migrations.0005_usual_recognisers").USUAL
    for name, rule, note in usual:
        Recogniser.objects.create(
            name=name, rule=rule, note=note, instance="a device and port", general=True, made_at=0
        )
    assert feed(ask)["behaves"] == ["Web server"]
    assert set(ids(question('applications[name = "Web server" and general = yes]'))) == {
        programs["web"],
        programs["data"],
    }
