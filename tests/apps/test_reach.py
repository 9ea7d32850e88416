"""A credential goes only where it may: no trial, test, sweep, source, outpost or change gets it elsewhere."""

import json
import socketserver
import threading

import pytest

from tarn.apps.discovery.credentials.acting_access import hands_for
from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Credential, Source
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.outposts.change import make_outpost
from tarn.collect.credentials import SnmpCredential, SshCredential, WinrmCredential, exposed

OWN = {"name": "reader", "protocol": "ssh", "user": "tarn", "reach": ["10.60.4.0/24"]}
TOKEN = {"name": "token", "protocol": "http", "auth": "bearer", "reach": ["127.0.0.2"]}
SECRET = {"password": "low-water-42"}


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


@pytest.fixture
def kept(people):
    return make_credential(None, CredentialIn.model_validate(OWN), SECRET), make_credential(
        None, CredentialIn.model_validate(TOKEN), SECRET
    )


@pytest.fixture
def listener():
    """A server of somebody's own that writes down every byte it is sent."""
    heard = []

    class Hears(socketserver.BaseRequestHandler):
        def handle(self):
            heard.append(self.request.recv(4096))

    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), Hears) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield server.server_address[1], heard
        server.shutdown()


def test_no_trial_at_an_address_of_ones_own(kept, as_role):
    told = {"credential": kept[0].pk, "address": "203.0.113.5", "route": "direct"}
    answer = send(as_role("operator"), "trials", told)
    assert (answer.status_code, answer.json()["field"]) == (422, "address")
    assert "10.60.4.0/24" in answer.json()["detail"]


def test_no_test_and_no_source_at_a_server_of_ones_own(kept, as_role, listener):
    port, heard = listener
    manager = as_role("manager")
    settings = {
        "base": f"http://127.0.0.1:{port}/api",
        "list": "devices",
        "key": "id",
        "fields": {"name": {"from": "n"}},
    }
    source = {"name": "mine", "kind": "inventory", "settings": settings, "credential": kept[1].pk}
    for path in ("sources/test", "sources"):
        answer = send(manager, path, source)
        assert (answer.status_code, answer.json()["field"]) == (422, "credential"), path
    told = {**source, "settings": {**settings, "base": f"http://127.0.0.2:{port}/api"}}
    answer = send(manager, "sources", told)
    assert answer.status_code == 200, answer.content
    made = Source.objects.get()
    moved = send(manager, f"sources/{made.pk}", {**source, "version": 1}, "put")
    assert (moved.status_code, moved.json()["field"]) == (422, "credential")
    assert heard == []


def test_no_sweep_over_ranges_where_it_may_not_be_used(kept, as_role):
    make_network(None, NetworkIn.model_validate({"range": "203.0.113.0/24", "name": "mine", "place": "Quay"}))
    told = {"name": "mine", "ranges": ["203.0.113.0/29"], "credentials": [kept[0].pk]}
    answer = send(as_role("manager"), "sweeps", told)
    assert (answer.status_code, answer.json()["field"]) == (422, "credentials")


def test_tasks_act_only_where_the_credential_may(people):
    make_credential(None, CredentialIn.model_validate({**OWN, "name": "hand", "acts": True}), SECRET)
    assert [h.name for h in hands_for("ssh", "10.60.4.9", "", "")] == ["hand"]
    assert hands_for("ssh", "10.60.5.9", "", "") == []


@pytest.mark.parametrize(
    ("change", "asks"),
    [
        ({"reach": ["10.60.0.0/16"]}, True),
        ({"reach": ["10.60.4.0/24", "desk.example"]}, True),
        ({"port": 2222}, True),
        ({"outposts": "all"}, True),
        ({"protocol": "winrm"}, True),
        ({"reach": ["10.60.4.0/25"]}, False),
        ({"name": "renamed", "preference": 5}, False),
    ],
)
def test_what_lets_a_secret_go_further_asks_for_it_again(kept, as_role, change, asks):
    outpost, _ = make_outpost(
        None, "post", [make_network(None, NetworkIn.model_validate({"range": "10.60.20.0/24", "name": "V"})).pk]
    )
    change = {**change, **({"outposts": [outpost.pk]} if "outposts" in change else {})}
    manager, path = as_role("manager"), f"credentials/{kept[0].pk}"
    body = {**OWN, "version": 1, "port": 22, **change}
    answer = send(manager, path, body, "put")
    assert answer.status_code == (422 if asks else 200), answer.content
    if asks:
        assert answer.json()["field"] == "password"
        assert Credential.objects.get(pk=kept[0].pk).version == 1
        assert send(manager, path, {**body, "secrets": SECRET}, "put").status_code == 200


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"protocol": "ssh", "reach": []}, "reach"),
        ({"protocol": "ssh", "reach": ["10.60.4.999"]}, "reach"),
        ({"protocol": "ldap", "plain": True, "reach": ["10.60.4.0/24"]}, "reach"),
        ({"protocol": "winrm", "auth": "basic", "plain": True, "reach": ["10.60.4.0/24"]}, "reach"),
        ({"protocol": "winrm", "auth": "basic", "plain": True, "reach": ["10.60.4.9"]}, None),
        ({"protocol": "winrm", "auth": "ntlm", "plain": True, "reach": ["10.60.4.0/24"]}, None),
    ],
)
def test_a_password_in_clear_goes_only_to_hosts_named_one_by_one(people, as_role, body, field):
    answer = send(as_role("manager"), "credentials", {"name": "c", "user": "u", "secrets": SECRET, **body})
    assert answer.json().get("field") == field, answer.content


def test_a_source_in_clear_is_not_asked_with_what_is_for_more_than_single_hosts(people, as_role, listener):
    port, heard = listener
    wide = make_credential(None, CredentialIn.model_validate({**TOKEN, "reach": ["127.0.0.0/8"]}), SECRET)
    settings = {
        "base": f"http://127.0.0.1:{port}/api",
        "list": "devices",
        "key": "id",
        "fields": {"name": {"from": "n"}},
    }
    source = {"name": "mine", "kind": "inventory", "settings": settings, "credential": wide.pk}
    answer = send(as_role("manager"), "sources/test", source).json()
    assert "clear text" in answer["problem"]
    assert heard == []


def test_what_shows_a_device_less_of_its_secret_is_less_exposed():
    ssh, winrm = (lambda **m: SshCredential("s", "u", **m)), (lambda how: WinrmCredential("w", "u", manner=how))
    assert exposed(ssh(key="k")) < exposed(ssh(key="k", password="p")) == exposed(ssh(password="p"))
    assert exposed(winrm("kerberos")) < exposed(winrm("ntlm")) < exposed(winrm("basic"))
    assert exposed(SnmpCredential("x", "v3")) < exposed(SnmpCredential("x", "v2c"))
