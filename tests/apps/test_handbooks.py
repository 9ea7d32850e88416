"""Handbooks: written, kept from version to version, issued, held against each other, and written out to be read back."""

import base64
import io
import json
import time

import docx
import pypdfium2
import pytest
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from typer.testing import CliRunner

from tarn.apps.estate.register.decide import decide
from tarn.apps.handbooks.jobs import deliver_due, issue_due
from tarn.apps.handbooks.models import Delivery, Handbook
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import AuditEntry
from tarn.apps.reports.shipped import shipped
from tarn.core.handbooks.document import walk
from tarn.core.handbooks.shipped import HANDBOOKS
from tarn.core.signing import signature
from tarn.site.cli import app

pytestmark = pytest.mark.django_db
PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108020000009077"
    "53de0000000c4944415408d763f8cfc000000301010018dd8db00000000049454e44ae426082"
)


def send(client, method, path, body):
    return getattr(client, method)(f"/api{path}", json.dumps(body), content_type="application/json")


def text(words, *marks):
    return {"type": "text", "text": words, **({"marks": [{"type": m} for m in marks]} if marks else {})}


def p(*content):
    return {"type": "paragraph", "content": [text(c) if isinstance(c, str) else c for c in content]}


def live(key, kind, **settings):
    return {"type": "live", "attrs": {"key": key, "kind": kind, "settings": settings}}


class Writing:
    """A handbook somebody writes."""

    def __init__(self, client, **new):
        self.client = client
        made = send(client, "post", "/handbooks", {"name": "Recovery", **new})
        assert made.status_code == 200, made.content
        self.held = made.json()
        self.path = f"/handbooks/{self.held['id']}"

    def keep(self, *content, **more):
        names = ("name", "text", "document", "place", "rule", "to", "formats", "approved", "version")
        body = {n: self.held[n] for n in names}
        if content:
            body["document"] = {"type": "doc", "content": list(content)}
        answer = send(self.client, "put", self.path, {**body, **more})
        if answer.status_code == 200:
            self.held = answer.json()
        return answer

    def issue(self):
        answer = send(self.client, "post", f"{self.path}/issues", {})
        assert answer.status_code == 200, answer.content
        return answer.json()


@pytest.fixture
def writing(as_role, estate):
    return lambda **new: Writing(as_role("operator"), **new)


@pytest.mark.parametrize("key", HANDBOOKS)
def test_each_that_ships_is_issued_with_every_block_filled_and_written_in_all_formats(writing, key):
    handbook = writing(template=key)
    told = handbook.issue()
    assert told["filled"]
    assert {k: f["trouble"] for k, f in told["filled"].items() if f["trouble"]} == {}
    for form in ("pdf", "docx", "html", "md"):
        answer = handbook.client.get(f"/api/handbooks/issues/{told['id']}/{form}")
        assert answer.status_code == 200
        assert len(answer.content) > 300


def test_reports_that_shipped_handbooks_ask_for_are_there():
    wanted = {
        n["attrs"]["settings"]["report"]
        for h in HANDBOOKS.values()
        for _, n in walk(h.document)
        if n["type"] == "live" and n["attrs"]["kind"] == "report"
    }
    assert wanted <= set(shipped())


def test_two_issues_differ_by_what_changed_and_their_files_read_back(writing, people, estate):
    handbook = writing()
    photo = {"text": "", "file": SimpleUploadedFile("rack.png", PIXEL)}
    kept = handbook.client.post(f"/api/papers-of/handbook/{handbook.held['id']}", photo).json()
    footnote = {"type": "footnote", "attrs": {"text": "in the grey cabinet"}}
    items = [{"type": "listItem", "content": [p("call <Ines> & Sten")]}]
    table = {"type": "table", "content": [
        {"type": "tableRow", "content": [{"type": "tableHeader", "content": [p("Key")]}, {"type": "tableHeader", "content": [p("Where")]}]},
        {"type": "tableRow", "content": [{"type": "tableCell", "content": [p("Data room")]}, {"type": "tableCell", "content": [p("Harbour")]}]},
    ]}  # fmt: skip
    body = [
        {"type": "heading", "attrs": {"level": 1}, "content": [text("If the data room is lost")]},
        p("The key lies ", text("safe", "bold"), footnote, ", for ", {"type": "variable", "attrs": {"name": "date"}}),
        {"type": "orderedList", "attrs": {"start": 3}, "content": items},
        table,
        {"type": "pageBreak"},
        live("b1", "devices", title="Servers", filter="kind = server", columns="name, place"),
        live("b2", "figure", words="devices in all"),
        live("b3", "changes", filter="kind = server"),
        live("b4", "plate", asset="salt-lt-01"),
        {"type": "picture", "attrs": {"paper": kept[0]["id"], "words": "the rack"}},
    ]
    assert handbook.keep(*body).status_code == 200
    first = handbook.issue()
    assert first["number"] == 1
    assert [r[0] for r in first["filled"]["b1"]["rows"]] == ["avrn-gate-01", "salt-tix-01"]
    assert first["filled"]["b2"]["figure"] == "4"
    time.sleep(1.1)  # the next issue is of a later second
    decide(people["operator"], estate[:1], {"place": "Port Averne"}, "moved")
    decide(people["operator"], estate[3:], {"kind": "server"}, "was one")
    body[1] = p("The key lies with the harbour master.")
    handbook.keep(*body)
    second = handbook.issue()
    told = [(c["what"], c["before"], c["after"]) for c in second["changes"]]
    assert ("row", "salt-tix-01 | Saltholm", "salt-tix-01 | Port Averne") in told
    assert (
        "prose",
        "The key lies safe (in the grey cabinet), for {date}",
        "The key lies with the harbour master.",
    ) in told
    assert second["filled"]["b3"]["rows"] == [["came", "salt-prn-01", "server", ""]]
    # The first is as it was.
    again = handbook.client.get(f"/api/handbooks/issues/{first['id']}").json()
    assert again["filled"] == first["filled"]

    def file(form):
        return handbook.client.get(f"/api/handbooks/issues/{first['id']}/{form}").content

    pages = [page.get_textpage().get_text_range() for page in pypdfium2.PdfDocument(file("pdf"))]
    assert len(pages) == 2
    for said in ("If the data room is lost", "3.", "call <Ines> & Sten", "Data room"):
        assert said in pages[0]
    for said in ("avrn-gate-01", "devices in all", "Notes", "in the grey cabinet", "no. 1 of"):
        assert said in pages[1]
    document = docx.Document(io.BytesIO(file("docx")))
    said = "\n".join(p.text for p in document.paragraphs)
    assert "If the data room is lost" in said
    assert "call <Ines> & Sten" in said
    cells = [c.text for t in document.tables for r in t.rows for c in r.cells]
    assert {"Data room", "avrn-gate-01", "Saltholm"} <= set(cells)
    assert len(document.inline_shapes) == 1
    page = file("html").decode()
    assert "call &lt;Ines&gt; &amp; Sten" in page
    assert "data:image" in page
    markdown = file("md").decode()
    assert "| avrn-gate-01 | Port Averne |" in markdown
    assert "[^1]: in the grey cabinet" in markdown
    assert "3. call \\<Ines\\> & Sten" in markdown


def test_a_block_whose_service_is_gone_says_so_in_its_place_and_holds_no_other_up(writing):
    handbook = writing()
    handbook.keep(
        live("a", "stands", service="Ticketing"),
        live("b", "report", report="77"),
        live("c", "devices", filter="knid = 1"),
        live("d", "figure"),
    )
    told = handbook.issue()["filled"]
    assert "no service “Ticketing”" in told["a"]["trouble"]
    assert "no report “77”" in told["b"]["trouble"]
    assert told["c"]["trouble"]
    assert told["d"]["figure"] == "4"


def test_edited_by_two_at_once_the_second_is_told_and_nothing_is_lost(writing, people):
    handbook = writing()
    before = handbook.held["version"]
    assert handbook.keep(p("mine")).status_code == 200
    refused = handbook.keep(p("theirs"), version=before)
    assert refused.status_code == 409
    assert refused.json()["now"]["document"]["content"][0]["content"][0]["text"] == "mine"
    drafts = Handbook.objects.get().drafts.order_by("version")
    assert [d.version for d in drafts] == [before, before + 1]
    entry = AuditEntry.objects.filter(verb="changed a handbook").get()
    undo(people["operator"], entry.pk)
    assert handbook.client.get(f"/api{handbook.path}").json()["document"]["content"] == [{"type": "paragraph"}]


def test_parts_of_other_handbooks_are_put_in_and_circles_refused(writing):
    people_ = writing(name="People")
    people_.keep(p("Call Ines."), live("b1", "figure", words="in all"))
    handbook = writing(name="Whole")
    part = {"type": "part", "attrs": {"handbook": people_.held["id"]}}
    handbook.keep(p("First"), part, live("b1", "figure", filter="kind = server"))
    told = handbook.issue()
    assert "Call Ines." in json.dumps(told["document"])
    assert sorted(f["figure"] for f in told["filled"].values()) == ["2", "4"]
    back = {"type": "part", "attrs": {"handbook": handbook.held["id"]}}
    refused = people_.keep(back)
    assert (refused.status_code, refused.json()["field"]) == (422, "document")
    people_.client.delete(f"/api{people_.path}")
    assert "not there any more" in json.dumps(handbook.issue()["document"])


def test_an_issue_waits_for_a_second_person_where_the_handbook_wants_one(writing, as_role):
    handbook = writing()
    handbook.keep(p("as it is"), approved=True, to=["harbour@skerrivane.example"])
    waits = handbook.issue()
    assert waits["state"] == "asked"
    assert Delivery.objects.count() == 0
    decision = f"/handbooks/issues/{waits['id']}/decision"
    assert send(as_role("operator"), "post", decision, {"approve": True}).status_code == 403
    wants = {w["key"] for w in as_role("manager").get("/api/today").json()["wants"]}
    assert "handbooks-waiting" in wants
    done = send(as_role("manager"), "post", decision, {"approve": True, "why": "read"}).json()
    assert (done["state"], done["variables"]["approved"]) == ("issued", "manager")
    assert send(as_role("manager"), "post", decision, {"approve": False}).status_code == 422
    assert deliver_due(int(time.time())) == 1
    (letter,) = mail.outbox
    assert letter.attachments[0][0] == "recovery-1.pdf"
    assert letter.attachments[0][1][:5] == b"%PDF-"


def test_another_system_is_called_with_an_issue_signed_and_tried_again(writing, as_role, called):
    handbook, to = writing(), f"http://127.0.0.1:{called.server_port}/issues"
    assert handbook.keep(p("as it is"), to=[to], formats=["md"]).status_code == 403, "no right to deal in credentials"
    handbook.client = as_role("manager")
    assert handbook.keep(p("as it is"), to=["https://"], formats=["md"]).json()["field"] == "to"
    assert handbook.keep(p("as it is"), to=[to], formats=["md"]).status_code == 200
    secret = handbook.held["secret"]
    handbook.client = as_role("operator")
    assert handbook.keep(p("as it was")).status_code == 200, "who writes it need not be who may name systems"
    assert handbook.held["secret"] == "", "shown once"
    handbook.issue()
    called.answers = 503
    now = int(time.time())
    assert deliver_due(now) == 0
    one = Delivery.objects.get()
    assert "answered 503" in one.trouble
    called.answers = 204
    assert deliver_due(one.due_at) == 1
    headers, content = called.calls[-1]
    expected = signature(secret, headers["webhook-id"], headers["webhook-timestamp"], content)
    assert headers["webhook-signature"] == expected
    told = json.loads(content)
    assert (told["handbook"], told["number"]) == ("Recovery", 1)
    assert "as it was" in base64.b64decode(told["files"][0]["content"]).decode()


def test_a_handbook_is_issued_by_itself_and_one_that_cannot_be_says_so(writing):
    handbook = writing()
    handbook.keep(p("x"), rule="FREQ=DAILY;BYHOUR=6")
    assert handbook.held["rule_words"]
    other = writing(name="Other")
    other.keep(p("y"), rule="FREQ=DAILY;BYHOUR=6")
    Handbook.objects.filter(pk=other.held["id"]).update(document={"type": "doc", "content": [{"type": "moon"}]})
    now = Handbook.objects.get(pk=handbook.held["id"]).next_at + 5
    assert issue_due(now) == 1
    assert Handbook.objects.get(pk=handbook.held["id"]).next_at > now
    assert "no “moon”" in Handbook.objects.get(pk=other.held["id"]).trouble
    assert issue_due(now) == 0


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"rule": "whenever"}, "rule"),
        ({"to": ["nobody"]}, "to"),
        ({"to": ["a@skerrivane.example"], "formats": []}, "formats"),
        ({"document": {"type": "doc", "content": [{"type": "script"}]}}, "document"),
        ({"name": " "}, "name"),
    ],
)
def test_what_a_handbook_cannot_be_is_said(writing, more, field):
    refused = writing().keep(**more)
    assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_blocks_are_filled_while_one_writes(writing):
    client = writing().client
    told = send(client, "post", "/handbooks/fill", {"kind": "figure", "settings": {"words": "in all"}}).json()
    assert (told["figure"], told["rows"]) == ("4", [["in all"]])
    assert send(client, "post", "/handbooks/fill", {"kind": "moon"}).status_code == 422
    refused = send(client, "post", "/handbooks/fill", {"kind": "figure", "settings": {"most": "x"}})
    assert (refused.status_code, refused.json()["field"]) == (422, "most")


def test_from_a_shell(writing, tmp_path):
    writing(template="estate", name="The estate")
    out = tmp_path / "estate.docx"
    told = CliRunner().invoke(app, ["handbook", "the estate", "--issue", "--out", str(out)])
    assert told.exit_code == 0, told.output
    assert docx.Document(str(out)).paragraphs[0].text == "Estate handbook"
    for asked in (["nothing", "--out", str(out)], ["the estate", "--out", str(tmp_path / "x.odt")]):
        assert CliRunner().invoke(app, ["handbook", *asked]).exit_code != 0
