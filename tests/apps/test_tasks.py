"""Tasks over the lab's real sockets: planned, approved, run, and proven by the reading after."""

import time

import pytest

from tarn.apps.discovery.credentials import expected_keys, given_passwords
from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Credential
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.sweeps import running, runs
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.models import Product
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.models import AuditEntry
from tarn.apps.people.roles import NotAllowed
from tarn.apps.tasks import jobs, working
from tarn.apps.tasks.actions import scripts, tasks
from tarn.apps.tasks.inputs import ScriptIn, TaskIn
from tarn.apps.tasks.models import Task
from tarn.core import tasks as core
from tarn.lab import scenario
from tarn.lab.acting import HAND
from tarn.lab.serve import serving

NAMES = {"salt-berth-01", "salt-crew-01", "salt-hv-01", "salt-pc-01", "salt-pc-02"}
ADDRESSES = ["10.60.4.10", "10.60.4.23", "10.60.4.24", "10.60.5.121", "10.60.5.122"]


@pytest.fixture
def lab():
    """Three Linux computers, one of them with rpm, and two with Windows, afresh for each test: tasks change them."""
    with serving(NAMES) as made:
        yield made


@pytest.fixture
def swept(lab, people, transactional_db, monkeypatch):
    """Those computers read and adopted, with a reader's and a hand's credentials; jobs run where they are asked for."""
    make_network(None, NetworkIn.model_validate({"range": "10.60.4.0/24", "name": "data room", "place": "Saltholm"}))
    make_network(None, NetworkIn.model_validate({"range": "10.60.21.0/24", "name": "bridge", "never_probe": True}))
    reads = {"password": scenario.SSH_PASSWORD}
    ids_ = [
        make_credential(
            None,
            CredentialIn.model_validate(
                {"name": "linux", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": scenario.SSH_USER, "timeout": 3}
            ),
            reads,
        ).pk,
        make_credential(
            None,
            CredentialIn.model_validate(
                {
                    "name": "windows",
                    "protocol": "winrm",
                    "reach": ["10.60.0.0/16"],
                    "user": "SKERRIVANE\\tarn-reader",
                    "timeout": 5,
                }
            ),
            reads,
        ).pk,
    ]
    acts = {"password": scenario.HAND_PASSWORD}
    make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "hand-linux", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": HAND, "acts": True}
        ),
        acts,
    )
    make_credential(
        None,
        CredentialIn.model_validate(
            {
                "name": "hand-windows",
                "protocol": "winrm",
                "reach": ["10.60.0.0/16"],
                "user": f"SKERRIVANE\\{HAND}",
                "acts": True,
            }
        ),
        acts,
    )
    sweep = make_sweep(
        None,
        SweepIn.model_validate(
            {"name": "night", "ranges": ADDRESSES, "credentials": ids_, "route": "lab", "patience": 0.4}
        ),
    )
    running.carry_out(runs.plan_run(people["operator"], sweep).pk)
    found = ids(question("standing = intake and address != none", None))
    decide(people["operator"], found, {"standing": "register", "state": "in use"}, "adopted")
    _hurry(monkeypatch)
    return found


def _hurry(monkeypatch):
    """Jobs run where they are asked for, and nothing waits longer than a second."""
    monkeypatch.setattr(runs, "_hand_over", running.carry_out)
    monkeypatch.setattr(jobs, "run_task", working.carry_out_task)
    monkeypatch.setattr(working, "SETTLES", dict.fromkeys(core.KINDS, 1))
    monkeypatch.setattr(working, "BETWEEN_TRIES", 1)


def _title(name: str) -> int:
    return Product.objects.get(name=name).pk


def _prove(task: Task) -> Task:
    """Look for a task's effect until it is known, as the queue does."""
    for _ in range(20):
        if not working.prove(task.pk):
            break
        time.sleep(1.05)  # a sighting of the very second proves nothing
    task.refresh_from_db()
    return task


def test_a_product_is_uninstalled_everywhere_and_seen_gone(swept, people):
    data = {"kind": "uninstall", "filter": 'software[product = "Quill Office"]', "product": _title("Quill Office")}
    planned = tasks.plan(people["manager"], TaskIn.model_validate(data))
    shown = {p.device.name: p.order.shown for p in planned.devices}
    assert set(shown) == {"salt-pc-01", "salt-pc-02"}
    assert all("remove.exe" in s or "/qn" in s for s in shown.values())
    task = tasks.ask(people["manager"], TaskIn.model_validate({**data, "why": "replaced", "expected": 2}))
    task.refresh_from_db()
    assert task.state == "proving"
    assert {(d.state, d.credential) for d in task.devices.all()} == {("worked", "hand-windows")}
    assert ids(question(data["filter"], None)), "until it is read again it is held to be there"
    _prove(task)
    assert task.state == "done"
    assert {d.proof for d in task.devices.all()} == {"seen"}
    assert not ids(question(data["filter"], None))
    assert AuditEntry.objects.filter(verb="began to uninstall", thing="Quill Office", who="manager").exists()


def test_packages_of_both_managers_go_and_what_others_need_stays(swept, people):
    linux = {"filter": "platform = Linux", "why": "not needed", "kind": "uninstall"}
    task = tasks.ask(people["manager"], TaskIn.model_validate({**linux, "product": _title("sextant-core")}))
    by_name = {d.name: d for d in task.devices.all()}
    assert {d.state for d in by_name.values()} == {"worked"}, {d.name: d.said for d in by_name.values()}
    assert "Removing sextant-core" in by_name["salt-berth-01"].said
    assert {d.proof for d in _prove(task).devices.all()} == {"seen"}
    needed = tasks.ask(
        people["manager"],
        TaskIn.model_validate({**linux, "product": _title("libkeel4"), "filter": "name = salt-berth-01"}),
    )
    one = needed.devices.get()
    assert (one.state, one.code) == ("failed", 1)
    assert "other packages depend on it" in one.said
    assert _prove(needed).devices.get().proof_words == "Read since, and it is still installed."


def test_what_is_updated_is_another_release_at_the_next_reading(swept, people):
    update = {
        "kind": "update",
        "filter": "platform = Linux",
        "why": "SKA-118",
        "product": _title("secure-shell-server"),
    }
    task = tasks.ask(people["manager"], TaskIn.model_validate(update))
    told = {d.name: d for d in _prove(task).devices.all()}
    assert {d.state for d in told.values()} <= {"worked", "refused"}, {d.name: d.said for d in told.values()}
    berth = told["salt-berth-01"]
    assert (berth.proof, "→" in berth.proof_words) == ("seen", True), berth.said
    again = tasks.ask(people["manager"], TaskIn.model_validate({**update, "filter": "name = salt-berth-01"}))
    assert "already the newest version" in _prove(again).devices.get().said
    assert again.devices.get().proof == "not seen"


def test_a_restart_is_proven_by_when_it_started(swept, people):
    task = tasks.ask(
        people["manager"],
        TaskIn.model_validate({"kind": "restart", "filter": "name in (salt-berth-01, salt-pc-01)", "why": "up"}),
    )
    _prove(task)
    assert {(d.state, d.proof) for d in task.devices.all()} == {("worked", "seen")}


def test_the_readers_credential_never_acts(swept, people):
    Credential.objects.filter(name="hand-linux").update(acts=False)
    task = tasks.ask(
        people["manager"], TaskIn.model_validate({"kind": "restart", "filter": "name = salt-berth-01", "why": "up"})
    )
    one = task.devices.get()
    assert one.state == "failed"
    assert "No SSH credential for this place may act" in one.words
    Credential.objects.filter(name="linux").update(acts=True)
    refused = tasks.ask(
        people["manager"], TaskIn.model_validate({"kind": "restart", "filter": "name = salt-berth-01", "why": "up"})
    )
    assert "a password is required" in refused.devices.get().said


@pytest.mark.parametrize(
    ("name", "there", "told"),
    [
        ("salt-berth-01", {"presented_keys": ["SHA256:of-another"]}, "another host key than before"),
        ("salt-berth-01", {}, "is met for the first time"),
        ("salt-pc-01", {"presented_certificates": [5986, "of-another"]}, "another key than before"),
        ("salt-pc-01", {}, "is met for the first time"),
    ],
)
def test_a_task_sends_no_password_but_to_the_device_it_is_for(swept, people, monkeypatch, name, there, told):
    """As though what stands at its address now were not what was read there."""
    assert {"SHA256", "tls"} == {
        key.partition(":")[0].partition("/")[0] for keys in expected_keys.host_keys().values() for key in keys
    }, "both kinds were noted by the sweep"
    for read in ("presented_keys", "presented_certificates"):
        says = [[None, *there[read]]] if read in there else []
        monkeypatch.setattr(expected_keys, read, lambda address, says=says: [(address, *rest) for _, *rest in says])
    task = tasks.ask(
        people["manager"], TaskIn.model_validate({"kind": "restart", "filter": f"name = {name}", "why": "up"})
    )
    one = task.devices.get()
    assert (one.state, one.said, one.credential) == ("failed", "", "")
    assert told in one.words
    assert "not sent" in one.words


def test_a_task_for_many_waits_for_a_second_person(swept, people, settings):
    settings.TARN_TASKS_ALONE = 1
    task = tasks.ask(
        people["manager"], TaskIn.model_validate({"kind": "restart", "filter": "platform = Linux", "why": "kernel"})
    )
    assert task.state == "to approve"
    with pytest.raises(Invalid, match="Another person than the one who asked"):
        tasks.settle_approval(people["manager"], task.pk, approve=True)
    with pytest.raises(NotAllowed):
        tasks.settle_approval(people["operator"], task.pk, approve=True)
    tasks.settle_approval(people["administrator"], task.pk, approve=True)
    task.refresh_from_db()
    assert task.state == "proving"
    assert task.devices.filter(state="worked").count() == 3


def test_a_script_runs_only_as_it_was_reviewed(swept, people):
    chief, other = people["administrator"], make_person(None, "second", "low-water-1234", "administrator")
    made = scripts.write_script(
        chief,
        ScriptIn.model_validate({"name": "no guest", "platform": "Windows", "text": "Remove-LocalUser -Name Guest"}),
    )
    with pytest.raises(Invalid, match="has not been reviewed"):
        tasks.plan(people["manager"], TaskIn.model_validate({"kind": "script", "script": made.pk}))
    with pytest.raises(Invalid, match="Another administrator"):
        scripts.review_script(chief, made.pk, 1)
    scripts.review_script(other, made.pk, 1)
    data = {"kind": "script", "script": made.pk, "filter": "", "why": "policy"}
    planned = tasks.plan(people["manager"], TaskIn.model_validate(data))
    assert {p.order.refused for p in planned.devices} == {"", "The script is for Windows; it runs Linux."}
    before = "accounts[name = Guest] and platform = Windows"
    assert len(ids(question(before, None))) == 2
    _prove(tasks.ask(people["manager"], TaskIn.model_validate(data)))
    assert not ids(question(before, None))
    changed = scripts.change_script(
        chief,
        made.pk,
        1,
        ScriptIn.model_validate(
            {"name": "no guest", "platform": "Windows", "text": "Remove-LocalUser -Name Administrator"}
        ),
    )
    assert not changed.reviewed_by
    with pytest.raises(Invalid, match="has not been reviewed"):
        tasks.ask(people["manager"], TaskIn.model_validate(data))


def test_a_sleeping_device_is_woken(people, transactional_db, monkeypatch):
    _hurry(monkeypatch)
    reads = {"password": scenario.SSH_PASSWORD}
    linux = make_credential(
        None,
        CredentialIn.model_validate(
            {"name": "linux", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": scenario.SSH_USER}
        ),
        reads,
    )
    plan = {"name": "night", "ranges": ["10.60.4.23"], "credentials": [linux.pk], "route": "lab", "patience": 0.3}
    sweep = make_sweep(None, SweepIn.model_validate(plan))
    with serving({"salt-berth-01"}):
        running.carry_out(runs.plan_run(None, sweep).pk)
    found = ids(question("standing = intake", None))
    decide(people["operator"], found, {"standing": "register"}, "adopted")
    with serving({"salt-berth-01"}, asleep=("salt-berth-01",)):
        asleep = runs.plan_run(None, sweep)
        running.carry_out(asleep.pk)
        assert asleep.runaddress_set.get().outcome == "no answer"
        time.sleep(1.05)
        task = tasks.ask(
            people["manager"],
            TaskIn.model_validate({"kind": "wake", "filter": "name = salt-berth-01", "why": "updates tonight"}),
        )
        assert task.devices.get().shown.endswith("to 10.60.4.255, UDP port 9")
        assert _prove(task).devices.get().proof_words == "It answers."


def test_what_cannot_stand_is_said(swept, people, as_role):
    manager = people["manager"]
    for data, words in (
        ({"kind": "restart", "filter": "name = nobody", "why": "x"}, "No device of the register answers"),
        ({"kind": "uninstall", "filter": "", "why": "x"}, "which product"),
        ({"kind": "restart", "filter": "name = salt-pc-01", "why": " "}, "Say why"),
        ({"kind": "restart", "filter": "name = salt-pc-01", "why": "x", "expected": 3}, "was shown for 3 devices"),
    ):
        with pytest.raises(Invalid, match=words):
            tasks.ask(manager, TaskIn.model_validate(data))
    with pytest.raises(NotAllowed):
        tasks.plan(people["operator"], TaskIn.model_validate({"kind": "restart", "filter": ""}))
    viewer = as_role("viewer")
    assert viewer.post("/api/tasks/plan", {"kind": "restart"}, content_type="application/json").status_code == 403
    assert viewer.get("/api/tasks/99").status_code == 404
    assert not Task.objects.exists()


def test_a_password_everybody_knows_is_tried_where_it_may_be_and_found_where_it_is_let_in(swept, people):
    def made(name, password, reach=("10.60.4.0/24",), **more):
        told = {"name": name, "protocol": "ssh", "reach": list(reach), "user": scenario.SSH_USER, "known_to_all": True}
        return make_credential(None, CredentialIn.model_validate(told | more), {"password": password})

    with pytest.raises(Invalid, match="never acts"):
        made("acting", "x", acts=True)
    wrong, right = made("welcome", "welcome1"), made("well known", scenario.SSH_PASSWORD, ("10.60.4.23",))
    sweep = {"name": "s", "ranges": ["10.60.4.0/24"], "credentials": [wrong.pk], "route": "lab"}
    with pytest.raises(Invalid, match="never read with"):
        make_sweep(None, SweepIn.model_validate(sweep))
    linux = {"10.60.4.10", "10.60.4.23", "10.60.4.24"}
    tried = given_passwords.try_everywhere(people["manager"], wrong.pk)
    assert {t.address for t in tried} == linux
    given_passwords.carry_out([t.pk for t in tried])
    assert count(question("given_password = no")) == 3
    [trial] = given_passwords.try_everywhere(people["manager"], right.pk)
    assert trial.address == "10.60.4.23"
    given_passwords.carry_out([trial.pk])
    assert [r["name"] for r in rows_named("given_password = yes")] == ["salt-berth-01"]
    with pytest.raises(Invalid, match="No device is due"):
        given_passwords.try_everywhere(people["manager"], right.pk)
    third = made("letmein", "letmein", ("10.60.4.23", "10.60.4.24"))
    due = {t.address for t in given_passwords.try_everywhere(people["manager"], third.pk)}
    assert due == {"10.60.4.24"}, "a device is asked with two passwords a day at the most"
    with pytest.raises(Invalid, match="used to read"):
        given_passwords.try_everywhere(people["manager"], Credential.objects.get(name="linux").pk)
    assert given_passwords.try_what_is_due() == []


def rows_named(text):
    return list(rows_of("asset", ["name"], question(text), "", []))
