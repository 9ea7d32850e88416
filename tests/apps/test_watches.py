"""Watches from schedule to the mailbox over a real SMTP server, and to a called system over real HTTP."""

import asyncio
import email
import email.policy
import io
import json
import socket
import threading
import time

import openpyxl
import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import Person
from tarn.apps.reports.actions.reports import make_report
from tarn.apps.reports.actions.watches import ask_due, make_watch
from tarn.apps.reports.composing import answer
from tarn.apps.reports.inputs import ReportIn, WatchIn
from tarn.apps.reports.models import Letter, Watch
from tarn.apps.reports.reads.asking import found
from tarn.apps.reports.sending import send_due
from tarn.core.signing import signature
from tarn.core.watching import RETRIES
from tarn.lab.mailbox import serve_mailbox
from tests.apps.test_reports import BY_PLACE, send
from tests.documents import DAY, sighting

pytestmark = pytest.mark.django_db


@pytest.fixture
def composed(as_role, estate):
    return send(as_role("operator"), "reports/composed", {"name": "Servers", "definition": BY_PLACE}).json()["key"]


@pytest.fixture
def post(settings, tmp_path):
    """A mailbox that speaks SMTP on a port of its own; `stop` takes it away and `start` brings it back."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    loop = asyncio.new_event_loop()
    threading.Thread(target=loop.run_forever, daemon=True).start()
    settings.EMAIL_BACKEND = "django.core.mail.backends.smtp.EmailBackend"
    settings.EMAIL_HOST, settings.EMAIL_PORT, settings.TARN_MAILBOX = "127.0.0.1", port, str(tmp_path / "box")
    settings.DEFAULT_FROM_EMAIL = "tarn@skerrivane.example"

    class Post:
        def start(self):
            made = serve_mailbox(tmp_path / "box", "127.0.0.1", port)
            self.server = asyncio.run_coroutine_threadsafe(made, loop).result(5)

        def stop(self):
            loop.call_soon_threadsafe(self.server.close)
            time.sleep(0.1)

        def letters(self):
            files = sorted((tmp_path / "box").glob("*.eml"))
            return [email.message_from_bytes(f.read_bytes(), policy=email.policy.default) for f in files]

    made = Post()
    made.start()
    yield made
    made.stop()
    loop.call_soon_threadsafe(loop.stop)


WATCH = {
    "name": "New ones",
    "report": "at-intake",
    "rule": "FREQ=HOURLY",
    "condition": "new",
    "to": ["ines@skerrivane.example"],
    "attach": "xlsx",
}


def test_a_watch_writes_of_what_is_new_and_only_once(people, estate, post, as_role):
    watch, _ = make_watch(people["operator"], WatchIn.model_validate(WATCH))
    now = watch.next_at
    assert ask_due(now) == 0, "what was there when it was made is not new"
    list(
        take_in(
            [sighting("late-1", 30, identity={"serial": "L-1"}), sighting("late-2", 30, identity={"serial": "L-2"})]
        )
    )
    watch.refresh_from_db()
    assert watch.next_at > now
    later = watch.next_at + 5 * DAY  # the server was off for days: it asks once
    assert ask_due(later) == 1
    assert ask_due(later) == 0
    assert send_due(later) == 1
    (letter,) = post.letters()
    assert letter["Subject"] == "New ones: 2 rows, 2 new"
    text = letter.get_body(("plain",)).get_content()
    assert text.splitlines()[2].startswith("NEW  Name: late-1")
    assert "/reports/at-intake" in text
    assert "late-2" in letter.get_body(("html",)).get_content()
    (attached,) = letter.iter_attachments()
    book = openpyxl.load_workbook(io.BytesIO(attached.get_content()))
    assert book["Report"]["A2"].value == "late-1"
    shown = as_role("viewer").get("/api/mailbox").json()
    assert (shown[0]["subject"], shown[0]["attached"]) == (letter["Subject"], [attached.get_filename()])
    list(take_in([sighting("late-1", 31, identity={"serial": "L-1"}, address="10.60.4.77")]))
    watch.refresh_from_db()
    assert ask_due(watch.next_at) == 0, "a device whose address changed is no new device"


def test_a_holder_is_told_of_their_own_devices_only(people, estate, post):
    for name, address in (("Una Skerry", "una@skerrivane.example"), ("Nell Stroma", "nell@skerrivane.example")):
        Person.objects.create(source="Keel", key=name, name=name, email=address, joined_at=1, last_sync=1)
    decide(people["operator"], estate[:1], {"person": "Una Skerry"}, "decided")
    decide(people["operator"], estate[1:3], {"person": "Nell Stroma"}, "decided")
    people["manager"].email = "chief@skerrivane.example"
    people["manager"].save()
    to = ["holder", "role:manager", "person:Nell Stroma"]
    report = {"name": "All", "definition": {"columns": [{"field": "name"}]}, "room": "Estate"}
    made = make_report(people["operator"], ReportIn.model_validate(report))
    watch, _ = make_watch(
        people["operator"], WatchIn.model_validate({**WATCH, "report": str(made.pk), "condition": "any", "to": to})
    )
    ask_due(watch.next_at)
    send_due(watch.next_at)
    told = {x["To"]: x.get_body(("plain",)).get_content() for x in post.letters()}
    assert set(told) == {
        "chief@skerrivane.example, nell@skerrivane.example",
        "una@skerrivane.example",
        "nell@skerrivane.example",
    }
    assert "salt-tix-01" in told["una@skerrivane.example"]
    assert "avrn-gate-01" not in told["una@skerrivane.example"]
    assert "salt-prn-01" in told["chief@skerrivane.example, nell@skerrivane.example"]
    assert "salt-prn-01" not in told["nell@skerrivane.example"]
    files = {x["To"]: len(list(x.iter_attachments())) for x in post.letters()}
    assert [files[to] for to in sorted(files)] == [1, 0, 0], "a holder gets no file of what others hold"


def test_a_watch_that_insists_writes_until_somebody_acknowledges(people, estate, post, as_role):
    watch, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, "attach": "", "insists": True}))
    list(take_in([sighting("late-1", 30, identity={"serial": "L-1"})]))
    for _ in range(3):
        watch.refresh_from_db()
        assert ask_due(watch.next_at) == 1
    letter = watch.letter_set.order_by("-pk").first()
    answer = as_role("viewer").post(f"/api/letters/{letter.pk}/acknowledge").json()
    assert answer["acknowledged_by"] == "viewer"
    watch.refresh_from_db()
    assert ask_due(watch.next_at) == 0
    assert as_role("viewer").post("/api/letters/999/acknowledge").status_code == 404


def test_a_mail_server_that_is_away_loses_nothing(people, estate, post):
    post.stop()
    watch, _ = make_watch(
        people["operator"], WatchIn.model_validate({**WATCH, "condition": "any", "report": "by-place", "attach": ""})
    )
    now = watch.next_at
    assert (ask_due(now), send_due(now)) == (1, 0)
    letter = Letter.objects.get()
    assert (letter.tries, letter.due_at, letter.sent_at) == (1, now + RETRIES[0], None)
    assert "refused" in letter.trouble.lower()
    assert send_due(now + 1) == 0, "not before its time"
    for _ in RETRIES:
        letter.refresh_from_db()
        send_due(letter.due_at)
    letter.refresh_from_db()
    assert send_due(letter.due_at - 1) == 0, "given up, and shown"
    post.start()
    from tarn.apps.reports.sending import send_again

    assert send_again(letter, now)
    assert post.letters()[0]["Subject"].startswith("New ones: ")


def test_quiet_hours_hold_a_letter_back(people, estate, post, settings):
    settings.TIME_ZONE = "UTC"
    watch, _ = make_watch(
        people["operator"], WatchIn.model_validate({**WATCH, "condition": "any", "report": "by-place", "quiet": "0-23"})
    )
    night = watch.next_at - watch.next_at % DAY + 3 * 3600
    Watch.objects.update(next_at=night)
    ask_due(night)
    assert Letter.objects.get().due_at == night + 20 * 3600
    assert send_due(night) == 0
    assert send_due(night + 20 * 3600) == 1


def test_a_try_out_goes_to_oneself_and_remembers_nothing(people, estate, post, as_role):
    people["operator"].email = "wren@skerrivane.example"
    people["operator"].save()
    watch, _ = make_watch(people["operator"], WatchIn.model_validate(WATCH))
    held = watch.held
    answer = as_role("operator").post(f"/api/watches/{watch.pk}/try").json()
    assert (answer["to"], bool(answer["sent_at"])) == (["wren@skerrivane.example"], True)
    assert post.letters()[0]["To"] == "wren@skerrivane.example"
    watch.refresh_from_db()
    assert watch.held == held
    assert as_role("manager").post(f"/api/watches/{watch.pk}/try").json()["field"] == "to"


def test_a_watch_whose_report_is_gone_says_so_and_goes_on(people, estate, as_role, composed):
    watch, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, "report": composed}))
    as_role("operator").delete(f"/api/reports/composed/{composed}")
    before = watch.next_at
    assert ask_due(before) == 0
    watch.refresh_from_db()
    assert "There is no report" in watch.trouble
    assert watch.next_at > before


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"report": "toy"}, "report"),
        ({"condition": "maybe"}, "condition"),
        ({"to": []}, "to"),
        ({"to": ["ines"]}, "to"),
        ({"to": ["role:captain"]}, "to"),
        ({"to": ["person:Nobody"]}, "to"),
        ({"rule": "FREQ=SOMETIMES"}, "rule"),
        ({"quiet": "night"}, "quiet"),
        ({"attach": "doc"}, "attach"),
    ],
)
def test_a_watch_that_cannot_be_is_refused_at_its_field(as_role, estate, change, field):
    refused = send(as_role("operator"), "watches", {**WATCH, **change})
    assert (refused.status_code, refused.json()["field"]) == (422, field)


def test_watches_are_changed_and_dropped(as_role, estate, people):
    made = send(as_role("operator"), "watches", WATCH).json()
    assert (made["said"], made["report_name"]) == ("every hour", "Waiting at intake")
    assert send(as_role("operator"), "watches", WATCH).json()["field"] == "name"
    changed = send(
        as_role("operator"), f"watches/{made['id']}", {**WATCH, "condition": "over", "number": 3, "version": 1}, "put"
    )
    assert changed.json()["number"] == 3
    assert send(as_role("operator"), f"watches/{made['id']}", {**WATCH, "version": 1}, "put").status_code == 409
    assert send(as_role("viewer"), "watches", {**WATCH, "name": "y"}).status_code == 403
    assert as_role("operator").delete(f"/api/watches/{made['id']}").status_code == 204
    assert found("at-intake").ships


def test_a_call_is_signed_tried_again_and_not_led_elsewhere(as_role, estate, called):
    to = [f"http://127.0.0.1:{called.server_port}/told"]
    refused = send(as_role("operator"), "watches", {**WATCH, "to": to})
    assert refused.status_code == 403, "who may not deal in credentials lets Tarn speak to nobody"
    made = send(as_role("manager"), "watches", {**WATCH, "to": to, "quiet": "0-23"}).json()
    assert made["secret"].startswith("whsec_")
    assert as_role("manager").get("/api/watches").json()[0]["secret"] == "", "shown once"
    list(take_in([sighting("late-1", 30, identity={"serial": "L-1"})]))
    now = Watch.objects.get().next_at
    called.answers = 302
    assert (ask_due(now), send_due(now)) == (1, 0)
    letter = Letter.objects.get()
    assert (letter.tries, len(called.calls)) == (1, 1)
    assert "answered 302" in letter.trouble
    called.answers = 204
    assert send_due(letter.due_at) == 1
    headers, content = called.calls[-1]
    expected = signature(made["secret"], headers["webhook-id"], headers["webhook-timestamp"], content)
    assert headers["webhook-signature"] == expected
    told = json.loads(content)
    assert (told["watch"], told["total"], len(told["new"])) == ("New ones", 1, 1)
    assert told["new"][0][0] == "late-1"


def test_a_share_that_moves_is_written_of_once_it_has_moved_far_enough(people, estate, post):
    report = make_report(
        people["operator"],
        ReportIn.model_validate(
            {
                "name": "Laptops",
                "room": "Estate",
                "definition": {"columns": [{"field": "name"}], "filter": "kind = laptop"},
            }
        ),
    )
    rule = {"report": str(report.pk), "condition": "share", "number": 30, "attach": ""}
    watch, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, **rule}))
    assert watch.share == 25.0, "one of four"
    for wrote, number in ((0, 0), (1, 3)):
        decide(people["operator"], [estate[number]], {"kind": "laptop"}, "decided")
        watch.refresh_from_db()
        assert ask_due(watch.next_at) == wrote, "two of four are 25 points more, three 50: a drift adds up"
    send_due(watch.next_at)
    (letter,) = post.letters()
    assert "(from 25 % to 75 %)" in letter.get_body(("plain",)).get_content()
    watch.refresh_from_db()
    assert (watch.share, ask_due(watch.next_at)) == (75.0, 0)
    product = send_refused(people, {**WATCH, "condition": "share", "report": "products"})
    assert product == "condition"


def send_refused(people, data):
    from tarn.apps.people.actions.refusals import Invalid

    with pytest.raises(Invalid) as refused:
        make_watch(people["operator"], WatchIn.model_validate(data))
    return refused.value.field


def test_a_watch_made_while_standing_in_a_branch_watches_the_whole_estate(as_role, estate, people):
    body = json.dumps({**WATCH, "report": "by-place", "condition": "new"})
    made = (
        as_role("operator")
        .post("/api/watches?standing_in=place:Saltholm", body, content_type="application/json")
        .json()
    )
    assert made["rows"] == len(estate)
    assert ask_due(Watch.objects.get().next_at) == 0, "what stood elsewhere is not new"


def test_letters_that_are_gathered_go_in_one_message_at_seven(people, estate, post, settings):
    settings.TIME_ZONE = "UTC"
    for name, report in (("One", "by-place"), ("Two", "by-system")):
        plain = {"name": name, "report": report, "condition": "any", "gathered": True}
        watch, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, **plain}))
    now = watch.next_at
    assert ask_due(now) == 2
    seven = Letter.objects.first().due_at
    assert (seven % DAY, now <= seven < now + DAY) == (7 * 3600, True)
    assert send_due(seven - 1) == 0
    assert send_due(seven) == 2
    (letter,) = post.letters()
    assert letter["Subject"] == "2 watches: One, Two"
    assert "== One: " in letter.get_body(("plain",)).get_content()
    assert len(list(letter.iter_attachments())) == 2


def test_one_bad_watch_stops_no_other_and_says_so_at_itself(people, estate, post, as_role, monkeypatch):
    bad, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, "name": "Bad", "attach": ""}))
    good, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, "name": "Good", "attach": ""}))

    def torn(watch, at):
        if watch.name == "Bad":
            raise TypeError("a day and a text cannot be compared")
        return answer(watch, at)

    monkeypatch.setattr("tarn.apps.reports.actions.watches.answer", torn)
    list(take_in([sighting("late-1", 30, identity={"serial": "L-1"})]))
    now = max(bad.next_at, good.next_at)
    assert ask_due(now) == 1
    told = {w["name"]: w for w in as_role("viewer").get("/api/watches").json()}
    assert "cannot be compared" in told["Bad"]["trouble"]
    assert told["Bad"]["next_at"] > now, "it goes on being asked"
    torn_subject = Letter.objects.create(
        watch=good, made_at=1, due_at=1, to=["a@b.example"], subject="two\nlines", text="", html=""
    )
    assert send_due(now) == 1
    torn_subject.refresh_from_db()
    assert torn_subject.trouble
    assert [m["Subject"] for m in post.letters()] == ["Good: 1 row, 1 new"]


def test_a_letter_of_what_is_gone_says_what_and_a_call_carries_the_rows(people, estate, post, called):
    to = ["ines@skerrivane.example", f"http://127.0.0.1:{called.server_port}/hook"]
    watch, _ = make_watch(
        people["manager"], WatchIn.model_validate({**WATCH, "condition": "gone", "attach": "", "to": to})
    )
    list(take_in([sighting("late-1", 30, identity={"serial": "L-1"})]))
    assert ask_due(watch.next_at) == 0
    late = Asset.objects.latest("pk").pk
    decide(people["operator"], [late], {"standing": "register"}, "adopted")
    watch.refresh_from_db()
    assert ask_due(watch.next_at) == 1
    send_due(watch.next_at)
    (letter,) = post.letters()
    assert "1 gone" in letter["Subject"]
    assert "GONE Name: late-1" in letter.get_body(("plain",)).get_content()
    assert "late-1" in letter.get_body(("html",)).get_content()
    ((_, sent),) = called.calls
    body = json.loads(sent)
    assert body["gone"][0]["row"][0] == "late-1"
    assert body["gone"][0]["key"] == ["asset", late]


@pytest.mark.parametrize("kind", ["csv", "xlsx", "ods", "html", "json", "pdf"])
def test_the_least_and_the_most_of_days_and_words_stand_on_the_screen_and_in_every_file(as_role, estate, kind):
    columns = [{"field": n} for n in ("place", "name", "first_seen", "warranty.end", "os.version")]
    totals = [
        {"column": c, "function": f}
        for c in ("name", "first_seen", "warranty.end", "os.version")
        for f in ("min", "max")
    ]
    definition = {"row": "asset", "columns": columns, "group_by": ["place"], "totals": totals}
    operator = as_role("operator")
    key = send(operator, "reports/composed", {"name": "Ends", "definition": definition}).json()["key"]
    shown = operator.get(f"/api/reports/shown/{key}")
    assert shown.status_code == 200, shown.content
    assert "min of Name: " in shown.content.decode()
    answer = operator.get(f"/api/reports/shown/{key}/{kind}")
    assert answer.status_code == 200, answer.content
    wrong = {**definition, "totals": [{"column": "first_seen", "function": "mean"}]}
    refused = send(operator, "reports/composed", {"name": "Wrong", "definition": wrong})
    assert (refused.status_code, refused.json()["field"]) == (422, "totals")


def test_more_watches_need_no_more_statements(as_role, people, estate):
    def asked():
        with CaptureQueriesContext(connection) as told:
            rows = as_role("viewer").get("/api/watches").json()
        return len(told), rows

    make_watch(people["operator"], WatchIn.model_validate({**WATCH, "name": "First"}))
    asked()
    one, _ = asked()
    for n in range(6):
        watch, _ = make_watch(people["operator"], WatchIn.model_validate({**WATCH, "name": f"More {n}"}))
        for k in range(12):
            Letter.objects.create(
                watch=watch, made_at=k, due_at=k, to=["a@b.example"], subject=f"{k}", text="", html=""
            )
    many, rows = asked()
    assert (many, len(rows)) == (one, 7)
    assert [x["subject"] for x in rows[-1]["letters"]] == [str(k) for k in range(11, 1, -1)]
