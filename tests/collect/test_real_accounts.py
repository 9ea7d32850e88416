"""Sign-ins to a real OpenSSH server with PAM, as accounts in each of the states that keep somebody out."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest

from tarn.collect.credentials import SshCredential
from tarn.collect.look import LookSettings, look
from tarn.collect.presented import Expected
from tarn.collect.routes import DIRECT
from tarn.collect.trial import try_credential
from tests.collect.test_real_host import SSHD, connects, free_port, process

pytestmark = [
    pytest.mark.host,
    pytest.mark.skipif(not SSHD or os.getuid() != 0 or not shutil.which("useradd"), reason="needs root and sshd"),
]
PASSWORD = "ebb-and-flow-7"
STATES = {
    "fit": [],
    "stale": ["chage", "-d", "0"],
    "over": ["chage", "-E", "1"],
    "locked": ["usermod", "-L"],
    "shut": ["usermod", "-s", "/usr/sbin/nologin"],
}


def called(state):
    return f"tarn-{state}-{os.getpid() % 10_000}"


@pytest.fixture(scope="module")
def accounts():
    hashed = subprocess.run(["openssl", "passwd", "-6", PASSWORD], capture_output=True, text=True, check=True)
    for state, change in STATES.items():
        subprocess.run(["useradd", "-M", "-s", "/bin/sh", "-p", hashed.stdout.strip(), called(state)], check=True)
        if change:
            subprocess.run([*change, called(state)], check=True)
    yield
    for state in STATES:
        subprocess.run(["userdel", called(state)], check=True)


@pytest.fixture(scope="module")
def server(accounts, tmp_path_factory):
    folder = tmp_path_factory.mktemp("sshd-pam")
    for name in ("host", "other"):
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", folder / name], check=True)
    port = free_port()
    (folder / "config").write_text(
        f"Port {port}\nListenAddress 127.0.0.1\nHostKey {folder}/host\nUsePAM yes\nPasswordAuthentication yes\n"
        "KbdInteractiveAuthentication no\nPidFile none\n"
    )
    Path("/run/sshd").mkdir(exist_ok=True)
    with process([str(SSHD), "-D", "-f", str(folder / "config")], lambda: connects(port)):
        yield port


def credential(state, port):
    return SshCredential("crew", called(state), PASSWORD, port=port, timeout=10)


@pytest.mark.parametrize(
    ("state", "step", "code", "words"),
    [
        ("stale", "session", "password-expired", "password has expired"),
        ("over", "sign-in", "account-expired", "account has expired"),
        ("locked", "sign-in", "sign-in-refused", "refused the sign-in"),
        ("shut", "session", "no-shell", "not available"),
    ],
)
async def test_each_state_is_told_alike_by_trial_and_sweep(server, state, step, code, words):
    steps = {s.step: s async for s in try_credential(DIRECT, "127.0.0.1", credential(state, server), Expected())}
    assert steps[step].verdict == "failed", steps
    assert words in steps[step].says
    settings = LookSettings(DIRECT, (credential(state, server),), frozenset({"ssh"}), patience=2, ports=(server,))
    found = await look("127.0.0.1", settings)
    assert (found.outcome, found.code) == ("answered", code)
    assert found.readings == [] or all(r.section == "ports" for r in found.readings)


async def test_an_ordinary_account_is_fully_read_and_says_what_it_is_not_shown(server):
    steps = {s.step: s async for s in try_credential(DIRECT, "127.0.0.1", credential("fit", server), Expected())}
    assert steps["command"].verdict == "passed"
    assert "is no administrator" in steps["rights"].says
    settings = LookSettings(DIRECT, (credential("fit", server),), frozenset({"ssh"}), patience=2, ports=(server,))
    found = await look("127.0.0.1", settings)
    by = {r.collector: r for r in found.readings}
    if "ssh.ports" in by:
        assert by["ssh.ports"].unseen == ("process",)
        assert (server, "127.0.0.1") not in [(p.port, p.bound) for p in by["ssh.ports"].items], "loopback is left out"
    assert by["ssh.accounts"].unseen == ("enabled", "administrator")
    assert "ssh.containers" not in by


async def test_no_password_is_sent_to_a_host_with_another_key(server):
    """The server would let it in: that it does not come so far shows that nothing was sent."""
    met = frozenset({"SHA256:" + "x" * 43})
    steps = {s.step: s async for s in try_credential(DIRECT, "127.0.0.1", credential("fit", server), Expected(met))}
    assert (steps["server"].verdict, steps["server"].code) == ("failed", "another-key")
    assert steps["sign-in"].verdict == "not reached"
    keys = {"127.0.0.1": met}
    settings = LookSettings(
        DIRECT, (credential("fit", server),), frozenset({"ssh"}), patience=2, ports=(server,), host_keys=keys
    )
    found = await look("127.0.0.1", settings)
    assert (found.outcome, found.code) == ("answered", "another-key")
    moved = LookSettings(
        DIRECT,
        (credential("fit", server),),
        frozenset({"ssh"}),
        patience=2,
        ports=(server,),
        host_keys=keys,
        keys_met=frozenset({found.met["key"]}),
    )
    assert (await look("127.0.0.1", moved)).code != "another-key", "a known machine at another's address"
