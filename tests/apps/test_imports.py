"""Files of devices: any encoding and separator, a rehearsal that stores nothing, all or nothing, and undone."""

import io
import json
import zipfile

import openpyxl
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tarn.apps.discovery.models import FileImport
from tarn.apps.estate.door.rebuild import differences, rebuild_beside
from tarn.apps.estate.models import Asset, AssetSpan, Sighting
from tarn.apps.estate.store.database import raw_connection

pytestmark = pytest.mark.django_db(transaction=True)

CSV = (
    "Computer name;Serial number;Maker;RAM (GB);Assigned to\n"
    "salt-tix-01;HB-1001;Halberd;32;Una Skerry\n"
    "kitt-pc-77;HB-7701;Halberd;16;Bengt Öster\n"
    "kitt-pc-78;HB-7702;Halberd;plenty;Nell Stroma\n"
    ";;Halberd;8;\n"
)


def workbook(parts=None):
    """The octets of a workbook, some of its parts exchanged."""
    book, out = openpyxl.Workbook(), io.BytesIO()
    book.active.append(["name", "serial"])
    for n in range(40):
        book.active.append([f"pc-{n}", f"SN-{n:05d}"])
    book.save(out)
    if not parts:
        return out.getvalue()
    changed = io.BytesIO()
    with zipfile.ZipFile(out) as before, zipfile.ZipFile(changed, "w", zipfile.ZIP_DEFLATED) as after:
        for name in {*before.namelist(), *parts}:
            after.writestr(name, parts[name] if name in parts else before.read(name))
    return changed.getvalue()


with zipfile.ZipFile(io.BytesIO(workbook())) as _archive:
    SHEET = _archive.read("xl/worksheets/sheet1.xml")


def upload(client, name, content):
    return client.post("/api/imports", {"file": SimpleUploadedFile(name, content)})


def rehearsed(client, number):
    return client.post(f"/api/imports/{number}/rehearse").json()


def person_of(serial):
    return AssetSpan.objects.get(serial=serial, valid_to=None).person_id


@pytest.fixture
def manager(as_role):
    return as_role("manager")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "cp1252", "utf-16"])
def test_a_file_is_rehearsed_carried_out_and_undone(estate, manager, tmp_path, encoding):
    made = upload(manager, "list.csv", CSV.encode(encoding)).json()
    assert made["first"][1]["Assigned to"] == "Bengt Öster"
    assert {t: m["from"] for t, m in made["mapping"].items()} == {
        "name": "Computer name",
        "serial": "Serial number",
        "manufacturer": "Maker",
        "memory": "RAM (GB)",
        "person": "Assigned to",
    }
    before = Asset.objects.count(), Sighting.objects.count()
    found = rehearsed(manager, made["id"])
    assert found["counts"] == {"created": 1, "changed": 1, "matched": 0, "waits for a person": 0, "refused": 2}
    assert [r["row"] for r in found["refused"]] == [4, 5]
    assert "plenty" in found["refused"][0]["why"]
    assert (Asset.objects.count(), Sighting.objects.count()) == before
    done = manager.post(f"/api/imports/{made['id']}/carry-out").json()
    assert (done["state"], done["counts"]["created"]) == ("done", 1)
    assert person_of("HB-7701") is not None
    refused = manager.get(f"/api/imports/{made['id']}/refused.csv").content.decode()
    assert "plenty" in refused
    assert refused.startswith("row,reason,Computer name")
    entry = next(e["id"] for e in manager.get("/api/audit").json() if e["verb"] == "imported a file")
    assert manager.post(f"/api/audit/{entry}/undo").status_code == 200
    assert not AssetSpan.objects.filter(serial="HB-7701", valid_to=None).exists()
    assert FileImport.objects.get().state == "undone"
    assert Sighting.objects.filter(verdict="withdrawn").count() == 2
    db = raw_connection()
    assert differences(db, rebuild_beside(db, tmp_path)) == []


def test_a_corrected_mapping_is_remembered_for_the_next_file_of_its_shape(estate, manager):
    made = upload(manager, "list.csv", CSV.encode()).json()
    mapping = {k: v for k, v in made["mapping"].items() if k != "memory"}
    call = f"/api/imports/{made['id']}"
    assert (
        manager.put(call, {"name": "Spring list", "mapping": mapping}, content_type="application/json").status_code
        == 200
    )
    assert manager.post(f"{call}/carry-out").status_code == 422  # rehearse first
    assert rehearsed(manager, made["id"])["counts"]["refused"] == 1
    manager.post(f"{call}/carry-out")
    assert upload(manager, "again.csv", CSV.encode()).json()["mapping"] == mapping
    assert manager.post(f"{call}/carry-out").status_code == 422  # done is done: nothing is doubled


def test_a_workbook_json_and_leases_are_read_alike(manager):
    book = openpyxl.Workbook()
    for row in [
        ["Serial number", "Manufacturer", "Host name"],
        ["HB-7801", "Halberd", "a"],
        [None, None, None],
        ["HB-7802", "Halberd", "b"],
    ]:
        book.active.append(row)
    held = io.BytesIO()
    book.save(held)
    workbook = upload(manager, "list.xlsx", held.getvalue()).json()
    assert rehearsed(manager, workbook["id"])["counts"]["created"] == 2
    rows = {"devices": [{"id": 1, "hardware": {"serial": "HB-7901"}, "name": "c"}]}
    made = upload(manager, "list.json", json.dumps(rows).encode()).json()
    assert made["headings"] == ["id", "hardware.serial", "name"]
    leases = "".join(
        f'lease 10.60.9.{n} {{\n  ends 3 2026/11/2{n} 08:00:00;\n  hardware ethernet 7c:1e:b0:00:00:0{n};\n  client-hostname "pc-{n}";\n}}\n'
        for n in (1, 2, 1)
    )
    made = upload(manager, "dhcpd.leases", leases.encode()).json()
    assert made["mapping"]["mac"]["from"] == "hardware address"
    assert rehearsed(manager, made["id"])["counts"]["created"] == 2
    kea = "address,hwaddr,client_id,valid_lifetime,expire,subnet_id,fqdn_fwd,fqdn_rev,hostname,state\n10.60.9.9,7c:1e:b0:00:00:09,,3600,1790000000,1,0,0,pc-9,0\n"
    made = upload(manager, "kea-leases4.csv", kea.encode()).json()
    assert made["mapping"]["mac"]["from"] == "hwaddr"
    assert made["mapping"]["address"]["from"] == "address"


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("empty.csv", b"", "is empty"),
        ("picture.png", b"\x89PNG\x00\x00\x01", "no text"),
        ("broken.xlsx", b"PK\x03\x04 broken", "workbook"),
        ("bomb.xlsx", workbook({"xl/sharedStrings.xml": b" " * (97 << 20)}), "unpacks to too much"),
        ("cut.xlsx", workbook({"xl/worksheets/sheet1.xml": SHEET[: len(SHEET) // 2]}), "broken after row"),
        ("bad.json", b"[{]", "no JSON"),
        ("wide.csv", (",".join(f"c{i}" for i in range(300)) + "\n").encode(), "300 columns"),
    ],
)
def test_what_is_no_table_is_refused_by_name(manager, name, content, says):
    answer = upload(manager, name, content)
    assert (answer.status_code, answer.json()["field"]) == (422, "file")
    assert says in answer.json()["detail"]


def test_columns_that_do_not_fit_are_named_and_only_planners_import(manager, as_role):
    assert upload(as_role("operator"), "list.csv", CSV.encode()).status_code == 403
    made = upload(manager, "list.csv", b"colour,size\nred,4\n").json()
    assert made["mapping"] == {}
    call = f"/api/imports/{made['id']}"
    for mapping in ({}, {"serial": {"from": "nowhere"}}, {"shoe": {"from": "size"}}):
        answer = manager.put(call, {"name": "x", "mapping": mapping}, content_type="application/json")
        assert (answer.status_code, answer.json()["field"]) == (422, "mapping")


def test_an_import_broken_off_goes_on_and_doubles_nothing(estate, manager, monkeypatch):
    made = upload(manager, "list.csv", CSV.encode()).json()
    rehearsed(manager, made["id"])
    before = Sighting.objects.count()
    manager.raise_request_exception = False
    monkeypatch.setattr("tarn.apps.discovery.imports.change.record", lambda *a, **k: 1 / 0)
    assert manager.post(f"/api/imports/{made['id']}/carry-out").status_code == 500
    monkeypatch.undo()
    done = manager.post(f"/api/imports/{made['id']}/carry-out").json()
    assert (done["state"], done["counts"]["matched"]) == ("done", 2)
    assert Sighting.objects.count() == before + 2


def test_a_bill_of_materials_becomes_software_of_its_asset(estate, manager):
    bom = {"bomFormat": "CycloneDX", "components": [{"name": "keel", "version": "2.1"}]}
    call = f"/api/assets/{estate[0]}/sbom"
    answer = manager.post(call, {"file": SimpleUploadedFile("app.cdx.json", json.dumps(bom).encode())})
    assert answer.json()["asset"] == "A-00001"
    assert any(r["name"] == "keel" for r in manager.get(f"/api/assets/{estate[0]}").json()["software"])
    wrong = manager.post(call, {"file": SimpleUploadedFile("app.cdx.json", b"{}")})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "file")


def test_titles_above_the_headings_are_passed_over_and_the_row_can_be_chosen(manager):
    content = b"Deck list\nas of 3 November\n\nAsset no.;Serial number;Computer name\n12;PRN-100;printer-9\n13;PRN-101;printer-10\n"
    made = upload(manager, "list.csv", content).json()
    assert (made["heading"], made["headings"]) == (4, ["Asset no.", "Serial number", "Computer name"])
    assert {t: m["from"] for t, m in made["mapping"].items()} == {
        "own_number": "Asset no.",
        "serial": "Serial number",
        "name": "Computer name",
    }
    call = f"/api/imports/{made['id']}"
    answer = manager.put(call, {"name": "x", "mapping": made["mapping"], "heading": 9}, content_type="application/json")
    assert (answer.status_code, answer.json()["field"]) == (422, "heading")
    other = manager.put(
        call, {"name": "x", "mapping": made["mapping"], "heading": 1}, content_type="application/json"
    ).json()
    assert other["headings"] == ["Deck list"]
    back = manager.put(call, {"name": "x", "mapping": {}, "heading": 4}, content_type="application/json").json()
    assert back["mapping"] == made["mapping"]
    assert rehearsed(manager, made["id"])["counts"]["created"] == 2


def test_a_company_number_is_not_tarns_and_puts_no_printers_serial_on_a_workstation(estate, manager):
    """Asset A-00001 is a workstation; a list's asset no. 1 is a printer of the list's own."""
    before = AssetSpan.objects.get(asset=estate[0], valid_to=None).serial
    made = upload(manager, "list.csv", b"Asset no.,Serial number\nA-00001,PRN-100\n").json()
    rehearsed(manager, made["id"])
    manager.post(f"/api/imports/{made['id']}/carry-out")
    assert AssetSpan.objects.get(asset=estate[0], valid_to=None).serial == before
    printer = AssetSpan.objects.get(serial="PRN-100", valid_to=None).asset_id
    told = "SELECT asset_id, value FROM estate_fieldspan WHERE field = 'own_number'"
    assert raw_connection().execute(told).fetchall() == [(printer, '"A-00001"')]
    wrong = upload(manager, "wrong.csv", b"Tarn number,Serial number,Name\nA-00001,PRN-200,printer-2\n").json()
    assert rehearsed(manager, wrong["id"])["counts"]["waits for a person"] == 1


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (b'Name,Serial\n"pc-1,HB-1001\npc-2,HB-1002\n', "line 2: a quote opens there and is never closed"),
        (b'Name,Serial\n"pc-1"x,HB-1001\n', "line 2"),
    ],
)
def test_a_quote_that_is_not_closed_is_refused_with_its_line(manager, content, says):
    answer = upload(manager, "list.csv", content)
    assert (answer.status_code, answer.json()["field"]) == (422, "file")
    assert says in answer.json()["detail"]


def test_cells_without_a_heading_are_said(manager):
    made = upload(manager, "list.csv", b"Name,Serial\npc-1,HB-1001\npc-2,HB-1002,and more\n").json()
    found = rehearsed(manager, made["id"])
    assert (found["counts"]["created"], [r["why"] for r in found["refused"]]) == (
        1,
        ["It has a cell more than headings: “and more”."],
    )


def test_what_may_mean_two_things_is_asked_once_for_the_file_and_the_company_has_a_currency(manager):
    content = b"Serial;Price;Purchase date\nHB-9001;1.200;03/04/2026\nHB-9002;12,50;05/06/2026\n"
    made = upload(manager, "list.csv", content).json()
    found = rehearsed(manager, made["id"])
    assert [q["name"] for q in found["questions"]] == ["dates"], "12,50 shows what a comma is"
    assert found["counts"]["refused"] == 2
    call = f"/api/imports/{made['id']}"
    body = {"name": "x", "mapping": made["mapping"], "written": {"dates": "day first"}}
    assert manager.put(call, body, content_type="application/json").json()["written"] == {"dates": "day first"}
    found = rehearsed(manager, made["id"])
    assert (found["questions"], found["counts"]["created"]) == ([], 2)
    manager.post(f"{call}/carry-out")
    asset = AssetSpan.objects.get(serial="HB-9001", valid_to=None).asset_id
    told = "SELECT field, value FROM estate_fieldspan WHERE asset_id = ? AND valid_to IS NULL"
    claims = dict(raw_connection().execute(told, (asset,)).fetchall())
    assert (claims["price"], claims["currency"]) == ("120000", '"EUR"')
    assert int(claims["bought_at"]) == 1_775_174_400  # 2026-04-03
