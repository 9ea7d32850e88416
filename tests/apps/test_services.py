"""Services as people keep them: parts and rules, members, what stops, health, proposals; and what filters ask of them."""

import json

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.services.kept.catching_up import catch_up
from tarn.apps.services.models import Service
from tests.apps.standing import DATA, MATE, WEB, device, talk
from tests.documents import START

pytestmark = pytest.mark.django_db
TICKETS = {
    "name": "Ticketing",
    "purpose": "Tickets at the counter",
    "owner": "Ines Kallas",
    "promise": 240,
    "importance": "high",
    "entries": [{"host": "10.60.4.4", "port": 443}],
    "parts": [
        {"name": "Web", "needs": 1, "rules": [{"filter": "name in (web, mate)", "why": "they serve the pages"}]},
        {"name": "Data", "needs": 1, "rules": [{"filter": "called by [name = web]", "why": "web calls it"}]},
    ],
}


@pytest.fixture
def send(as_role, standing):
    """Send something to the API as a manager, and return status and answer."""
    client = as_role("manager")

    def sent(method, path, data=None):
        answer = getattr(client, method)(f"/api{path}", json.dumps(data or {}), content_type="application/json")
        return answer.status_code, answer.json() if answer.content else None

    return sent


@pytest.fixture
def kept(send):
    status, made = send("post", "/services", TICKETS)
    assert status == 200, made
    return made


def members(told):
    return {(r["part"], r["name"]) for r in told["rows"] if not r["out"]}


def test_members_follow_from_rules_each_with_why(kept):
    assert members(kept) == {("Web", "web"), ("Web", "mate"), ("Data", "data")}
    assert {r["name"]: r["because"] for r in kept["rows"]}["data"] == ["web calls it"]
    assert [d["name"] for d in kept["entries"][0]["devices"]] == ["web"]
    assert kept["members"]["devices"] == 3


def test_every_figure_of_a_service_opens_exactly_its_devices(kept, ask):
    (listed,) = ask("/services")
    figures = [listed["members"], *(p["members"] for p in listed["parts"]), kept["under"]]
    figures += [s for s in kept["signs"] if s["filter"]]
    assert len(figures) > 4
    for figure in figures:
        assert len(ids(question(figure["filter"]))) == figure["devices"], figure


def test_what_stops_tells_of_services_and_why(kept, ask):
    def falls(name):
        return [
            (s["name"], s["fate"], s["because"]) for s in ask("/services/stops", filter=f"name = {name}")["services"]
        ]

    assert falls("mate") == [("Ticketing", "weakened", ["Web: without mate, web is left"])]
    ((_, fate, because),) = falls("data")
    assert (fate, because[0]) == ("stops", "Data: data is down and nothing is left of it")
    assert falls("user") == []
    drawn = ask("/services/stops", filter="name = data")["picture"]["boxes"]
    assert [(b["name"], b["row"]) for b in drawn if b["layer"] == "services"] == [("Ticketing", 0)]


def test_single_points_come_first_by_the_services_that_stop(kept, ask):
    worst = ask("/services/singles")
    assert any(m.startswith("another host for 2 devices: 2 would not stop") for s in worst for m in s["mends"])
    by_name = {s["name"]: s["services"] for s in worst}
    assert (by_name["data"], by_name["host"], by_name["switch"]) == (1, 1, 1)
    assert [s["services"] for s in worst] == sorted((s["services"] for s in worst), reverse=True)


def test_health_says_what_stands_alone_and_what_it_stands_on(kept):
    signs = {s["key"]: s["text"] for s in kept["signs"]}
    assert signs["weak"] == "Data: it needs data alone"
    assert "host" in signs["single"]
    assert "switch" in signs["single"]


def test_talk_that_has_gone_quiet_is_a_sign(kept, send, ask):
    later = [
        device("data", 5, DATA, 60, connections=[talk("in", "heron", 6, 5432)]),
        device("web", 4, WEB, 60, connections=[]),
    ]
    assert len(list(take_in(later))) == 2
    told = ask(f"/services/{kept['id']}", as_of="2026-11-21")
    assert "web has gone quiet towards data over 5432" in {s["text"] for s in told["signs"] if s["key"] == "quiet"}


def test_a_past_day_has_the_members_of_that_day(kept, ask):
    assert members(ask(f"/services/{kept['id']}", as_of="2026-09-23")) == members(kept)
    assert members(ask(f"/services/{kept['id']}", as_of="2026-09-20")) == set()


def test_by_hand_a_device_is_put_in_and_taken_out_with_a_reason(kept, send):
    path = f"/services/{kept['id']}/members"
    assert send("post", path, {"device": "user", "part": "Web", "why": ""})[0] == 422
    assert send("post", path, {"device": "user", "part": "Nothing", "why": "x"})[0] == 422
    assert send("post", path, {"device": "nobody", "part": "Web", "why": "x"})[0] == 422
    told = send("post", path, {"device": "user", "part": "Web", "why": "lent for the summer"})[1]
    assert ("Web", "user") in members(told)
    told = send("post", path, {"device": "mate", "part": "Web", "out": True, "why": "being rebuilt"})[1]
    assert ("Web", "mate") not in members(told)
    (out,) = (r for r in told["rows"] if r["out"])
    assert send("delete", f"{path}/{out['hand']}")[0] == 204
    assert send("delete", f"{path}/{out['hand']}")[0] == 404


def test_members_gained_and_lost_are_noted_once(kept, send, ask):
    assert catch_up(1_000) == 3
    assert catch_up(2_000) == 0
    changed = {**TICKETS, "version": kept["version"]}
    changed["parts"] = [{**TICKETS["parts"][0], "rules": [{"filter": "name = web"}]}, TICKETS["parts"][1]]
    assert send("put", f"/services/{kept['id']}", changed)[0] == 200
    assert catch_up(3_000) == 1
    told = ask(f"/services/{kept['id']}")["changes"]
    assert [(c["name"], c["came"]) for c in told] == [("mate", False)]


def test_rules_are_tried_before_they_are_kept_and_on_a_past_day(kept, send):
    wanted = {**TICKETS, "parts": [{"name": "Web", "rules": [{"filter": "kind = router or name = web"}]}]}
    told = send("post", "/services/rehearsal", {"service": wanted, "number": kept["id"]})[1]
    assert {(r["name"], r["change"]) for r in told["rows"]} == {
        ("gate", "comes"),
        ("web", "stays"),
        ("mate", "goes"),
        ("data", "goes"),
    }
    before = send("post", "/services/rehearsal", {"service": wanted, "as_of": "2026-09-20"})[1]
    assert before["rows"] == []
    assert Service.objects.get().parts[0]["rules"][0]["filter"] == "name in (web, mate)"


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": " "}, "needs a name"),
        ({"importance": "vital"}, "no importance"),
        ({"promise": 0}, "minutes"),
        ({"entries": [{"host": "two words"}]}, "no address or name"),
        ({"entries": [{"host": "web", "port": 0}]}, "no port"),
        ({"parts": [{"name": "Web"}, {"name": "web"}]}, "two parts"),
        ({"parts": [{"name": "Web", "needs": -1}]}, "a number of its members"),
        ({"parts": [{"name": "Web", "rules": [{"filter": " "}]}]}, "every device"),
        ({"parts": [{"name": "Web", "rules": [{"filter": "nam = web"}]}]}, "Web: There is no field “nam”"),
    ],
)
def test_what_cannot_be_a_service_is_refused_and_says_why(send, change, said):
    status, answer = send("post", "/services", {**TICKETS, **change})
    assert (status, said in json.dumps(answer, ensure_ascii=False)) == (422, True), answer


def test_services_made_of_each_other_in_a_circle_are_refused(kept, send):
    second = {"name": "Desk", "parts": [{"name": "All", "rules": [{"filter": "serves[name = Ticketing]"}]}]}
    status, made = send("post", "/services", second)
    assert (status, made["members"]["devices"]) == (200, 3)
    changed = {**TICKETS, "version": kept["version"]}
    changed["parts"] = [{"name": "Web", "rules": [{"filter": "serves[name = Desk]"}]}]
    status, answer = send("put", f"/services/{kept['id']}", changed)
    assert (status, "Ticketing → Desk → Ticketing" in json.dumps(answer, ensure_ascii=False)) == (422, True)


def test_two_people_who_change_one_service_are_told(kept, send):
    changed = {**TICKETS, "version": kept["version"]}
    assert send("put", f"/services/{kept['id']}", changed)[0] == 200
    assert send("put", f"/services/{kept['id']}", changed)[0] == 409
    assert send("post", "/services", TICKETS)[0] == 422


def test_dropping_can_be_undone_with_what_was_put_by_hand(kept, send, as_role):
    send("post", f"/services/{kept['id']}/members", {"device": "user", "part": "Web", "why": "lent"})
    assert send("delete", f"/services/{kept['id']}")[0] == 204
    entry = as_role("manager").get("/api/audit").json()
    number = (entry["entries"] if isinstance(entry, dict) else entry)[0]["id"]
    assert send("post", f"/audit/{number}/undo")[0] == 200
    (again,) = Service.objects.all()
    assert (again.name, again.by_hand.count()) == ("Ticketing", 1)


def test_filters_ask_for_services_by_part_and_importance(kept, standing):
    def names(text):
        return {name for name, a in standing.items() if a in set(ids(question(text)))}

    assert names("serves[name = Ticketing and part = Data]") == {"data"}
    assert names("serves[importance = high]") == {"web", "mate", "data"}
    assert names("no serves[part = Web]") == set(standing) - {"web", "mate"}
    assert names("count serves >= 1") == {"web", "mate", "data"}
    catch_up()
    assert names("importance.services = high") == {"web", "mate", "data", "host", "switch", "gate"}


def test_what_many_call_is_proposed_with_what_stands_behind_it(send, ask, people):
    tills = take_in(
        [device(f"till{n}", n, f"18:f9:5e:00:00:{n}", 12, connections=[talk("out", "till", 4, 443)]) for n in (21, 22)]
    )
    decide(people["operator"], [t.asset for t in tills], {"standing": "register"}, "adopted", at=START)
    (found,) = [p for p in ask("/services/proposed", as_of="2026-10-05") if p["entries"][0]["host"] == "web"]
    assert found["callers"]["devices"] == 3
    assert [p["name"] for p in found["parts"]][1:] == ["Port 5432"]
    body = {"name": "Pages", "parts": [{k: p[k] for k in ("name", "needs", "rules")} for p in found["parts"]]}
    told = send("post", "/services/rehearsal", {"service": body, "as_of": "2026-10-05"})[1]
    assert {r["name"] for r in told["rows"]} == {"web", "data"}
    assert send("post", "/services", body)[0] == 200
    assert not [p for p in ask("/services/proposed", as_of="2026-10-05") if p["entries"][0]["host"] == "web"]


def test_a_service_of_another_organisation_is_not_seen(kept, people):
    from django.test import Client

    from tarn.apps.people.models import Limit, Organisation

    other = Organisation.objects.create(name="Harbour Trust", made_at=1)
    Limit.objects.create(user=people["viewer"], organisation=other)
    client = Client()
    client.force_login(people["viewer"], backend="django.contrib.auth.backends.ModelBackend")
    assert client.get("/api/services").json() == []
    assert client.get(f"/api/services/{kept['id']}").status_code == 404


def test_the_mate_of_a_pair_is_not_taken_for_the_pair(kept, ask):
    assert MATE  # the pair shares no hardware address
    told = ask("/services/stops", filter="name in (web, mate)")["services"]
    assert [(s["name"], s["fate"]) for s in told] == [("Ticketing", "stops")]


def test_what_an_important_service_stands_on_weighs_in_grades_until_it_is_important_no_more(kept, send, standing):
    from tarn.apps.exposure.grading.grades import devices

    catch_up(1_800_000_000)
    told = devices(None)
    assert told.carrying == {standing[n] for n in ("web", "mate", "data", "host", "switch", "gate")}
    assert bool(told.important[standing["host"]])
    assert not bool(told.important[standing["user"]])
    assert (
        send("put", f"/services/{kept['id']}", {**TICKETS, "importance": "usual", "version": kept["version"]})[0] == 200
    )
    catch_up(1_800_086_400)
    assert devices(None).carrying == frozenset()
    assert bool(devices(1_800_000_100).important[standing["host"]]), "then it was"


def test_a_certificate_is_told_once_with_all_its_places_and_whom_its_end_would_turn_away(kept, ask, standing):
    over = START + 70 * 86_400
    one = {"subject": "tickets.example", "issuer": "An authority", "fingerprint": "ab" * 32, "ends": over,
           "names": "tickets.example www.example", "chain": "An authority; A root", "key_kind": "RSA",
           "key_bits": 2048, "hashed": "sha256"}  # fmt: skip
    own = {"port": 8443, "subject": "mate", "issuer": "mate", "fingerprint": "cd" * 32, "ends": over - 20 * 86_400}
    documents = [
        device("web", 4, WEB, 60, certificates=[one | {"port": 443}]),
        device("mate", 6, MATE, 60, certificates=[one | {"port": 443}, own]),
    ]
    assert list(take_in(documents))
    first, second = ask("/services/certificates", filter="name = mate", as_of="2026-11-22")
    assert (first["subject"], first["days"] < 0, first["self_signed"]) == ("mate", True, True)
    assert (second["names"], second["chain"]) == (["tickets.example", "www.example"], ["An authority", "A root"])
    assert [(p["name"], p["port"]) for p in second["places"]] == [("web", 443), ("mate", 443)]
    assert (second["services"], second["key"]) == (["Ticketing"], "RSA 2048 bits over sha256")
    assert 0 <= second["days"] <= 10
    assert ask("/services/certificates", as_of="2026-09-25") == []


def test_the_owner_is_told_who_came_and_who_went_by_a_watch(kept, send, as_role):
    from tarn.apps.reports.actions.watches import ask_due
    from tarn.apps.reports.models import Letter, Watch

    path = f"/services/{kept['id']}/watch"
    assert send("post", path, {"to": ["no address"]})[0] == 422
    assert not Watch.objects.exists()
    status, told = send("post", path, {"to": ["ines@skerrivane.example"]})
    assert status == 200
    assert send("post", path, {"to": ["ines@skerrivane.example"]})[0] == 422, "one is enough"
    shown = as_role("viewer").get(f"/api/reports/shown/{told['report']}").json()
    assert len(shown["rows"] if "rows" in shown else shown["lines"]) == 3
    changed = {**TICKETS, "version": kept["version"]}
    changed["parts"] = [{**TICKETS["parts"][0], "rules": [{"filter": "name = web"}]}, TICKETS["parts"][1]]
    assert send("put", f"/services/{kept['id']}", changed)[0] == 200
    watch = Watch.objects.get()
    ask_due(watch.next_at + 1)
    letter = Letter.objects.get()
    assert "mate" in letter.text


def test_a_selection_is_drawn_as_a_map_with_its_services_above(kept, ask):
    drawn = ask("/services/map", filter="name in (web, data)")
    names = {b["name"]: b["layer"] for b in drawn["boxes"]}
    assert names["Ticketing"] == "services"
    assert {"web", "data", "host", "switch", "gate"} <= set(names)
    assert all(line["above"] < len(drawn["boxes"]) for line in drawn["lines"])
