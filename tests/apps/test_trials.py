"""Trials and credentials over the API: secrets stay in, refusals are held, places and roles count."""

import asyncio
import threading

import pytest

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.credentials.trying import carry_out_trial
from tarn.apps.discovery.models import AcceptedKey, Credential, Network, Trial
from tarn.collect.credentials import HttpCredential, LdapCredential, WinrmCredential
from tarn.lab.serve import Lab

pytestmark = pytest.mark.django_db(transaction=True)
WINDOWS = {
    "name": "win",
    "protocol": "winrm",
    "reach": ["10.60.0.0/16"],
    "user": "SKERRIVANE\\tarn-reader",
    "secrets": {"password": "low-water-42"},
}


@pytest.fixture
def running_lab():
    ready, stop = threading.Event(), threading.Event()

    async def serve():
        lab = Lab(400)
        await lab.start({"salt-pc-01", "salt-pc-05", "avrn-till-06"})
        ready.set()
        while not stop.is_set():
            await asyncio.sleep(0.05)
        await lab.stop()

    thread = threading.Thread(target=lambda: asyncio.run(serve()))
    thread.start()
    assert ready.wait(10)
    yield
    stop.set()
    thread.join()


@pytest.fixture(autouse=True)
def _jobs_at_once(monkeypatch):
    monkeypatch.setattr("tarn.apps.discovery.credentials.trials.run_trial", carry_out_trial)


def made(client, **change):
    answer = client.post("/api/credentials", {**WINDOWS, **change}, content_type="application/json")
    assert answer.status_code == 200, answer.content
    return answer.json()


def tried(client, credential, address="10.60.5.121"):
    answer = client.post(
        "/api/trials", {"credential": credential, "address": address, "route": "lab"}, content_type="application/json"
    )
    return client.get(f"/api/trials/{answer.json()['id']}") if answer.status_code == 200 else answer


def test_every_kind_of_credential_opens_as_collectors_use_it(as_role):
    manager = as_role("manager")
    made(manager)
    made(
        manager, name="dir", protocol="ldap", user="cn=tarn,dc=skerrivane,dc=example", plain=True, reach=["10.60.4.60"]
    )
    made(manager, name="key", protocol="http", auth="header", user="X-Harbour-Key")
    kinds = {c.name: opened(c) for c in Credential.objects.all()}
    assert isinstance(kinds["win"], WinrmCredential)
    assert (kinds["win"].manner, kinds["win"].port, kinds["win"].password) == ("ntlm", 5986, "low-water-42")
    assert isinstance(kinds["dir"], LdapCredential)
    assert (kinds["dir"].port, kinds["dir"].plain) == (389, True)
    assert isinstance(kinds["key"], HttpCredential)
    assert (kinds["key"].manner, kinds["key"].user) == ("header", "X-Harbour-Key")
    assert "low-water" not in repr(kinds) + manager.get("/api/credentials").content.decode()


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"auth": "digest"}, "auth"),
        ({"user": ""}, "user"),
        ({"secrets": {}}, "password"),
        ({"secrets": {"community": "x"}}, "community"),
        ({"port": 70000}, "port"),
    ],
)
def test_a_credential_that_cannot_stand_names_its_field(as_role, change, field):
    answer = as_role("manager").post("/api/credentials", {**WINDOWS, **change}, content_type="application/json")
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_a_trial_runs_its_steps_and_counts_refusals_of_the_directory(as_role, running_lab):
    manager = as_role("manager")
    number = made(manager)["id"]
    trial = tried(manager, number).json()
    assert trial["state"] == "done"
    assert [s["verdict"] for s in trial["steps"]].count("failed") == 0
    for _ in range(2):
        refused = tried(manager, number, "10.60.5.125").json()
    assert refused["refusals"] == 2
    manager.post(
        f"/api/credentials/{number}/secret", {"secrets": {"password": "low-water-42"}}, content_type="application/json"
    )
    assert Credential.objects.get().refusals == 0


def test_an_expired_password_is_renewed_beside_the_trial(as_role, running_lab):
    manager = as_role("manager")
    number = made(manager, name="tills", protocol="ssh", user="tarn-reader")["id"]
    steps = {s["step"]: s for s in tried(manager, number, "10.60.8.76").json()["steps"]}
    assert "expired" in steps["sign-in"]["says"]
    renewed = manager.post(
        f"/api/credentials/{number}/secret", {"secrets": {"password": "low-water-43"}}, content_type="application/json"
    )
    assert renewed.status_code == 200
    steps = {s["step"]: s for s in tried(manager, number, "10.60.8.76").json()["steps"]}
    assert steps["rights"]["verdict"] in ("passed", "noted")


def test_another_host_key_is_accepted_beside_the_trial_and_only_by_those_who_may(as_role, running_lab):
    manager = as_role("manager")
    number = made(manager, name="tills", protocol="ssh", user="tarn-reader", secrets={"password": "low-water-43"})["id"]
    AcceptedKey.objects.create(address="10.60.8.76", fingerprint="SHA256:" + "o" * 43, accepted_at=1)
    trial = tried(manager, number, "10.60.8.76").json()
    server = next(s for s in trial["steps"] if s["step"] == "server")
    assert (server["verdict"], server["code"]) == ("failed", "another-key")
    assert as_role("operator").post(f"/api/trials/{trial['id']}/key").status_code == 403
    accepted = manager.post(f"/api/trials/{trial['id']}/key").json()
    assert accepted["fingerprint"] in server["says"]
    again = tried(manager, number, "10.60.8.76").json()
    assert [s["verdict"] for s in again["steps"]].count("failed") == 0
    refused = manager.post(f"/api/trials/{again['id']}/key")
    assert (refused.status_code, refused.json()["field"]) == (422, "trial")


def test_a_first_host_key_is_accepted_only_by_those_who_may(as_role, running_lab):
    manager, operator = as_role("manager"), as_role("operator")
    number = made(manager, name="tills", protocol="ssh", user="tarn-reader", secrets={"password": "low-water-43"})["id"]
    trial = tried(operator, number, "10.60.8.76").json()
    by = {s["step"]: s for s in trial["steps"]}
    assert (by["server"]["verdict"], by["server"]["code"]) == ("failed", "first-key")
    assert by["sign-in"]["verdict"] == "not reached", "the password was not sent"
    assert operator.post(f"/api/trials/{trial['id']}/key").status_code == 403
    assert manager.post(f"/api/trials/{trial['id']}/key").status_code == 200
    again = tried(operator, number, "10.60.8.76").json()
    assert [s["verdict"] for s in again["steps"]].count("failed") == 0


def test_a_trial_never_probes_what_must_not_be_probed_nor_runs_for_a_viewer(as_role):
    manager = as_role("manager")
    number = made(manager)["id"]
    Network.objects.create(range="10.60.21.0/24", name="bridge", never_probe=True)
    answer = tried(manager, number, "10.60.21.7")
    assert (answer.status_code, answer.json()["field"]) == (422, "address")
    assert tried(manager, number, "somewhere").json()["field"] == "address"
    assert tried(as_role("viewer"), number).status_code == 403
    assert tried(manager, 999).status_code == 404
    assert not Trial.objects.exists()
    assert (
        as_role("operator")
        .post(f"/api/credentials/{number}/secret", {"secrets": {"password": "x"}}, content_type="application/json")
        .status_code
        == 403
    )
