"""Reports from definition to file."""

import io
import json
import time
import zipfile
from xml.etree import ElementTree

import openpyxl
import pytest
from asgiref.sync import async_to_sync

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import Person
from tarn.apps.reports.models import Report
from tarn.apps.reports.reads.asking import ask
from tarn.apps.reports.shipped import shipped
from tarn.core.reports import Definition
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db

BY_PLACE = {
    "row": "asset",
    "columns": [
        {"field": "place"},
        {"field": "name"},
        {"field": "memory"},
        {"formula": "memory / cores", "label": "per core"},
    ],
    "filter": "kind = server",
    "group_by": ["place"],
    "totals": [{"column": "memory", "function": "sum"}],
    "sort": "-memory",
}
BY_PLACE["columns"].insert(3, {"field": "cores"})


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


async def whole(answer):
    return b"".join([piece async for piece in answer.streaming_content])


def body(answer):
    return async_to_sync(whole)(answer) if answer.is_async else b"".join(answer.streaming_content)


@pytest.fixture
def composed(as_role, estate):
    return send(as_role("operator"), "reports/composed", {"name": "Servers", "definition": BY_PLACE}).json()["key"]


def test_every_report_that_ships_can_be_asked_now_and_then(estate):
    assert len(shipped()) >= 40
    for one in shipped().values():
        for at in (None, START + 5 * DAY):
            lines = list(ask(one.definition, at).lines)
            assert all(len(li.values) == len(one.definition.columns) for li in lines if li.kind == "row"), one.key


def test_a_row_may_be_a_person_counted_among_the_devices_asked_of(estate, people):
    """Una holds a laptop; whoever has nothing to do with the devices asked of is not listed."""
    for name, department in (("Una Skerry", "Fleet"), ("Piet Harrowgate", "Ticketing")):
        Person.objects.create(source="D", key=name, name=name, department=department, joined_at=1, last_sync=1)
    decide(people["operator"], estate[2:3], {"kind": "laptop", "person": "Una Skerry"}, "adopted")
    definition = Definition.model_validate(
        {"row": "person", "columns": [{"field": n} for n in ("name", "department", "holds")], "sort": "name"}
    )
    everybody = [line.values for line in ask(definition, None).lines]
    assert ["Una Skerry", "Fleet", 1] in everybody
    assert ["Piet Harrowgate", "Ticketing", 0] in everybody
    held = definition.model_copy(update={"filter": "kind = laptop"})
    assert [line.values[0] for line in ask(held, None).lines] == ["Una Skerry"]


def test_a_report_is_composed_with_a_preview_grouped_and_read_as_of_a_past_day(as_role, estate, composed):
    operator = as_role("operator")
    told = send(operator, "reports/preview", {"definition": BY_PLACE}).json()
    assert told["sentence"] == "assets whose kind is server"
    shown = operator.get(f"/api/reports/shown/{composed}").json()
    assert [c["label"] for c in shown["columns"]] == ["Place", "Name", "Memory (GB)", "Cores", "per core"]
    rows = [(li["kind"], li["values"] or li["keys"], li["said"]) for li in shown["lines"]]
    assert rows == [
        ("row", ["Port Averne", "avrn-gate-01", 8.0, None, None], ""),
        ("group", ["Port Averne"], "sum of Memory (GB): 8.0"),
        ("row", ["Saltholm", "salt-tix-01", 32.0, 8, 4 << 30], ""),
        ("group", ["Saltholm"], "sum of Memory (GB): 32.0"),
        ("whole", [], "sum of Memory (GB): 40.0"),
    ]
    past = time.strftime("%Y-%m-%d", time.gmtime(START + 5 * DAY))
    everything = {**BY_PLACE, "filter": "standing in (register, intake) and name ~ tix", "group_by": []}
    then = send(operator, f"reports/preview?as_of={past}", {"definition": everything}).json()
    assert [li["values"][2] for li in then["lines"] if li["kind"] == "row"] == [16.0], "as it was on that day"


def test_the_workbook_read_back_says_the_same_with_numbers_as_numbers(as_role, estate, composed):
    answer = as_role("viewer").get(f"/api/reports/shown/{composed}/xlsx")
    book = openpyxl.load_workbook(io.BytesIO(b"".join(answer.streaming_content)))
    rows = [[c.value for c in r] for r in book["Report"].iter_rows()]
    assert rows[0] == ["Place", "Name", "Memory (GB)", "Cores", "per core"]
    assert rows[3][:4] == ["Saltholm", "salt-tix-01", 32, 8]
    assert rows[2][0].startswith("Port Averne: 1 row; sum of Memory (GB): 8")
    about = {r[0].value: r[1].value for r in book["About"].iter_rows()}
    assert about["Question"] == "assets whose kind is server"
    assert about["As of"] == "now"


DETAILED = {
    "columns": [{"field": "name"}],
    "filter": "kind = server",
    "details": [
        {"row": "disks", "columns": ["name", "size"]},
        {"row": "interfaces", "columns": ["name"], "inner": "speed > 500Mb"},
    ],
}


def test_what_is_listed_under_rows_is_in_every_file(as_role, estate):
    operator = as_role("operator")
    shown = send(operator, "reports/preview", {"definition": DETAILED}).json()
    assert [(b["label"], [c["label"] for c in b["columns"]]) for b in shown["blocks"]] == [
        ("disks", ["Name", "Size (GB)"]),
        ("interfaces", ["Name"]),
    ]
    under = {line["values"][0]: line["details"] for line in shown["lines"]}
    assert under == {"salt-tix-01": [[["sda", 480.0]], []], "avrn-gate-01": [[], [["eth0"]]]}
    key = send(operator, "reports/composed", {"name": "Inside", "definition": DETAILED}).json()["key"]

    def file(kind):
        return body(operator.get(f"/api/reports/shown/{key}/{kind}"))

    assert "\r\nsalt-tix-01\r\n,disks,Name,Size (GB)\r\n,,sda,480.0\r\n" in file("csv").decode()
    told = json.loads(file("json"))
    assert told["rows"][1] == {"row": ["salt-tix-01"], "details": {"disks": [["sda", 480 * 10**9]]}}
    assert [c["name"] for c in told["blocks"]["interfaces"]] == ["name"]
    book = openpyxl.load_workbook(io.BytesIO(file("xlsx")))
    cells = [[c.value for c in r] for r in book["Report"].iter_rows()]
    assert cells[-2:] == [[None, "disks", "Name", "Size (GB)"], [None, None, "sda", 480]]
    assert book["Report"].row_dimensions[len(cells)].outlineLevel == 1
    assert "<caption>interfaces</caption>" in file("html").decode()
    assert file("pdf").startswith(b"%PDF")
    assert b"content.xml" in file("ods")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"row": "ports"}, "Only a device has lists"),
        ({"details": [{"row": "sails", "columns": ["name"]}]}, "“sails” is no list"),
        ({"details": [{"row": "disks", "columns": ["nmae"]}]}, "Did you mean name"),
        ({"details": [{"row": "disks", "columns": []}]}, "needs at least one column"),
    ],
)
def test_a_block_that_cannot_be_is_refused_at_its_field(as_role, estate, change, says):
    definition = {**DETAILED, **change}
    if "row" in change:
        definition["columns"] = [{"field": "port"}]
    refused = send(as_role("operator"), "reports/preview", {"definition": definition})
    assert (refused.status_code, refused.json()["field"]) == (422, "details")
    assert says in refused.json()["detail"]


def test_other_files_carry_question_and_day_and_run_no_formula(as_role, estate):
    take_in_name = next(take_in([sighting('=HYPERLINK("x")', 0, identity={"serial": "Q-1"})]))
    key = send(
        as_role("operator"),
        "reports/composed",
        {
            "name": "All",
            "definition": {"columns": [{"field": "name"}, {"field": "first_seen"}], "filter": "standing = intake"},
        },
    ).json()["key"]
    assert take_in_name.asset
    viewer = as_role("viewer")
    text = body(viewer.get(f"/api/reports/shown/{key}/csv")).decode()
    assert '"\'=HYPERLINK(""x"")"' in text
    assert text.startswith("# Report,All\r\n# Question,assets whose standing is intake")
    data = json.loads(body(viewer.get(f"/api/reports/shown/{key}/json")))
    assert ([c["name"] for c in data["columns"]], data["as_of"]) == (["name", "first_seen"], "now")
    html = body(viewer.get(f"/api/reports/shown/{key}/html")).decode()
    assert "&lt;" not in html.split("<tbody>")[0]
    assert "=HYPERLINK(&quot;x&quot;)" in html
    pdf = b"".join(viewer.get(f"/api/reports/shown/{key}/pdf").streaming_content)
    assert pdf.startswith(b"%PDF-")
    book = openpyxl.load_workbook(io.BytesIO(b"".join(viewer.get(f"/api/reports/shown/{key}/xlsx").streaming_content)))
    cell = book["Report"]["A2"]
    assert (cell.data_type, cell.value) == ("s", '=HYPERLINK("x")')
    assert book["Report"]["B2"].is_date
    assert viewer.get(f"/api/reports/shown/{key}/doc").status_code == 404


def test_the_opendocument_sheet_read_back_says_the_same(as_role, estate, composed):
    answer = as_role("viewer").get(f"/api/reports/shown/{composed}/ods")
    packed = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
    first = packed.infolist()[0]
    assert (first.filename, first.compress_type) == ("mimetype", zipfile.ZIP_STORED)
    assert packed.read("mimetype").decode() == answer["Content-Type"]
    names = {n: f"{{urn:oasis:names:tc:opendocument:xmlns:{n}:1.0}}" for n in ("table", "office", "text")}
    report, about = ElementTree.fromstring(packed.read("content.xml")).iter(f"{names['table']}table")

    def rows(sheet):
        for row in sheet.iter(f"{names['table']}table-row"):
            yield [
                float(c.get(f"{names['office']}value")) if c.get(f"{names['office']}value") else "".join(c.itertext())
                for c in row
            ]

    told = list(rows(report))
    assert told[0] == ["Place", "Name", "Memory (GB)", "Cores", "per core"]
    assert told[3][:4] == ["Saltholm", "salt-tix-01", 32.0, 8.0]
    assert told[2][0].startswith("Port Averne: 1 row; sum of Memory (GB): 8")
    assert ["Question", "assets whose kind is server"] in list(rows(about))


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"columns": [{"field": "nmae"}]}, "columns"),
        ({"filter": "knid = server"}, "filter"),
        (
            {
                "row": "disks",
                "columns": [{"field": "name"}],
                "inner": "sise > 1",
                "group_by": [],
                "totals": [],
                "sort": "",
            },
            "inner",
        ),
        ({"days": 9000}, "days"),
        ({"toy": 1}, "toy"),
    ],
)
def test_a_report_that_cannot_be_is_refused_at_its_field(as_role, estate, change, field):
    refused = send(as_role("operator"), "reports/composed", {"name": "x", "definition": {**BY_PLACE, **change}})
    assert (refused.status_code, refused.json()["field"]) == (422, field)
    assert not Report.objects.exists()


def test_an_edit_from_an_older_version_is_refused(as_role, estate, composed):
    operator = as_role("operator")
    edit = {"name": "Servers", "definition": {**BY_PLACE, "sort": "name"}, "version": 1}
    assert send(operator, f"reports/composed/{composed}", edit, "put").status_code == 200
    assert send(operator, f"reports/composed/{composed}", edit, "put").status_code == 409
    assert operator.delete(f"/api/reports/composed/{composed}").status_code == 204
    assert operator.get(f"/api/reports/shown/{composed}").status_code == 404


def test_a_preview_tells_the_figures_of_all_rows_and_a_lifecycle_report_is_copied(as_role, estate):
    operator = as_role("operator")
    columns = [{"field": n} for n in ("kind", "name", "memory", "first_seen", "last_seen")]
    columns.append({"formula": "last_seen - first_seen", "label": "Known for"})
    totals = [{"column": "name", "function": "count"}]
    definition = {"columns": columns, "group_by": ["kind"], "totals": totals}
    told = send(operator, "reports/preview?limit=1", {"definition": definition}).json()
    assert [li["kind"] for li in told["lines"]] == ["row", "group", "whole"]
    assert (told["cut"], told["lines"][-1]["rows"], "4 with name" in told["lines"][-1]["said"]) == (True, 4, True)
    assert isinstance(told["lines"][0]["values"][-1], int | float)
    body = {"name": "Ends, ours", "room": "Lifecycle", "definition": definition}
    assert send(operator, "reports/composed", body).status_code == 200
    narrowed = {"row": "product", "columns": [{"field": "name"}], "inner": 'verdict = "none yet" and devices > 1'}
    rows = send(operator, "reports/preview", {"definition": narrowed}).json()["lines"]
    assert [r["values"] for r in rows if r["kind"] == "row"] == [["quill-office"]]
