"""Sets and phrases: kinds, nesting, circles, past days, what uses them; changed and dropped without breaking others."""

import json
import time

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset, KeptSet, Phrase, SetSpan
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def operator(as_role, estate):
    return as_role("operator")


def make(client, name, **body):
    answer = send(client, "sets", {"name": name, **body})
    assert answer.status_code == 200, answer.json()
    return answer.json()


def test_three_kinds_of_set_nest_in_filters(operator, estate):
    live = make(operator, "Servers", filter="kind = server", folder=" Machines / Racked ")
    assert live["folder"] == "Machines/Racked"
    picked = make(operator, "Two", kind="picked", assets=[estate[0], estate[2]])
    assert (picked["count"], picked["filter"]) == (2, "number in (A-00001, A-00003)")
    ranges = make(operator, "Averne", kind="address", ranges=["10.60.8.0/24", "10.60.9.1-10.60.9.9"])
    assert ranges["filter"] == "address in 10.60.8.0/24 or address in 10.60.9.1-10.60.9.9"
    both = 'in set "Servers" and not in set "Averne"'
    make(operator, "Servers ashore", filter=both)
    assert ids(question('in set "Servers ashore"')) == [estate[0]]
    assert ids(question('in set "Two" and in set "Servers ashore"')) == [estate[0]]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"kind": "picked"}, "assets"),
        ({"kind": "address", "ranges": ["10.60.4.1/24"]}, "ranges"),
        ({"kind": "address"}, "ranges"),
    ],
)
def test_a_set_that_cannot_be_is_refused_at_its_field(operator, body, field):
    refused = send(operator, "sets", {"name": "x", **body})
    assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_a_circle_of_sets_is_refused_with_its_path(operator):
    first = make(operator, "First", filter="kind = server")
    make(operator, "Second", filter='in set "First" and memory > 1GB')
    refused = send(operator, f"sets/{first['id']}", {"name": "First", "filter": 'in set "Second"', "version": 1}, "put")
    assert (refused.status_code, refused.json()["field"]) == (422, "filter")
    assert "First → Second → First" in refused.json()["detail"]
    assert KeptSet.objects.get(name="First").filter == "kind = server", "nothing was changed"


def test_a_set_tells_its_year_who_came_and_left_and_what_uses_it(operator, estate):
    live = make(operator, "Much memory", filter="memory >= 32GB")
    body = {"name": "In it", "definition": {"columns": [{"field": "name"}], "filter": 'in set "Much memory"'}}
    send(operator, "reports/composed", body)
    days = int((time.time() - START) // DAY) - 5
    page = operator.get(f"/api/sets/{live['id']}?days={days}").json()
    assert (page["count"], page["sentence"]) == (1, "assets whose memory is at least 32GB")
    assert [m["name"] for m in page["moved"]["came_rows"]] == ["salt-tix-01"]
    assert (page["moved"]["left"], page["moved"]["stayed"]) == (0, 0)
    day = time.strftime("%Y-%m-%d", time.gmtime(START + 2 * DAY))
    assert operator.get(f"/api/sets/{live['id']}?since={day}").json()["moved"]["came"] == 1
    later = operator.get(f"/api/sets/{live['id']}?since={day}&as_of=2026-01-02")
    assert "comes after" in later.json()["detail"]
    assert page["year"][-1]["devices"] == 1
    assert page["year"][0]["devices"] == 0
    assert [(u["what"], u["name"]) for u in page["uses"]] == [("report", "In it")]
    refused = operator.delete(f"/api/sets/{live['id']}")
    assert (refused.status_code, "report “In it”" in refused.json()["detail"]) == (409, True)
    renamed = send(operator, f"sets/{live['id']}", {"name": "Other", "filter": "memory >= 32GB", "version": 1}, "put")
    assert renamed.json()["field"] == "name"


def test_a_past_day_is_asked_by_the_definition_of_that_day(operator, estate):
    made = make(operator, "Watched", filter="kind = server")
    before = int(time.time()) - 1000
    SetSpan.objects.update(valid_from=before)
    changed = send(operator, f"sets/{made['id']}", {"name": "Watched", "filter": "kind = printer", "version": 1}, "put")
    assert changed.json()["filter"] == "kind = printer"
    assert ids(question('in set "Watched"')) == [Asset.objects.get(pk=estate[3]).pk]
    then = ids(question('in set "Watched"', before + 10, standing=None))
    assert then == ids(question("kind = server", before + 10, standing=None))
    assert (
        send(operator, f"sets/{made['id']}", {"name": "Watched", "filter": "", "version": 1}, "put").status_code == 409
    )


def test_a_set_dated_before_definitions_were_keeps_its_first(operator, people):
    held = KeptSet.objects.create(name="Old", filter="kind = server", made_at=START)
    send(operator, f"sets/{held.pk}", {"name": "Old", "filter": "kind = printer", "version": 1}, "put")
    assert list(SetSpan.objects.order_by("valid_from").values_list("filter", flat=True)) == [
        "kind = server",
        "kind = printer",
    ]


def test_phrases_tell_what_they_name_and_who_speaks_of_them(operator, people):
    list(take_in([sighting("pc", 0, packages=[{"name": "Quill Office 16 (x64)", "version": "16.1"}])]))
    assert send(operator, "phrases", {"name": "@suites", "values": ["quill office", "/^ember/"]}).status_code == 200
    make(operator, "With a suite", filter="software[product in @suites]")
    told = next(p for p in operator.get("/api/phrases").json() if p["name"] == "suites")
    assert told["products"] == ["Quill Office", "quill-office"] or told["products"] == ["Quill Office"]
    assert [(u["what"], u["name"]) for u in told["uses"]] == [("set", "With a suite")]
    assert operator.delete("/api/phrases/suites").json()["field"] == "name"
    changed = send(operator, "phrases/suites", {"name": "suites", "values": ["nothing here"]}, "put")
    assert changed.json()["values"] == ["nothing here"]
    assert ids(question('in set "With a suite"', standing=None)) == []
    for body, field in (
        ({"name": "Two words"}, "name"),
        ({"name": "x"}, "values"),
        ({"name": "x", "values": ["/(/"]}, "values"),
    ):
        assert send(operator, "phrases", {"values": [], **body}).json()["field"] == field
    assert send(operator, "phrases", {"name": "suites", "values": ["a"]}).json()["field"] == "name"
    Phrase.objects.create(name="spare", values=["x"])
    assert operator.delete("/api/phrases/spare").status_code == 204
    assert operator.delete("/api/phrases/spare").status_code == 404


def test_a_picked_set_is_pasted_changed_and_holds_thousands(as_role, estate):
    operator = as_role("operator")
    numbers = {r["id"]: r["number"] for r in operator.get("/api/assets?fields=number").json()["rows"]}
    body = {"name": "Mine", "kind": "picked", "picked": f"{numbers[estate[0]]}\nsalt-lt-01, HB-1002"}
    made = send(operator, "sets", body)
    assert made.status_code == 200, made.content
    assert set(ids(question('in set "Mine"'))) == {estate[0], estate[1], estate[2]}
    one = made.json()
    refused = send(operator, "sets", {**body, "name": "Other", "picked": "nowhere-9"}).json()
    assert (refused["field"], "“nowhere-9” is no device" in refused["detail"]) == ("picked", True)
    renamed = {"name": "Ours", "kind": "picked", "version": one["version"]}
    changed = send(operator, f"sets/{one['id']}", renamed, "put").json()
    assert (changed["name"], changed["count"]) == ("Ours", 3), "its name changes, its devices stay"
    fewer = {**renamed, "version": changed["version"], "picked": numbers[estate[3]]}
    assert send(operator, f"sets/{one['id']}", fewer, "put").json()["count"] == 1
    list(take_in(sighting(f"pc-{n}", identity={"serial": f"P-{n}"}) for n in range(5_000)))
    many = send(
        operator, "sets", {"name": "Many", "kind": "picked", "picked": "\n".join(f"pc-{n}" for n in range(5_000))}
    )
    assert many.status_code == 200, many.content
    assert len(ids(question('in set "Many"', standing=None))) == 5_000
    assert send(operator, "sets", {**body, "name": "x", "picked": "\n".join(map(str, range(5_001)))}).json()["field"]
