"""Outposts: real processes that ask a real server for work and look at the lab's vessels, which nothing else reaches."""

import gzip
import json
import os
import signal
import subprocess
import sys
import time

import pytest

from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.credentials.trials import start_trial
from tarn.apps.discovery.models import Lease, Network, Outpost, Run, RunAddress, Trial
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.outposts import leasing
from tarn.apps.discovery.outposts.change import make_outpost
from tarn.apps.discovery.outposts.shown import outposts
from tarn.apps.discovery.sweeps import running
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run, steer
from tarn.apps.estate.models import Asset, Sighting
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.sealing import seal
from tarn.collect.outpost.keep import Keep
from tarn.collect.outpost.link import checked_url
from tarn.collect.outpost.wire import SPEECH, Greeting, HandIn, Receipt, WorkOffer, read, write
from tarn.collect.routes import route_named
from tarn.lab import scenario
from tarn.lab.serve import serving

pytestmark = pytest.mark.django_db(transaction=True)
ABOARD = {"tansy-till-01", "tansy-till-02", "tansy-srv-01", "tansy-gw-01"}


@pytest.fixture(scope="module")
def lab():
    with serving(ABOARD) as made:
        yield made


@pytest.fixture
def vessel(people):
    """A vessel's network with two outposts, and a sweep over part of it and one address ashore."""
    network = make_network(
        None, NetworkIn.model_validate({"range": "10.60.20.0/24", "name": "MV Tansy", "place": "MV Tansy"})
    )
    tokens = [make_outpost(None, f"post {n}", [network.pk])[1] for n in (1, 2)]
    linux = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "linux", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": scenario.SSH_USER, "timeout": 3}
        ),
        {"password": scenario.SSH_PASSWORD},
    )
    elsewhere = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "ashore", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": "root", "places": ["Saltholm"]}
        ),
        {"password": "never-to-leave"},
    )
    v3 = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "v3", "protocol": "snmp-v3", "reach": ["10.60.0.0/16"], "user": scenario.SNMP_USER, "timeout": 0.4}
        ),
        {"auth": scenario.SNMP_AUTH, "privacy": scenario.SNMP_PRIVACY},
    )
    for one in (linux, elsewhere, v3):
        one.outposts.set(Outpost.objects.all())
    sweep = make_sweep(
        None,
        SweepIn.model_validate(
            {
                "name": "in port",
                "ranges": ["10.60.20.1", "10.60.20.10", "10.60.20.31-10.60.20.40", "10.60.4.99"],
                "credentials": [linux.pk, elsewhere.pk, v3.pk],
                "route": "lab",
                "patience": 0.4,
            }
        ),
    )
    sweep.tokens, sweep.linux = tokens, linux.pk
    return sweep


@pytest.fixture
def posted(live_server, settings, tmp_path):
    """Start an outpost as a process; all are ended after the test."""
    settings.ALLOWED_HOSTS = ["*"]
    made = []

    def start(token, keep="keep", url=None):
        command = [sys.executable, "-m", "tarn.site.cli_main", "outpost", "--join", url or live_server.url]
        process = subprocess.Popen(
            [*command, "--route", "lab-120", "--keep", str(tmp_path / keep)],
            env={**os.environ, "TARN_OUTPOST_TOKEN": token},
            stderr=subprocess.PIPE,
            text=True,
        )
        made.append(process)
        return process

    yield start
    for process in made:
        process.kill()
        process.communicate()


def until(true, seconds=60):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if found := true():
            return found
        time.sleep(0.1)
    raise AssertionError(f"not within {seconds} s")


def ended(run):
    run.refresh_from_db()
    return run.state not in ("waiting", "running")


def send(client, token, path, document):
    return client.post(
        f"/api/outposts/{path}",
        gzip.compress(document if isinstance(document, bytes) else write(document)),
        content_type="application/json",
        headers={"Authorization": f"Bearer {token}", "Content-Encoding": "gzip"},
    )


def greet(client, token, **said):
    given = {"speech": SPEECH, "release": "1", "at": time.time(), "room": 1, **said}
    return send(client, token, "work", Greeting(**given))


def begun(sweep, people):
    """Start a run and let the worker do its own part."""
    run = plan_run(people["operator"], sweep)
    running.carry_out(run.pk)
    run.refresh_from_db()
    return run


def test_a_vessel_is_swept_by_its_outpost_and_the_shore_from_here(lab, vessel, people, posted):
    run = begun(vessel, people)
    assert run.state == "running", "the outposts have not done yet"
    process = posted(vessel.tokens[0])
    until(lambda: ended(run))
    assert run.state == "done"
    rows = {r.address: (r.outcome, r.code, r.outpost) for r in RunAddress.objects.filter(run=run)}
    assert rows["10.60.4.99"] == ("no answer", "silent", "")
    assert rows["10.60.20.10"] == ("fully read", "read", "post 1")
    assert rows["10.60.20.32"] == ("part read", "cut-off", "post 1")
    assert rows["10.60.20.40"] == ("no answer", "silent", "post 1")
    assert Sighting.objects.filter(address="10.60.20.10").count() == 1
    assert Asset.objects.count() == 6, "four that answer, and two that the router has seen"
    assert not Lease.objects.exists()
    assert process.poll() is None
    process.terminate()
    assert process.communicate(timeout=60)[1].count("order of run") == 1, "each address is looked at once"
    post = Outpost.objects.get(name="post 1")
    assert post.handed == 12
    assert abs(post.skew) < 5


def test_an_outpost_that_dies_loses_nothing_and_a_second_takes_over(lab, vessel, people, posted, client, monkeypatch):
    run = begun(vessel, people)
    # The first takes everything on and is never heard of again.
    assert read(WorkOffer, greet(client, vessel.tokens[0]).content).orders
    assert Lease.objects.get().outpost.name == "post 1"
    assert read(WorkOffer, greet(client, vessel.tokens[1]).content).orders == [], "it is the first one's to look at"
    Lease.objects.update(ends=int(time.time()) - 1)
    posted(vessel.tokens[1])
    until(lambda: ended(run))
    assert run.state == "done"
    assert set(RunAddress.objects.filter(run=run).values_list("outpost", flat=True)) == {"", "post 2"}


def test_an_outpost_begun_anew_gives_back_what_it_was_at(vessel, people, client):
    begun(vessel, people)
    first = read(WorkOffer, greet(client, vessel.tokens[0]).content).orders[0]
    again = read(WorkOffer, greet(client, vessel.tokens[0], leases=[first.lease]).content)
    assert again.orders == []
    renewed = read(WorkOffer, greet(client, vessel.tokens[0]).content).orders[0]
    assert renewed.addresses == first.addresses
    assert renewed.lease != first.lease


def test_orders_carry_only_credentials_for_the_outposts_places(vessel, people, client):
    begun(vessel, people)
    sealed = seal({"password": "never-to-leave"})
    vessel.credentials.create(name="kept ashore", protocol="ssh", port=22, user="u", reach=["::/0"], sealed=sealed)
    answer = greet(client, vessel.tokens[0])
    assert {c["name"] for c in read(WorkOffer, answer.content).orders[0].credentials} == {"linux", "v3"}
    assert b"never-to-leave" not in answer.content


def test_two_outposts_share_a_network(vessel, people, client):
    Run.objects.all().delete()
    vessel.ranges = ["10.60.20.0/24"]
    vessel.save()
    begun(vessel, people)
    for token in vessel.tokens:
        greet(client, token, room=0)
    taken = [read(WorkOffer, greet(client, token).content).orders[0].addresses for token in vessel.tokens]
    assert len(taken[0]) == 127
    assert not set(taken[0]) & set(taken[1])


def test_what_is_found_is_kept_while_the_link_is_down(lab, vessel, people, posted, live_server, tmp_path, monkeypatch):
    """The server refuses to serve for a while; the outpost keeps what it finds and hands it in afterwards."""
    from tarn.apps.discovery.outposts import api as api_outposts

    # Gently, so that what is found surely comes in several hand-ins however quick the machine is.
    Network.objects.update(at_once=1, pause_ms=400)
    run, down = begun(vessel, people), {"now": True}
    take = api_outposts.actions.take_hand_in

    def or_not(*given):
        if down["now"]:
            raise ConnectionError("the link is down")
        return take(*given)

    monkeypatch.setattr(api_outposts.actions, "take_hand_in", or_not)
    process = posted(vessel.tokens[0])
    until(lambda: len(list((tmp_path / "keep").glob("*.json"))) >= 2)
    until(lambda: Outpost.objects.get(name="post 1").kept >= 2)
    process.send_signal(signal.SIGKILL)  # a power cut on top of it
    down["now"] = False
    posted(vessel.tokens[0])
    until(lambda: ended(run))
    assert run.state == "done"
    until(lambda: not list((tmp_path / "keep").glob("*.json")))
    assert Asset.objects.count() == 6, "four that answer, and two that the router has seen"


def test_a_run_gives_up_on_outposts_that_stay_away_and_takes_their_word_later(vessel, people, client):
    run = begun(vessel, people)
    order = read(WorkOffer, greet(client, vessel.tokens[0]).content).orders[0]
    now = int(time.time())
    leasing.tend(now)
    assert not ended(run), "it was heard from just now"
    Outpost.objects.update(last_seen=now - 200)
    Run.objects.update(started_at=now - 200)
    Lease.objects.update(ends=now - 1)
    leasing.tend(now)
    assert ended(run)
    row = RunAddress.objects.get(run=run, address="10.60.20.10")
    assert (run.state, row.outcome, row.code) == ("done", "no answer", "outpost-away")
    assert "post 1, post 2" in row.reason
    found = {"address": "10.60.20.10", "outcome": "answered", "code": "unmanaged", "reason": "late"}
    body = json.dumps({"id": "a", "run": run.pk, "lease": order.lease, "found": [found], "done": True})
    receipt = read(Receipt, send(client, vessel.tokens[0], "found", body.encode()).content)
    assert (receipt.halt, receipt.refused) == (True, {})
    row.refresh_from_db()
    assert (row.outcome, row.outpost) == ("answered", "post 1")


def test_a_run_of_outposts_is_paused_gone_on_with_and_stopped(vessel, people, client, monkeypatch):
    from tarn.apps.discovery.sweeps import runs

    monkeypatch.setattr(runs, "_hand_over", lambda run_id: None)
    run = begun(vessel, people)
    order = read(WorkOffer, greet(client, vessel.tokens[0]).content).orders[0]
    assert steer(people["operator"], run.pk, "pause").state == "running", "an outpost is at it still"
    assert read(WorkOffer, greet(client, vessel.tokens[1]).content).orders == []
    receipt = send(client, vessel.tokens[0], "found", HandIn("b", run.pk, order.lease, done=True))
    assert read(Receipt, receipt.content).halt
    run.refresh_from_db()
    assert run.state == "paused"
    steer(people["operator"], run.pk, "resume")
    running.carry_out(run.pk)
    assert steer(people["operator"], run.pk, "stop").state == "stopped"


def test_an_outpost_may_tell_only_of_addresses_it_was_given(vessel, people, client):
    make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room", "place": "Saltholm"}))
    run = begun(vessel, people)
    order = read(WorkOffer, greet(client, vessel.tokens[0]).content).orders[0]
    from tests.documents import sighting

    lying = sighting("other", 0, identity={"serial": "X-77"}).model_dump(mode="json", by_alias=True)
    found = [
        {"address": "10.60.20.31", "outcome": "answered", "guests": [lying]},
        {"address": "10.60.4.99", "outcome": "answered"},
        {"address": "10.60.20.10", "outcome": "answered", "sighting": lying},
    ]
    body = json.dumps({"id": "a", "run": run.pk, "lease": order.lease, "found": found}).encode()
    refused = read(Receipt, send(client, vessel.tokens[0], "found", body).content).refused
    assert "may look at" in refused["10.60.4.99"]
    assert "speaks for" in refused["10.60.20.10"]
    assert "speaks for another source" in refused["10.60.20.31"]
    assert Asset.objects.count() == 0


def test_what_an_outpost_with_a_wrong_clock_dates_is_put_right(vessel, people, client):
    from datetime import UTC, datetime

    from tarn.core.sections import Identity
    from tarn.core.sightings import compose, make_reading

    run = begun(vessel, people)
    ahead = time.time() + 7200
    order = read(WorkOffer, greet(client, vessel.tokens[0], at=ahead).content).orders[0]
    made = compose(
        ("sweep", "in port"),
        datetime.fromtimestamp(ahead, UTC),
        [make_reading("identity", Identity(serial="TN-1", name="tansy-x"), "reach")],
        address="10.60.20.10",
    )
    found = {"address": "10.60.20.10", "outcome": "answered", "sighting": made.model_dump(mode="json", by_alias=True)}
    body = json.dumps({"id": "a", "run": run.pk, "lease": order.lease, "found": [found]}).encode()
    for _ in range(2):  # handed in twice counts once
        assert send(client, vessel.tokens[0], "found", body).status_code == 200
    held = Sighting.objects.get(address="10.60.20.10")
    assert abs(held.at - time.time()) < 10
    shown = outposts()
    assert "7200 s ahead" in shown[0]["says"]


def test_an_outpost_of_another_release_or_a_withdrawn_one_is_told_so_and_ends(
    vessel, client, as_role, posted, live_server
):
    refused = greet(client, vessel.tokens[0], speech=0, release="0.1")
    assert refused.status_code == 409
    assert "Install the same release" in refused.json()["detail"]
    assert outposts()[0]["state"] == "refused"
    number = Outpost.objects.get(name="post 1").pk
    assert as_role("operator").delete(f"/api/outposts/{number}").status_code == 403
    assert as_role("manager").delete(f"/api/outposts/{number}").status_code == 204
    process = posted(vessel.tokens[0])
    assert process.wait(20) == 1
    assert "was withdrawn" in process.stderr.read()


def test_a_credential_is_tried_by_the_outpost_that_reaches_the_address(lab, vessel, people, posted):
    trial = start_trial(people["manager"], vessel.linux, "10.60.20.31", "lab")
    assert trial.outpost is not None
    Outpost.objects.filter(name="post 2").delete()
    Trial.objects.update(outpost=Outpost.objects.get())
    posted(vessel.tokens[0])
    until(lambda: Trial.objects.get().state == "done")
    verdicts = {s["step"]: s["verdict"] for s in Trial.objects.get().steps}
    assert verdicts["sign-in"] == "passed"
    with pytest.raises(Invalid, match="no network of the outpost"):
        start_trial(people["operator"], vessel.linux, "10.60.4.21", "lab", Outpost.objects.get().pk)


def test_a_trial_no_outpost_takes_on_ends_in_words(vessel, people):
    trial = start_trial(people["operator"], vessel.linux, "10.60.20.31", "lab")
    leasing.tend(int(time.time()) + 200)
    trial.refresh_from_db()
    assert (trial.state, trial.steps[0]["verdict"]) == ("done", "failed")
    assert "none was heard from" in trial.steps[0]["says"]


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b"{", "JSON"),
        (b'{"id":"a","run":1,"lease":"x","found":[{"address":"moon","outcome":"answered"}]}', "no address"),
        (b'{"id":"a","run":999,"lease":"x"}', "no run 999"),
    ],
)
def test_a_hand_in_that_is_none_is_refused_in_words(vessel, client, body, says):
    answer = send(client, vessel.tokens[0], "found", body)
    assert answer.status_code in (404, 422)
    assert says in answer.json()["detail"]


def test_what_was_refused_is_set_aside_and_a_broken_file_is_no_hand_in(tmp_path):
    (tmp_path / "000000000001-abc.part").write_text("half")
    keep = Keep(tmp_path)
    for n in range(3):
        keep.put("lease", b'{"n":%d}' % n)
    first, second, _ = keep.waiting()
    assert keep.leases() == ["lease"]
    assert json.loads(first.read_bytes()) == {"n": 0}
    keep.set_aside(first, "not wanted")
    keep.drop(second)
    assert [json.loads(p.read_bytes())["n"] for p in Keep(tmp_path).waiting()] == [2]
    assert (tmp_path / "refused" / first.name).with_suffix(".txt").read_text() == "not wanted\n"


@pytest.mark.parametrize("url", ["http://tarn.example", "tarn.example", "ftp://127.0.0.1", "http://10.0.0.1"])
def test_credentials_travel_only_over_tls_or_within_the_machine(url):
    with pytest.raises(ValueError, match="https"):
        checked_url(url)
    assert checked_url("http://127.0.0.1:8000/") == "http://127.0.0.1:8000"


def test_a_part_of_the_lab_has_a_route_of_its_own():
    assert route_named("lab-120").dial("10.60.20.31", 22)[0] == "127.120.20.31"
    with pytest.raises(ValueError, match="no route"):
        route_named("lab-0")
