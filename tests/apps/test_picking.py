"""Devices picked one by one: a column pasted out of a spreadsheet keeps its order, and files keep it too."""

import csv
import io
import re
from datetime import date

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


def a_list(**changes):
    heads = [{"label": "Order"}, {"label": "Units", "number": True}, {"label": "Due"}, {"label": "Said"}]
    rows = [["0711", 12, "2026-03-01", "=1+1"], ["0712", "1250.50", "", "a, b"], ["0713", None, "2026-04-02", None]]
    return {"name": "Orders: März", "columns": heads, "rows": rows, **changes}


@pytest.mark.django_db
def test_any_list_of_the_screen_is_a_file_as_it_stands(as_role):
    client = as_role("viewer")
    answer = post(client, "reports/listed/csv", a_list())
    assert re.search(r'filename="orders-marz-\d{4}-\d\d-\d\d\.csv"', answer["Content-Disposition"])
    lines = list(csv.reader(io.StringIO(body(answer).decode("utf-8-sig"))))
    assert lines[:3] == [
        ["Order", "Units", "Due", "Said"],
        ["0711", "12", "2026-03-01", "'=1+1"],
        ["0712", "1250.5", "", "a, b"],
    ]
    book = openpyxl.load_workbook(io.BytesIO(body(post(client, "reports/listed/xlsx", a_list()))))
    first = [cell.value for cell in book["Report"][2]]
    assert first[:2] == ["0711", 12], "a number that is a name keeps its nought"
    assert (first[2].date(), first[3]) == (date(2026, 3, 1), "=1+1")
    assert body(post(client, "reports/listed/ods", a_list()))[:2] == b"PK"


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"rows": [["0711"]]}, "Row 1 has 1 cells; there are 4 columns."),
        ({"columns": [], "rows": []}, "without columns"),
        ({"columns": [{"label": "A"}], "rows": [["x"]] * 200_001}, "200,001 cells is too long"),
    ],
)
def test_a_list_that_is_none_is_refused_by_its_place(as_role, wrong, said):
    answer = post(as_role("viewer"), "reports/listed/xlsx", a_list(**wrong))
    assert (answer.status_code, said in answer.json()["detail"]) == (422, True)
    assert post(as_role("viewer"), "reports/listed/pdf", a_list()).status_code == 404


@pytest.mark.django_db
def test_days_that_are_none_stay_text_in_a_file(as_role):
    days = a_list(columns=[{"label": "Due"}], rows=[["2026-02-30"], ["2026-02-28"]])
    book = openpyxl.load_workbook(io.BytesIO(body(post(as_role("viewer"), "reports/listed/xlsx", days))))
    assert [row[0].value for row in book["Report"].iter_rows(min_row=2)] == ["2026-02-30", "2026-02-28"]
