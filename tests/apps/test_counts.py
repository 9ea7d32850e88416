"""Stock-taking: opened, counted by several and from phones, settled, closed; its protocol can be checked by anybody."""

import io
import json
import time
import uuid
import zipfile

import pypdfium2
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from typer.testing import CliRunner

from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.reidentify import merge
from tarn.apps.people.models import AuditEntry
from tarn.core.count_protocol import verify_protocol
from tarn.site.cli import app

pytestmark = pytest.mark.django_db


def send(client, method, path, body):
    return getattr(client, method)(f"/api{path}", json.dumps(body), content_type="application/json")


class Taking:
    """A count, and somebody who counts."""

    def __init__(self, client, **more):
        self.client = client
        made = send(client, "post", "/counts", {"name": "Autumn", "filter": "", **more})
        assert made.status_code == 200, made.content
        self.path = f"/counts/{made.json()['id']}"

    def met(self, *codes, by=None, **more):
        sent_at = more.pop("sent_at", None)
        several = [{"key": uuid.uuid4().hex, "code": code, **more} for code in codes]
        answer = send(by or self.client, "post", f"{self.path}/met", {"met": several, "sent_at": sent_at})
        assert answer.status_code == 200, answer.content
        return answer.json()

    def whole(self):
        return self.client.get(f"/api{self.path}").json()

    def lines(self, **asked):
        return self.client.get(f"/api{self.path}/lines", asked).json()["lines"]

    def settle(self, act, *lines, words=""):
        body = {"act": act, "words": words}
        body["expected"] = [line["expected"] for line in lines if line["expected"]]
        body["met"] = [line["met"] for line in lines if not line["expected"]]
        return send(self.client, "post", f"{self.path}/settle", body)

    def close(self):
        return send(self.client, "post", f"{self.path}/close", {})


@pytest.fixture
def taking(as_role, estate):
    return lambda **more: Taking(as_role("operator"), **more)


def label_of(client, asset):
    assert send(client, "post", "/labels/print", {"sheet": "a4-24", "assets": [asset]}).status_code == 200
    return client.get(f"/api/assets/{asset}/labels").json()[0]["code"]


def test_what_is_scanned_typed_or_ticked_is_found_and_the_rest_is_missing(taking, as_role, estate):
    count = taking()
    code = label_of(as_role("operator"), estate[0])
    told = count.met(f"http://tarn.example/l/{code}", "hb-2001", place="Saltholm")
    assert [(t["state"], t["name"], t["trouble"]) for t in told] == [
        ("found", "salt-tix-01", ""),
        ("found", "salt-lt-01", ""),
    ]
    (away,) = count.met("10.60.8.14", place="Saltholm", how="typed")
    assert (away["state"], away["place"]) == ("elsewhere", "Port Averne")
    (foreign,) = count.met("https://shop.example/item/77", place="Saltholm")
    assert foreign["state"] == "unknown"
    whole = count.whole()
    assert whole["figures"] == {"found": 2, "elsewhere": 1, "missing": 1, "not expected": 0, "unknown": 1}
    for state, number in whole["figures"].items():
        assert len(count.lines(state=state)) == number
    for place in whole["places"]:
        assert len(count.lines(place=place["place"])) == place["expected"]
    assert [line["name"] for line in count.lines(sought="hb-1002")] == ["avrn-gate-01"]


def test_several_count_at_once_and_what_is_sent_twice_is_noted_once(taking, as_role, estate):
    count = taking()
    key = uuid.uuid4().hex
    once = {"met": [{"key": key, "code": "salt-tix-01", "place": "Saltholm"}]}
    first = send(count.client, "post", f"{count.path}/met", once).json()
    assert send(count.client, "post", f"{count.path}/met", once).json() == first
    count.met("HB-1001", by=as_role("manager"), place="Port Averne")
    (line,) = count.lines(state="elsewhere")
    assert (line["times"], line["met_by"], line["beside"]) == (2, "manager", ["met 2 times"])
    assert count.whole()["counters"] == ["manager"]
    taken = count.client.delete(f"/api{count.path}/met/{line['met']}")
    assert taken.status_code == 204
    assert [x["name"] for x in count.lines(state="found")] == ["salt-tix-01"]


def test_one_that_is_refused_holds_none_up(taking, people, estate):
    decide(people["operator"], estate[2:3], {"person": "Corwin"}, "gave")
    count = taking()
    told = count.met("  ", "salt-prn-01")
    assert told[0]["trouble"] == "Nothing was scanned or typed."
    assert told[0]["id"] is None
    assert told[1]["state"] == "found"
    assert count.whole()["figures"]["found"] == 1


def test_a_phone_whose_clock_is_wrong_and_that_sends_later_loses_nothing(taking, estate):
    count = taking()
    ahead = int(time.time()) + 86_400
    count.met("salt-tix-01", at=ahead - 30, sent_at=ahead)
    (line,) = count.lines(state="found")
    assert line["beside"] == ["by a clock that was 24 hours fast"]
    assert line["met_at"] <= count.whole()["made_at"] or line["met_at"][:10] == count.whole()["made_at"][:10]


def test_what_was_met_is_evidence_of_its_moment_once_the_count_is_closed(taking, people, estate):
    count = taking()
    before = int(time.time())
    count.met("salt-prn-01", place="Archive")
    assert count.close().status_code == 200
    (row,) = count.client.get("/api/assets", {"filter": "name = salt-prn-01", "columns": "place,last_seen"}).json()[
        "rows"
    ]
    # Nobody else says where the printer stands, so the count is believed.
    assert row["place"] == "Archive"
    assert row["last_seen"] >= time.strftime("%Y-%m-%dT", time.gmtime(before))
    dossier = count.client.get(f"/api/assets/{estate[3]}").json()
    assert "stock-taking" in json.dumps(dossier)
    (server,) = count.client.get("/api/assets", {"filter": "name = avrn-gate-01", "columns": "place"}).json()["rows"]
    assert server["place"] == "Port Averne"


def test_lines_are_settled_in_bulk(taking, as_role, estate):
    count = taking()
    count.met("salt-tix-01", "salt-lt-01", place="Port Averne")
    count.met("HB-9999", place="Saltholm", how="typed")
    away, missing = count.lines(state="elsewhere"), count.lines(state="missing")
    assert count.settle("move", *away).json()["unsettled"] == 3
    where = count.client.get("/api/assets", {"filter": 'place = "Port Averne"', "limit": 0}).json()["total"]
    assert where == 3
    assert count.settle("lost", *missing, words="gone since the move").status_code == 200
    assert count.client.get("/api/assets", {"filter": 'state = "lost or stolen"', "limit": 0}).json()["total"] == 2
    (unknown,) = count.lines(state="unknown")
    assert "kind" in count.settle("enter", unknown, words="ferry").json()["field"]
    assert count.settle("enter", unknown, words="laptop").status_code == 200
    (entered,) = count.lines(state="not expected")
    assert entered["settled"].startswith("entered as A-")
    assert count.whole()["unsettled"] == 0


@pytest.mark.parametrize(
    ("act", "state", "says"),
    [
        ("move", "missing", "elsewhere or not expected"),
        ("lost", "found", "missing"),
        ("explain", "missing", "how it is"),
    ],
)
def test_what_cannot_be_done_about_a_line_is_said(taking, act, state, says):
    count = taking()
    count.met("salt-tix-01")
    refused = count.settle(act, *count.lines(state=state))
    assert refused.status_code == 422
    assert says in refused.json()["detail"]
    assert count.whole()["unsettled"] == 3


def test_a_protocol_is_checked_and_one_that_was_altered_is_told(taking, tmp_path):
    count = taking(counters={"Saltholm": "operator"})
    count.met("salt-tix-01", place="Saltholm")
    count.met("=cmd()", place="Saltholm")
    assert count.client.get(f"/api{count.path}/protocol").status_code == 404
    count.close()
    held = count.client.get(f"/api{count.path}/protocol").content
    sound = verify_protocol(held)
    assert (sound.faults, sound.of, sound.number) == ([], count.whole()["number"], 4)
    files = {n: zipfile.ZipFile(io.BytesIO(held)).read(n) for n in zipfile.ZipFile(io.BytesIO(held)).namelist()}
    assert b"'=cmd()" in files["lines.csv"]
    text = pypdfium2.PdfDocument(files["protocol.pdf"])[0].get_textpage().get_text_range()
    assert "1 found" in text
    assert "3 missing" in text

    def again(**changed):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name, content in {**files, **changed}.items():
                archive.writestr(name.replace("__", "."), content)
        return verify_protocol(out.getvalue()).faults

    met = json.loads(files["met.json"])
    met[0]["place"] = "Port Averne"
    assert "met.json is not what was signed" in again(**{"met.json": json.dumps(met)})
    assert any("does not follow" in f for f in again(**{"met.json": json.dumps(met)}))
    file = tmp_path / "C.zip"
    file.write_bytes(held)
    told = CliRunner().invoke(app, ["verify-count", str(file)])
    assert (told.exit_code, "sound. C-" in told.output) == (0, True)
    file.write_bytes(held[:-40])
    assert CliRunner().invoke(app, ["verify-count", str(file)]).exit_code == 1
    assert "no protocol" in verify_protocol(b"PK nothing").faults[0]


def test_what_a_closed_count_says_is_settled(taking, people, estate):
    count = taking()
    count.met("salt-tix-01", place="Saltholm")
    count.close()
    told = count.whole()
    decide(people["operator"], estate[:1], {"place": "Port Averne"}, "moved")
    merge(people["operator"], estate[1], estate[2])
    assert count.whole()["figures"] == told["figures"]
    late = send(count.client, "post", f"{count.path}/met", {"met": [{"key": "k" * 20, "code": "salt-lt-01"}]})
    assert late.status_code == 422
    assert "closed" in late.json()["detail"]
    assert send(count.client, "post", f"{count.path}/give-up", {}).status_code == 422


def test_devices_that_are_one_by_now_are_both_met(taking, people, estate):
    count = taking()
    merge(people["operator"], estate[0], estate[2])
    count.met("salt-tix-01", place="Saltholm")
    assert len(count.lines(state="found")) == 2


def test_a_sample_says_how_sure_one_is(taking, as_role):
    planned = send(as_role("operator"), "post", "/counts/plan", {"filter": "", "sample": {"tolerance": 0.3}}).json()
    assert (planned["total"], planned["drawn"]) == (4, 3)
    count = taking(sample={"confidence": 0.6, "tolerance": 0.3})
    told = count.whole()["sample"]
    assert told["drawn"] == count.whole()["expected"] == 2
    count.met(*(line["number"] for line in count.lines()), how="tick")
    assert count.whole()["sample"]["at_most"] == 1
    assert verify_protocol(count.close() and count.client.get(f"/api{count.path}/protocol").content).faults == []


@pytest.mark.parametrize(
    ("wrong", "field"),
    [
        ({"name": "  "}, "name"),
        ({"filter": "knid = 1"}, "filter"),
        ({"filter": "name = nobody"}, "filter"),
        ({"counters": {"Saltholm": "nobody"}}, "counters"),
        ({"expected": 7}, "expected"),
        ({"sample": {"tolerance": 0.9}}, "tolerance"),
    ],
)
def test_a_count_that_cannot_be_opened_says_why(as_role, estate, wrong, field):
    refused = send(as_role("operator"), "post", "/counts", {"name": "Autumn", "filter": "", **wrong})
    assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_photos_hang_on_what_was_met_and_a_phone_takes_along_what_it_needs(taking, as_role, estate):
    count = taking()
    code = label_of(as_role("operator"), estate[0])
    (told,) = count.met(code)
    photo = {"text": "dented", "file": SimpleUploadedFile("lid.jpg", b"\xff\xd8\xff not quite a picture")}
    assert count.client.post(f"/api/papers-of/met/{told['id']}", photo).status_code == 200
    (line,) = count.lines(state="found")
    assert line["papers"] == 1
    packed = count.client.get(f"/api{count.path}/pack").json()
    (device,) = [d for d in packed["devices"] if d["codes"] == [code]]
    assert (device["name"], device["met"]) == ("salt-tix-01", True)


def test_a_given_up_count_is_no_evidence_and_today_speaks_of_what_is_left(taking, as_role, estate):
    count = taking()
    count.met("salt-prn-01", place="Archive")
    assert send(count.client, "post", f"{count.path}/give-up", {}).status_code == 200
    assert count.client.get("/api/assets", {"filter": "place = Archive", "limit": 0}).json()["total"] == 0
    other = taking(name="Winter")
    other.close()
    wants = {w["key"]: w for w in as_role("operator").get("/api/today").json()["wants"]}
    assert wants["counts-unsettled"]["to"] == other.path
    assert AuditEntry.objects.filter(verb="closed a count").count() == 1
