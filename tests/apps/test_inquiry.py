"""The inquiry: what words stand for, the devices under one clock, what is most telling, notes, and the sheet."""

import json
import time

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.services.inputs import ServiceIn
from tarn.apps.services.kept.change import keep
from tests.apps.standing import DATA, MATE, SWITCH, WEB, device, talk
from tests.apps.test_pdf import pages
from tests.documents import packages

pytestmark = pytest.mark.django_db
AS_OF = "2026-11-21"


@pytest.fixture
def bad_hour(standing, people):
    """Web has gone quiet towards data, its certificate is over and its disk fills; both were updated alike."""
    over = 1_790_000_000 + 58 * 86_400
    full = [(20, 70), (35, 80), (50, 85), (58, 90)]
    documents = [
        device("web", 4, WEB, day, filesystems=[{"mount": "/var", "full": share, "size": 10}],
               packages=packages(**{"tixline-server": "3.9" if day < 58 else "3.9.1"}),
               certificates=[{"port": 443, "subject": "tickets.skerrivane.example", "ends": over}],
               tickets=[{"number": "T-17", "title": "No tickets", "state": "new", "open": True, "opened": over}],
               connections=[talk("out", "tixline", 5, 5432)] if day < 58 else [])
        for day, share in full
    ] + [
        device("data", 5, DATA, 20, packages=packages(**{"tixline-server": "3.9"}),
               connections=[talk("in", "heron", 4, 5432)]),
        device("data", 5, DATA, 58, packages=packages(**{"tixline-server": "3.9.1"}),
               connections=[talk("in", "heron", 6, 5432)]),
    ]  # fmt: skip
    assert list(take_in(sorted(documents, key=lambda d: d.at)))
    parts = [{"name": "Data", "needs": 1, "rules": [{"filter": "name = data"}]}]
    keep(people["manager"], ServiceIn(name="Ticketing", owner="Ines Kallas", deputies=["Sten Ravell"], parts=parts))
    return standing


def look(ask, *words, **rest):
    return ask("/services/inquiry", of=list(words), as_of=AS_OF, **rest)


@pytest.mark.parametrize(
    ("word", "what", "names"),
    [
        ("10.60.4.4", "address", ["web"]),
        ("web", "name", ["web"]),
        ("web.skerrivane.example", "name", ["web"]),
        ("T-17", "ticket", ["web"]),
        ("ticketing", "service", ["data"]),
        ("tickets.skerrivane.example", "certificate", ["web"]),
        (WEB, "hardware address", ["web"]),
    ],
)
def test_what_one_has_stands_for_devices(bad_hour, ask, word, what, names):
    told = look(ask, word)
    assert [(w["what"], w["trouble"]) for w in told["words"]] == [(what, "")]
    assert [c["name"] for c in told["columns"]] == names


@pytest.mark.parametrize("word", ["10.60.4.250", "nobody", "fe80::1", '" or 1', "10.60.4.0/24", "[", "x" * 300])
def test_what_stands_for_nothing_is_said(bad_hour, ask, word):
    told = look(ask, word, "web")
    assert told["words"][0]["trouble"] == "nothing was known by that on this day"
    assert [c["name"] for c in told["columns"]] == ["web"]


def test_the_most_telling_are_out_of_the_ordinary_each_with_why(bad_hour, ask):
    told = look(ask, "web", "data")
    texts = [t["text"] for t in told["telling"]]
    assert set(texts) >= {
        "web is not heard talking to data:5432 any more",
        "the certificate of web:443 is over (tickets.skerrivane.example)",
        "/var of web has 10 % left",
    }
    quiet = next(t for t in told["telling"] if t["sort"] == "quiet")
    assert sorted(quiet["assets"]) == sorted([bad_hour["web"], bad_hour["data"]]), "of both its ends it is one fact"
    assert "is not heard any more (88)" in quiet["why"]
    assert "data, web: tixline-server updated 3.9 to 3.9.1" in texts
    assert [t["weight"] for t in told["telling"]] == sorted((t["weight"] for t in told["telling"]), reverse=True)


def test_a_column_has_what_is_asked_in_the_bad_hour(bad_hour, ask):
    web, data = look(ask, "web", "data")["columns"]
    assert web["bars"][0]["what"] == "/var"
    assert web["bars"][0]["words"].startswith("10 % free, full in ")
    assert (web["certificates"][0]["days"] < 0, web["certificates"][0]["grade"]) == (True, "bad")
    assert [(t["name"], t["quiet"]) for t in web["talk"] if t["direction"] == "out"] == [("data", True)]
    assert {(s["kind"], s["name"]) for s in web["on"]} == {("guest of", "host"), ("plugged into", "switch")}
    assert [h["fate"] for h in data["hurt"]] == ["stops"]
    assert {t["name"]: t["why"] for t in data["tell"]} == {
        "Ines Kallas": "owns Ticketing",
        "Sten Ravell": "stands in for Ticketing",
    }
    assert [t["number"] for t in web["tickets"]] == ["T-17"]
    assert {"quiet", "certificate", "changed", "ticket"} <= {e["sort"] for e in web["events"]}
    assert all(told["alike"] == 2 for told in data["changed"] if "tixline" in told["text"])


def test_figures_open_their_rows_and_neighbours_can_be_looked_at_beside(bad_hour, ask):
    from tarn.apps.estate.asking.ask import ids, question
    from tarn.apps.estate.asking.dial import read_dial

    told = look(ask, "data")
    under = told["columns"][0]["under"]
    assert len(ids(question(under["filter"], read_dial(AS_OF)))) == under["devices"] > 0
    assert {b["name"] for b in told["beside"]} == {"host"}


def test_notes_keep_an_inquiry_with_their_times(bad_hour, as_role, ask):
    client = as_role("manager")

    def note(**said):
        answer = client.post("/api/services/inquiry/notes", json.dumps(said), content_type="application/json")
        return answer.status_code, answer.json()

    assert note(text=" ", words=["web"])[0] == 422
    assert note(text="rang the desk")[0] == 422
    assert note(text="rang the desk", number=99)[0] == 422
    status, made = note(text="rang the desk", words=["web"])
    assert (status, [n["text"] for n in made["notes"]]) == (200, ["rang the desk"])
    made = note(text="it is the database", words=["web", "data"], number=made["number"])[1]
    assert [n["text"] for n in made["notes"]] == ["rang the desk", "it is the database"]
    assert (
        abs(time.time() - time.mktime(time.strptime(made["notes"][0]["at"], "%Y-%m-%dT%H:%M:%SZ")) + time.timezone) < 90
    )
    (kept,) = ask("/services/inquiries")
    assert (kept["words"], kept["notes"]) == (["web", "data"], 2)
    assert [c["name"] for c in ask("/services/inquiry", number=kept["number"])["columns"]] == ["web", "data"]
    refused = as_role("viewer").post(
        "/api/services/inquiry/notes", json.dumps({"text": "x", "words": ["web"]}), content_type="application/json"
    )
    assert refused.status_code == 403


def test_the_sheet_says_the_same_as_html_and_pdf(bad_hour, as_role):
    client = as_role("viewer")
    page = client.get("/api/services/inquiry/sheet/html", {"of": ["web", "<b>"], "as_of": AS_OF})
    text = page.content.decode()
    assert "web is not heard talking to data:5432 any more" in text
    assert "owns" not in text
    assert "<b>:" not in text, "what is asked is not taken for markup"
    pdf = client.get("/api/services/inquiry/sheet/pdf", {"of": ["web", "data", "<b>"], "as_of": AS_OF}).content
    assert pdf.startswith(b"%PDF")
    read = " ".join(pages(pdf))
    assert "web is not heard talking to data:5432 any more" in " ".join(read.split())
    assert "owns Ticketing" in read
    assert client.get("/api/services/inquiry/sheet/doc", {"of": ["web"]}).status_code == 422


def test_a_port_that_loses_frames_and_a_supply_on_its_battery_are_telling(bad_hour, ask):
    learnt = [{"mac": MATE, "vlan": 4, "port": "port4"}]
    take_in_all = [
        device("switch", 2, SWITCH, 58, forwarding=learnt,
               switch_ports=[{"name": "port4", "errors": 2_000, "duplex": "half"}, {"name": "port3", "errors": 3}]),
        device("ups", 11, "18:f9:5e:00:00:21", 58, condition={"battery": 40, "feeding_from": "battery", "load": 35},
               outlets=[{"name": "outlet 1", "feeds": "pdu"}]),
        device("pdu", 12, "18:f9:5e:00:00:22", 58, outlets=[{"name": "outlet 7", "feeds": "mate"}]),
    ]  # fmt: skip
    assert list(take_in(take_in_all))
    told = [t["text"] for t in look(ask, "mate", "web")["telling"]]
    assert "switch port4, where mate is, loses 2,000 in a million frames" in told
    assert "ups, which feeds mate, runs on its battery" in told, "by the distributor in between"
    assert not any("port3" in t for t in told)
    mate, ups = look(ask, "mate", "ups")["columns"]
    assert [(p["name"], p["port"], p["words"], p["grade"]) for p in mate["ports"]] == [
        ("switch", "port4", "loses 2,000 in a million frames, half duplex", "bad")
    ]
    assert [(b["what"], b["words"], b["grade"]) for b in ups["bars"]] == [
        ("battery", "40 %, and it runs on it", "bad"), ("load", "35 % drawn", ""),
    ]  # fmt: skip
