"""Sweeps as jobs: planned, carried out over the lab's real sockets, paused, killed and gone on with."""

import threading
import time

import pytest

from tarn.apps.discovery import recovering
from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Run, RunAddress
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.sweeps import running, runs
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run, read_again, steer
from tarn.apps.discovery.sweeps.shown import run_page
from tarn.apps.estate.models import Asset, Sighting
from tarn.apps.people.actions.refusals import Invalid
from tarn.lab import scenario
from tarn.lab.serve import serving

NAMES = {
    "salt-tix-01",
    "salt-berth-01",
    "salt-ap-01",
    "salt-sw-11",
    "salt-ws-15",
    "salt-ws-20",
    "salt-prn-05",
    "avrn-kiosk-07",
}


@pytest.fixture(scope="module")
def lab():
    """A few of the lab's devices, the badly behaved among them, served in a thread."""
    with serving(NAMES) as made:
        yield made


@pytest.fixture
def planned(lab, people, transactional_db):
    """A sweep over the addresses of those devices, with an exclusion and a range never to be probed."""
    make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room", "place": "Saltholm"}))
    make_network(None, NetworkIn.model_validate({"range": "10.60.21.0/24", "name": "bridge", "never_probe": True}))
    ids = [
        make_credential(
            None,
            CredentialIn.model_validate(
                {
                    "name": "v3",
                    "protocol": "snmp-v3",
                    "reach": ["10.60.0.0/16"],
                    "user": scenario.SNMP_USER,
                    "timeout": 0.4,
                }
            ),
            {"auth": scenario.SNMP_AUTH, "privacy": scenario.SNMP_PRIVACY},
        ).pk,
        make_credential(
            None,
            CredentialIn.model_validate(
                {"name": "v2", "protocol": "snmp-v2c", "reach": ["10.60.0.0/16"], "timeout": 0.4}
            ),
            {"community": scenario.SNMP_COMMUNITY},
        ).pk,
        make_credential(
            None,
            CredentialIn.model_validate(
                {"name": "linux", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": scenario.SSH_USER, "timeout": 3}
            ),
            {"password": scenario.SSH_PASSWORD},
        ).pk,
    ]
    ranges = [
        "10.60.4.21-10.60.4.24",
        "10.60.5.2",
        "10.60.5.6",
        "10.60.5.15",
        "10.60.5.35",
        "10.60.5.40",
        "10.60.8.47",
        "10.60.20.32",
        "10.60.21.5",
    ]
    return make_sweep(
        None,
        SweepIn.model_validate(
            {
                "name": "night",
                "ranges": ranges,
                "exclusions": ["10.60.4.24"],
                "credentials": ids,
                "route": "lab",
                "patience": 0.4,
            }
        ),
    )


def test_a_sweep_reads_what_it_can_and_says_of_the_rest_why(planned, people):
    run = plan_run(people["operator"], planned)
    running.carry_out(run.pk)
    run.refresh_from_db()
    assert run.state == "done"
    rows = {r.address: r for r in RunAddress.objects.filter(run=run)}
    outcomes = {a: (r.outcome, r.code) for a, r in rows.items()}
    assert outcomes == {
        "10.60.4.21": ("fully read", "read"),
        "10.60.4.22": ("no answer", "silent"),
        "10.60.4.23": ("fully read", "read"),
        "10.60.4.24": ("left out", "excluded"),
        "10.60.5.2": ("fully read", "read"),
        "10.60.5.6": ("fully read", "read"),
        "10.60.5.15": ("part read", "looping"),
        "10.60.5.35": ("answered", "sign-in-refused"),
        "10.60.5.40": ("answered", "timed-out"),
        "10.60.8.47": ("answered", "no-greeting"),
        "10.60.20.32": ("no answer", "silent"),  # aboard: nothing ashore has a way to it
        "10.60.21.5": ("left out", "excluded"),
    }
    assert "linux" in rows["10.60.5.35"].reason
    assert "10.60.21.0/24" in rows["10.60.21.5"].reason
    assert all(r.reason for r in rows.values())
    # Five that were read, and three that told nothing but have a name that leads back to them.
    assert Asset.objects.count() == 8
    assert rows["10.60.5.35"].taken_for == "salt-ws-15"
    page = run_page(run)
    assert page["run"]["done"] == page["run"]["total"] == 10
    assert all(s["past"] == 10 for s in page["run"]["stages"])


def test_a_killed_run_goes_on_where_it_stood(planned, people, monkeypatch):
    run = plan_run(people["operator"], planned)
    done = RunAddress.objects.get(run=run, address="10.60.4.21")
    done.outcome, done.stage = "fully read", 5
    done.save()
    Run.objects.filter(pk=run.pk).update(state="running", at_work=True, beat=int(time.time()))
    assert running.claim(run.pk) is None, "another worker is at it"
    Run.objects.filter(pk=run.pk).update(beat=int(time.time()) - running.STALE - 1)
    handed = []
    monkeypatch.setattr(recovering, "run_sweep", handed.append)
    assert recovering.recover() == [run.pk] == handed
    running.carry_out(run.pk)
    run.refresh_from_db()
    assert run.state == "done"
    assert not Sighting.objects.filter(address="10.60.4.21").exists(), "what was read is not read again"
    assert Sighting.objects.filter(address="10.60.4.23").exists()


def test_a_run_is_paused_and_gone_on_with(planned, people, monkeypatch):
    monkeypatch.setattr(runs, "run_sweep", lambda run_id: None)
    planned.at_once = 1
    planned.save()
    run = plan_run(people["operator"], planned)
    asking = threading.Timer(0.6, lambda: Run.objects.filter(pk=run.pk).update(wish="pause"))
    asking.start()
    running.carry_out(run.pk)
    run.refresh_from_db()
    left = RunAddress.objects.filter(run=run, outcome="waiting").count()
    assert run.state == "paused"
    assert 0 < left < 10
    steer(people["operator"], run.pk, "resume")
    running.carry_out(run.pk)
    run.refresh_from_db()
    assert run.state == "done"
    assert not RunAddress.objects.filter(run=run, outcome="waiting").exists()
    read_again(people["operator"], run.pk, ["10.60.5.6"])
    running.carry_out(run.pk)
    assert Sighting.objects.filter(address="10.60.5.6").count() == 2


def test_one_run_of_a_sweep_at_a_time_and_an_ended_one_takes_no_wish(planned, people):
    run = plan_run(people["operator"], planned)
    with pytest.raises(Invalid, match="under way"):
        plan_run(people["operator"], planned)
    assert steer(people["operator"], run.pk, "stop").state == "stopped"
    with pytest.raises(Invalid, match="ended"):
        steer(people["operator"], run.pk, "pause")


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"ranges": ["10.60.4.1/24"]}, "ranges"),
        ({"ranges": ["10.0.0.0/8"]}, "ranges"),
        ({"ranges": []}, "ranges"),
        ({"exclusions": ["all"]}, "exclusions"),
        ({"exclusions": ["10.60.4.0/24"]}, "exclusions"),
        ({"protocols": ["telnet"]}, "protocols"),
        ({"route": "moon"}, "route"),
        ({"credentials": [99]}, "credentials"),
        ({"at_once": 5000}, "at_once"),
        ({"name": ""}, "name"),
    ],
)
def test_sweeps_that_cannot_stand_are_refused_at_their_field(people, change, field):
    with pytest.raises(Invalid) as caught:
        make_sweep(None, SweepIn.model_validate({"name": "s", "ranges": ["10.60.4.0/24"], **change}))
    assert caught.value.field == field


def test_what_was_offered_is_told_and_one_collector_is_run_again(planned, people, as_role, monkeypatch):
    from tarn.apps.discovery.sweeps import runs

    run = plan_run(people["operator"], planned)
    running.carry_out(run.pk)
    row = RunAddress.objects.get(run=run, address="10.60.4.21")
    told = as_role("viewer").get(f"/api/assets/{row.asset_id}/offers").json()
    assert (told["address"], told["sweep"]) == ("10.60.4.21", "night")
    offers = {o["collector"]: o for o in told["offers"]}
    assert offers["ssh"]["ran"]
    assert offers["ssh"]["sections"] > 10
    assert (offers["winrm"]["ran"], offers["winrm"]["why"]) == (False, "it was read by SSH")
    assert offers["snmp"]["ran"], "there is a credential: only asking tells whether it answers"
    switch = RunAddress.objects.get(run=run, address="10.60.5.2")
    why = {o["collector"]: o["why"] for o in switch.offers}
    assert why["ssh"] == "port 22 does not answer"

    monkeypatch.setattr(runs, "_hand_over", lambda run_id: None)
    body = {"address": "10.60.4.21", "only": "ssh"}
    assert as_role("operator").post("/api/look-again", body, content_type="application/json").status_code == 200
    running.carry_out(run.pk)
    row.refresh_from_db()
    assert (row.outcome, row.only) == ("fully read", "")
    assert {o["collector"]: o["ran"] for o in row.offers} == {"snmp": False, "ssh": True, "winrm": False, "tls": False}
    assert Sighting.objects.filter(address="10.60.4.21").count() == 2
    wrong = as_role("operator").post("/api/look-again", {**body, "only": "telnet"}, content_type="application/json")
    assert "is no collector" in wrong.json()["detail"]
