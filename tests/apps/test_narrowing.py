"""Bands and narrowing agree: a part's figure is what narrowing to it finds, and narrowing is undone by widening."""

import json
from datetime import UTC, datetime

import pytest

from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.strata import BANDS
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db
PLACES = ["Saltholm", "Port Averne", "Élan", ""]
SYSTEMS = [("Linux", "Debian GNU/Linux"), ("Windows", "Windows 11"), ("firmware", "")]
KINDS = ["server", "workstation", "till"]
GIB = 1 << 30


@pytest.fixture
def mixed(people):
    """Thirty-six devices of every mix; a third of them moves on the tenth day, a fourth is read by two."""
    told, kinds = [], {}
    for n in range(36):
        platform, system = SYSTEMS[n % 3]
        name, place = f"dev-{n:02d}", PLACES[n % 4]
        whole = {
            "identity": {"serial": f"HB-{1000 + n}", "manufacturer": "Halberd" if n % 2 else "Quarto"},
            "system": {"platform": platform, **({"os_name": system} if system else {})},
            "hardware": {"memory": (n % 5) * 4 * GIB} if n % 5 else {},
            "placement": {"address": f"10.60.4.{n + 1}", **({"place": place} if place else {})},
        }
        whole = {section: facts for section, facts in whole.items() if facts}
        told.append(sighting(name, 0, **whole))
        if n % 3 == 0:
            moved = {**whole, "placement": {"address": f"10.60.4.{n + 1}", "place": "Oropol"}}
            told.append(sighting(name, 10, **moved))
        if n % 4 == 0:
            told.append(sighting(name, 1, source="list", kind="file", identity=whole["identity"]))
        kinds[f"HB-{1000 + n}"] = KINDS[n % len(KINDS)]
    for n, taken in enumerate(list(take_in(told))):
        serial = told[n].readings[0].facts.serial
        decide(people["operator"], [taken.asset], {"standing": "register", "kind": kinds[serial]}, "adopted", START)


QUESTIONS = [
    "",
    "kind = server",
    "kind = server or kind = till",
    "not (place = Saltholm)",
    'place in (Saltholm, "Port Averne") and memory >= 4GB',
    "name ~ dev-1",
    "memory = none",
    "platform = Linux and not kind = server and address in 10.60.4.0/28",
]


def ask(client, path, **body):
    answer = client.post(f"/api/{path}", json.dumps(body), content_type="application/json")
    assert answer.status_code == 200, answer.content
    return answer.json()["text"]


@pytest.mark.parametrize("text", QUESTIONS)
@pytest.mark.parametrize("day", [None, 5])
def test_each_part_of_each_band_is_what_narrowing_to_it_finds(mixed, as_role, text, day):
    client, at = as_role("viewer"), None if day is None else START + day * DAY
    as_of = {} if at is None else {"as_of": datetime.fromtimestamp(at, UTC).isoformat()}
    whole = count(question(text, at))
    seen = 0
    for band in client.get("/api/strata", {"filter": text, "bands": ",".join(BANDS), **as_of}).json():
        counted = 0
        for part in band["parts"]:
            narrowed = ask(client, "filter/narrowed", filter=text, condition=part["filter"])
            excluded = ask(client, "filter/narrowed", filter=text, condition=part["filter"], how="exclude")
            found = count(question(narrowed, at))
            assert found == part["count"], (text, band["name"], part)
            assert count(question(excluded, at)) == whole - found
            asked_in_part = any(c in text for c in part["filter"].split(" and "))
            if not asked_in_part:  # else widening takes away what was there before, too
                assert ask(client, "filter/narrowed", filter=narrowed, condition=part["filter"], how="widen") == ask(
                    client, "filter", text=text
                )
            counted, seen = counted + part["count"], seen + 1
        assert counted == whole, (text, band["name"])
    assert seen or whole == 0


@pytest.mark.parametrize("text", [q for q in QUESTIONS if q])
def test_a_part_that_is_asked_for_already_is_marked_and_nothing_else_is(mixed, as_role, text):
    client = as_role("viewer")
    for band in client.get("/api/strata", {"filter": text, "bands": ",".join(BANDS)}).json():
        for part in band["parts"]:
            narrowed = ask(client, "filter/narrowed", filter=text, condition=part["filter"])
            assert part["held"] == (narrowed == ask(client, "filter", text=text)), (text, part)


@pytest.mark.parametrize("text", QUESTIONS)
def test_a_question_that_is_built_anew_of_its_draft_finds_the_same(mixed, as_role, text):
    client = as_role("viewer")
    draft = client.post("/api/filter/draft", json.dumps({"text": text}), content_type="application/json").json()
    written = client.post("/api/filter/written", json.dumps(draft), content_type="application/json").json()
    assert written["problems"] == []
    assert count(question(written["text"])) == count(question(text))
