"""Devices picked one by one: a column pasted out of a spreadsheet keeps its order, and files keep it too."""

import csv
import io

import openpyxl
import pytest

from tarn.apps.estate.models import AssetSpan
from tests.apps.test_reports import body


def post(client, path, body, **params):
    return client.post(f"/api/{path}", body, content_type="application/json", query_params=params)


@pytest.fixture
def rows(estate):
    spans = AssetSpan.objects.filter(valid_to=None, asset_id__in=estate).select_related("asset").order_by("-asset_id")
    return list(spans)


@pytest.mark.django_db
def test_a_column_stands_for_devices_in_its_order_whatever_tells_them(as_role, rows):
    client = as_role("viewer")
    first, second, third = rows[:3]
    words = [
        second.name.upper() + ".skerrivane.example",
        "nobody-1",
        "",
        third.asset.number.lower(),
        first.name,
        first.name,
    ]
    told = post(client, "register/pasted", {"words": words}).json()
    assert told["numbers"] == [second.asset.number, third.asset.number, first.asset.number]
    assert (told["missing"], told["several"]) == (["nobody-1"], {})
    asked = f"number in ({', '.join(told['numbers'])})"
    page = client.get("/api/assets", {"filter": asked, "fields": "number", "sort": "given"}).json()
    assert [r["number"] for r in page["rows"]] == told["numbers"]
    turned = client.get("/api/assets", {"filter": asked, "fields": "number", "sort": "-given", "limit": 2}).json()
    assert [r["number"] for r in turned["rows"]] == told["numbers"][::-1][:2]


@pytest.mark.django_db
@pytest.mark.parametrize("column", ["serial", "address", "mac", "name"])
def test_a_word_may_be_a_serial_an_address_a_mac_or_a_name(as_role, rows, column):
    held = next(r for r in rows if getattr(r, column) or column == "mac")
    AssetSpan.objects.filter(pk=held.pk).update(mac="02:00:0a:3c:04:15")
    held.refresh_from_db()
    value = getattr(held, column)
    spelt = {"mac": value.replace(":", "-").upper(), "serial": f'"{value.lower()}"'}.get(column, f" {value} ")
    told = post(as_role("viewer"), "register/pasted", {"words": [spelt]}).json()
    assert held.asset.number in told["numbers"]
    assert told["missing"] == []


@pytest.mark.django_db
def test_a_word_that_several_share_names_them_and_too_many_are_refused(as_role, rows):
    AssetSpan.objects.filter(pk__in=[rows[0].pk, rows[1].pk]).update(serial="TWIN-1")
    told = post(as_role("viewer"), "register/pasted", {"words": ["twin-1"]}).json()
    assert set(told["several"]["twin-1"]) == {rows[0].asset.number, rows[1].asset.number} == set(told["numbers"])
    refused = post(as_role("viewer"), "register/pasted", {"words": [f"pc-{n}" for n in range(2_001)]})
    assert (refused.status_code, refused.json()["field"]) == (422, "words")
    assert "2,001 words are too many at once" in refused.json()["detail"]


@pytest.mark.django_db
def test_all_of_a_selection_can_be_ticked_over_all_pages(as_role, rows):
    told = as_role("viewer").get("/api/register/numbers", {"filter": ""}).json()
    assert {r["number"] for r in told} == {r.asset.number for r in rows}


@pytest.mark.django_db
def test_a_selection_opens_right_in_a_spreadsheet(as_role, rows):
    client, numbers = as_role("viewer"), [r.asset.number for r in rows[:2]]
    params = {"filter": f"number in ({', '.join(numbers)})", "fields": "number,name,memory,last_seen", "sort": "given"}
    answer = client.get("/api/reports/asked/csv", params)
    text = body(answer).decode()
    assert text[0] == "\ufeff", "a spreadsheet knows by it that this is UTF-8"
    lines = list(csv.reader(io.StringIO(text[1:])))
    assert lines[0][:2] == ["Number", "Name"]
    assert [line[0] for line in lines[1:]] == numbers
    book = openpyxl.load_workbook(io.BytesIO(body(client.get("/api/reports/asked/xlsx", params))))
    sheet = book["Report"]
    assert [sheet.cell(n, 1).value for n in (2, 3)] == numbers
    assert sheet.cell(2, 4).is_date
    by_memory = {"fields": "number", "sort": "-memory", "filter": "memory > 0"}
    asked = client.get("/api/assets", {**by_memory, "limit": 500}).json()["rows"]
    text = body(client.get("/api/reports/asked/csv", by_memory)).decode()
    assert text.split()[1:] == [r["number"] for r in asked], "by a column that is not shown"
    assert client.get("/api/reports/asked/csv", {**by_memory, "sort": "shoe"}).status_code == 422
    assert client.get("/api/reports/asked/doc", params).status_code == 404
    assert client.get("/api/reports/asked/csv", {**params, "fields": "shoe"}).status_code == 422


@pytest.mark.django_db
def test_a_value_is_emptied_of_many_whoever_said_it_and_given_back(as_role, rows, people):
    manager, operator = as_role("manager"), as_role("administrator")
    three = [r.asset_id for r in rows[:3]]
    read = {a: AssetSpan.objects.get(asset_id=a, valid_to=None).person_id for a in three}
    assert post(manager, "decide", {"assets": three[:2], "person": "Una Skerry", "note": "kept"}).status_code == 200
    assert post(operator, "decide", {"assets": three[2:], "person": "Piet Quay"}).status_code == 200
    answer = post(manager, "empty", {"assets": three, "fields": ["person"]})
    assert (answer.status_code, answer.json()["assets"]) == (200, 3)
    held = {a: AssetSpan.objects.get(asset_id=a, valid_to=None) for a in three}
    assert {a: s.person_id for a, s in held.items()} == read
    assert held[three[0]].note == "kept"
    assert post(manager, f"audit/{answer.json()['entry']}/undo", {}).status_code == 200
    asked = manager.get("/api/assets", {"filter": 'person = "Piet Quay"', "fields": "number"}).json()
    assert [r["id"] for r in asked["rows"]] == three[2:]
    assert manager.get("/api/assets", {"filter": 'person = "Una Skerry"'}).json()["total"] == 2


@pytest.mark.django_db
def test_what_nobody_said_cannot_be_taken_back(as_role, rows):
    manager = as_role("manager")
    nothing = post(manager, "empty", {"assets": [rows[0].asset_id], "fields": ["note"]})
    assert (nothing.status_code, "Nobody has said" in nothing.json()["detail"]) == (422, True)
    wrong = post(manager, "empty", {"assets": [rows[0].asset_id], "fields": ["serial"]})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "fields")
    others = post(manager, "empty", {"filter": "", "expected": 99, "fields": ["note"]})
    assert others.status_code == 409
