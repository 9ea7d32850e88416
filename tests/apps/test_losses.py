"""What another system does not name: an answer cut short loses nothing, a great loss waits for a person's yes."""

import asyncio
import json
import threading
import time
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlsplit

import pytest

from tarn.apps.discovery import recovering
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Sync, Trial
from tarn.apps.discovery.sources import syncing
from tarn.apps.discovery.sources.change import make_source
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sources.syncing import carry_out_sync
from tarn.apps.estate.models import Asset, AssetSpan, Term
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import Person
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT
from tarn.collect.sources import inventory
from tarn.collect.sources.inventory import Inventory, InventorySettings

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def answering():
    """A server that answers each call with what `answering.with_` makes of its query."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self):
            body = served.with_({k: v[0] for k, v in parse_qs(urlsplit(self.path).query).items()})
            self.send_response(200)
            self.end_headers()
            for piece in body if isinstance(body, list) else [json.dumps(body).encode()]:
                try:
                    self.wfile.write(piece)
                    self.wfile.flush()
                except OSError:
                    return
                if isinstance(body, list):
                    time.sleep(0.1)

        def log_message(self, *words):
            pass

    served = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=served.serve_forever, daemon=True).start()
    served.url = f"http://127.0.0.1:{served.server_port}"
    yield served
    served.shutdown()


def devices(*numbers):
    return [{"id": f"d{n}", "name": f"buoy-{n}", "serial": f"BUOY-{n:04d}"} for n in numbers]


FIELDS = {"name": {"from": "name"}, "serial": {"from": "serial"}}


def source_at(answering, **more):
    settings = {"base": answering.url, "list": "devices", "items": "devices", "key": "id", "fields": FIELDS}
    return make_source(
        None, SourceIn.model_validate({"name": "Lanyard", "kind": "device management", "settings": settings, **more})
    )


def synced(source, days=0):
    at = int((datetime.now(UTC) + timedelta(days=days)).timestamp())
    sync = Sync.objects.create(source=source, made_at=at)
    carry_out_sync(sync.pk)
    sync.refresh_from_db()
    return sync


def state_of(asset):
    span = AssetSpan.objects.get(asset=asset, valid_to=None)
    return Term.objects.get(pk=span.state_id).text if span.state_id else None


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        ({"machines": devices(1)}, "no list of devices at “devices”"),
        ({"devices": devices(1, 2), "count": 9}, "2 of the 9 it says there are"),
    ],
)
def test_an_answer_that_is_not_the_whole_takes_nothing_away(answering, answer, says):
    source = source_at(answering, gone="mark")
    answering.with_ = lambda query: {"devices": devices(*range(10))}
    assert synced(source, days=-3).counts["new"] == 10
    source.settings["total"] = "count"
    source.save()
    answering.with_ = lambda query: answer
    sync = synced(source)
    assert says in sync.message
    assert sync.state in ("failed", "part")
    assert "no longer there" not in sync.counts
    assert {state_of(a) for a in Asset.objects.values_list("pk", flat=True)} == {None}


def test_a_great_loss_waits_for_a_yes_and_says_what_it_would_do(answering, as_role, people):
    source = source_at(answering, gone="mark", loss_share=20)
    answering.with_ = lambda query: {"devices": devices(*range(10))}
    synced(source, days=-3)
    decide(people["manager"], list(Asset.objects.values_list("pk", flat=True)), {"standing": "register"}, "adopted")
    seen = dict(Asset.objects.values_list("pk", "last_seen"))
    answering.with_ = lambda query: {"devices": devices(0, 1, 2)}
    held = synced(source, days=-1)
    assert (held.state, held.loss) == ("done", {"devices": 7, "of": 10, "people": 0, "people_of": 0})
    assert {state_of(a) for a in seen} == {"in use"}, "what counts is in use, unless somebody says otherwise"
    assert as_role("operator").post(f"/api/syncs/{held.pk}/loss").status_code == 403
    answer = as_role("manager").post(f"/api/syncs/{held.pk}/loss").json()
    assert (answer["loss"], answer["counts"]["no longer there"]) == (None, 7)
    after = {a: state_of(a) for a in seen}
    assert sorted(after.values()) == ["in use"] * 3 + ["missing"] * 7
    gone = [a for a, state in after.items() if state == "missing"]
    assert {a: Asset.objects.get(pk=a).last_seen for a in gone} == {a: seen[a] for a in gone}, "missed is not seen"
    again = as_role("manager").post(f"/api/syncs/{held.pk}/loss")
    assert (again.status_code, again.json()["field"]) == (422, "sync")
    answering.with_ = lambda query: {"devices": devices(*range(10))}
    synced(source)
    assert {state_of(a) for a in seen} == {"in use"}, "it came back"


def test_a_small_loss_is_dealt_with_at_once_and_a_persons_word_stands(answering, people):
    source = source_at(answering, gone="retire", gone_days=2)
    answering.with_ = lambda query: {"devices": devices(*range(10))}
    synced(source, days=-9)
    assets = list(Asset.objects.order_by("pk").values_list("pk", flat=True))
    decide(people["manager"], assets, {"standing": "register"}, "adopted")
    decide(people["manager"], assets[:1], {"state": "in repair"}, "decided")
    answering.with_ = lambda query: {"devices": devices(*range(2, 10))}
    assert synced(source, days=-6).counts["no longer there"] == 2
    assert {state_of(a) for a in assets[1:]} == {"in use"}, "not yet: after two days"
    assert synced(source, days=-1).loss is None
    assert (state_of(assets[0]), state_of(assets[1]), state_of(assets[2])) == ("in repair", "retired", "in use")


def test_people_are_not_said_to_have_left_in_crowds(answering):
    from tarn.apps.discovery.sources.missing import Missing

    source = source_at(answering)
    for n in range(10):
        Person.objects.create(source="Lanyard", key=str(n), name=f"P{n}", joined_at=1, last_sync=0)
    sync = Sync.objects.create(source=source, made_at=int(time.time()))
    Person.objects.filter(key__in=["0", "1"]).update(last_sync=sync.pk)
    assert Missing(sync).beyond(20) == {"devices": 0, "of": 0, "people": 8, "people_of": 10}
    assert Missing(sync).beyond(80) is None


def page(query):
    """Pages that alternate for ever."""
    return {"devices": devices(*(range(5) if int(query["page"]) % 2 else range(5, 10)))}


@pytest.mark.parametrize(
    ("answers", "settings", "code"),
    [
        (page, {"paging": "page", "size": 5}, "looping-pages"),
        (lambda q: {"devices": devices(1), "next": "again"}, {"paging": "cursor", "next": "next"}, "looping-pages"),
        (lambda q: {"devices": [], "next": "again"}, {"paging": "cursor", "next": "next"}, "looping-pages"),
        (lambda q: [b" "] * 40, {}, "timed-out"),
    ],
)
def test_pages_in_circles_and_answers_by_the_octet_come_to_an_end(answering, monkeypatch, answers, settings, code):
    monkeypatch.setattr(inventory, "LONGEST_ANSWER", 0.5)
    answering.with_ = answers
    made = InventorySettings(answering.url, "devices", "id", "devices", FIELDS, **settings)

    async def read():
        return [f async for f in Inventory(DIRECT, None, made).findings()]

    with pytest.raises(Problem) as caught:
        asyncio.run(read())
    assert caught.value.code == code


def test_one_entry_that_is_no_device_is_said_and_the_others_come(answering):
    source = source_at(answering)
    answering.with_ = lambda query: {"devices": [*devices(1, 2), "a buoy", 7]}
    sync = synced(source)
    assert (sync.state, sync.counts["new"]) == ("done", 2)
    assert [f["label"] for f in sync.faults] == ["a buoy", "7"]


def test_a_source_without_end_frees_its_worker_and_what_came_stays(answering, monkeypatch):
    monkeypatch.setattr(syncing, "LONGEST", 1.0)
    source = source_at(answering)
    source.settings |= {"paging": "page", "size": 5}
    source.save()

    def slowly(query):
        time.sleep(0.3)
        n = int(query["page"]) * 5
        return {"devices": devices(*range(n, n + 5))}

    answering.with_ = slowly
    began = time.monotonic()
    sync = synced(source)
    assert time.monotonic() - began < 5
    assert "in all" in sync.message
    assert sync.state == "part"
    assert Asset.objects.count() >= 5


def test_what_a_killed_worker_left_is_taken_up_again(answering, monkeypatch, people):
    from tarn.apps.discovery.credentials.change import make_credential

    source = source_at(answering)
    answering.with_ = lambda query: {"devices": devices(1)}
    monkeypatch.setattr(recovering, "run_sync", carry_out_sync)
    now = int(time.time())
    left = Sync.objects.create(source=source, made_at=now - 500, state="running", beat=now - 400)
    lost = Sync.objects.create(source=source, made_at=now - 400, state="waiting")
    alive = Sync.objects.create(source=source, made_at=now - 300, state="running", beat=now)
    values = {"name": "k", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": "u"}
    key = make_credential(people["manager"], CredentialIn.model_validate(values), {"password": "x"})
    trial = Trial.objects.create(credential=key, address="10.60.4.9", route="lab", made_at=now - 900, state="running")
    recovering.recover()
    states = {s.pk: s.state for s in Sync.objects.all()}
    assert states == {left.pk: "done", lost.pk: "done", alive.pk: "running"}
    trial.refresh_from_db()
    assert (trial.state, trial.steps[-1]["verdict"]) == ("done", "failed")
