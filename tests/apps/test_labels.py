"""Labels printed and read back by a library of its own; found by those who work here, and by anybody else."""

import io
import json

import pypdfium2
import pytest
import zxingcpp

from tarn.apps.estate.register.reidentify import merge
from tarn.apps.labels.models import Label
from tarn.core.labels import CODE_KINDS, SHEETS

pytestmark = pytest.mark.django_db


def send(client, method, path, body):
    return getattr(client, method)(f"/api{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def printed(as_role, estate):
    client = as_role("operator")

    def made(**more):
        answer = send(client, "post", "/labels/print", {"sheet": "a4-24", "filter": "", **more})
        assert answer.status_code == 200, answer.content
        assert answer["Content-Type"] == "application/pdf"
        return pages(answer.content)

    return made


def pages(pdf):
    """What a reader of codes finds on each page, and the text on it."""
    out = []
    for page in pypdfium2.PdfDocument(io.BytesIO(pdf)):
        picture = page.render(scale=6).to_numpy()
        out.append(([c.text for c in zxingcpp.read_barcodes(picture)], page.get_textpage().get_text_range()))
    return out


def test_company_numbers_are_given_by_kind_with_a_check_digit_and_once(printed, as_role, estate):
    manager = as_role("manager")
    laptops = {"name": "Laptops", "kinds": ["laptop"], "prefix": "SF-L", "digits": 4, "check": "mod 11,10", "next": 794}
    assert send(manager, "post", "/labels/schemes", laptops).json()[0]["example"] == "SF-L07945"
    others = send(manager, "post", "/labels/schemes", {"name": "Others", "prefix": "SF-", "digits": 3}).json()
    assert [s["name"] for s in others] == ["Laptops", "Others"]
    ((_, text),) = printed(give_numbers=True)
    for number in ("SF-L07945", "SF-001", "SF-002", "SF-003"):
        assert number in text
    asked = {"filter": "own_number = SF-L07945", "fields": "name,own_number"}
    (row,) = manager.get("/api/assets", asked).json()["rows"]
    assert row["name"] == "salt-lt-01"
    ((_, again),) = printed(give_numbers=True)  # they have their numbers by now
    assert "SF-004" not in again
    assert "SF-L07945" in again
    assert [s["next"] for s in manager.get("/api/labels/choices").json()["schemes"]] == [795, 4]
    for wrong, field in (
        ({"kinds": ["laptop"]}, "kinds"),
        ({"kinds": []}, "kinds"),
        ({"kinds": ["till"], "digits": 0}, "digits"),
    ):
        refused = send(manager, "post", "/labels/schemes", {"name": "More", **wrong})
        assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_every_label_is_read_back_and_leads_to_its_device(printed, as_role, estate):
    ((codes, text),) = printed()
    assert len(codes) == 4
    found = {}
    for address in codes:
        told = as_role("viewer").get(f"/api/labels/{address.rpartition('/')[2]}").json()
        found[told["asset"]] = told
        assert told["number"] in text
        assert not told["moved"]
    assert set(found) == set(estate)


@pytest.mark.parametrize("kind", CODE_KINDS)
@pytest.mark.parametrize("sheet", ["a4-24", "a4-12", "strip-62", "letter-30"])
def test_each_kind_of_code_is_read_from_each_sheet(printed, kind, sheet):
    told = printed(code=kind, sheet=sheet)
    codes = [c for of_page, _ in told for c in of_page]
    assert len(codes) == 4
    assert {c.rpartition("/")[2] for c in codes} == set(Label.objects.values_list("code", flat=True))
    assert len(told) == -(-4 // SHEETS[sheet].of_page)


def test_a_label_is_printed_again_until_it_is_lost(printed, as_role, estate):
    printed(filter="kind = laptop")
    (first,) = Label.objects.all()
    printed(filter="kind = laptop")
    (same,) = Label.objects.all()
    assert (same.code, same.printed) == (first.code, 2)
    assert send(as_role("viewer"), "post", f"/labels/{first.code}/lost", {}).status_code == 403
    told = send(as_role("operator"), "post", f"/labels/{first.code}/lost", {}).json()
    assert told["lost_at"]
    printed(filter="kind = laptop")
    mine = as_role("viewer").get(f"/api/assets/{estate[2]}/labels").json()
    assert [(x["code"] == first.code, bool(x["lost_at"])) for x in mine] == [(False, False), (True, True)]
    assert as_role("viewer").get(f"/api/labels/{first.code}").json()["asset"] == estate[2], "it leads on all the same"


def test_a_label_goes_where_its_device_goes(printed, as_role, people, estate):
    printed(filter="kind = laptop")
    (label,) = Label.objects.all()
    merge(people["operator"], estate[0], estate[2])
    told = as_role("viewer").get(f"/api/labels/{label.code}").json()
    assert (told["asset"], told["moved"], told["printed_for"]) == (estate[0], True, label.number)


def test_whoever_finds_a_device_is_told_whom_to_call_and_nothing_of_it(printed, as_role, client, estate):
    said = {"company": "Skerrivane Ferries", "phone": "+00 555 0134", "words": "Bring it to any ferry.", "version": 0}
    assert send(as_role("operator"), "put", "/labels/words", said).status_code == 403
    assert send(as_role("manager"), "put", "/labels/words", said).status_code == 200
    assert send(as_role("manager"), "put", "/labels/words", said).status_code == 409
    ((_, text),) = printed(filter="kind = laptop")
    assert "Skerrivane Ferries" in text
    (label,) = Label.objects.all()
    answer = client.get(f"/api/found/{label.code.lower()}")
    assert answer.json() == {n: said[n] for n in ("company", "phone", "words")}
    assert client.get(f"/api/labels/{label.code}").status_code == 401
    wrong = client.get(f"/api/found/{label.code[:-1]}{'2' if label.code[-1] != '2' else '3'}")
    assert (wrong.status_code, "mistyped" in wrong.json()["detail"]) == (404, True)


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"sheet": "napkin"}, "sheet"),
        ({"code": "runes"}, "code"),
        ({"begin": 99}, "begin"),
        ({"right": 50}, "moved"),
        ({"filter": "memory > lots"}, "filter"),
        ({"filter": "name = nobody"}, "filter"),
        ({"filter": None}, "assets"),
        ({"filter": None, "assets": [987654321]}, "assets"),
        ({"expected": 3}, "expected"),
    ],
)
def test_what_cannot_be_printed_is_refused_at_its_place(as_role, estate, body, field):
    answer = send(as_role("operator"), "post", "/labels/print", {"sheet": "a4-24", "filter": "", **body})
    assert answer.status_code == 422
    assert field in json.dumps(answer.json())
    assert not Label.objects.exists()


def test_nonsense_is_refused_and_breaks_nothing(as_role, estate):
    client = as_role("operator")
    body = '{"sheet": "a4-24", "filter": "", "right": NaN}'
    assert client.post("/api/labels/print", body, content_type="application/json").status_code == 422
    for asset in (10**30, 987654321):
        assert client.get(f"/api/assets/{asset}/labels").status_code == 404
    for code in ("ß" * 9, "%00", "A" * 4_000, "........."):
        assert client.get(f"/api/labels/{code}").status_code == 404
        assert client.get(f"/api/found/{code}").status_code == 404
