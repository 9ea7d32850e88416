"""The same collectors against this machine: a real OpenSSH server and a real net-snmp agent on loopback.

What comes back is compared with what the machine's own commands say.
"""

import asyncio
import contextlib
import os
import pwd
import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from tarn.collect.credentials import SnmpCredential, SshCredential
from tarn.collect.look import LookSettings, look
from tarn.collect.presented import Expected
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT
from tarn.collect.snmp.client import snmp
from tarn.collect.snmp.read import read_all as read_snmp
from tarn.collect.ssh.client import ssh
from tarn.collect.trial import try_credential
from tarn.core.sightings import effective

SSHD, SNMPD = shutil.which("sshd", path="/usr/sbin:/usr/bin"), shutil.which("snmpd", path="/usr/sbin:/usr/bin")
pytestmark = [pytest.mark.host, pytest.mark.skipif(not SSHD or not SNMPD, reason="needs openssh-server and snmpd")]

ME = pwd.getpwuid(os.getuid()).pw_name


def free_port(kind: int = socket.SOCK_STREAM) -> int:
    with socket.socket(socket.AF_INET, kind) as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextlib.contextmanager
def process(command: list[str], ready: "object") -> Iterator[None]:
    running = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        until = time.monotonic() + 10
        while not ready() and time.monotonic() < until:  # type: ignore[operator]
            assert running.poll() is None, f"{command[0]} ended by itself"
            time.sleep(0.05)
        yield
    finally:
        running.terminate()
        running.wait(5)


def connects(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0


@pytest.fixture(scope="module")
def sshd(tmp_path_factory: pytest.TempPathFactory) -> Iterator[SshCredential]:
    folder = tmp_path_factory.mktemp("sshd")
    for name in ("host", "user"):
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", folder / name], check=True)
    (folder / "authorized").write_text((folder / "user.pub").read_text())
    (folder / "authorized").chmod(0o600)
    port = free_port()
    (folder / "config").write_text(
        f"Port {port}\nListenAddress 127.0.0.1\nHostKey {folder}/host\nAuthorizedKeysFile {folder}/authorized\n"
        "StrictModes no\nUsePAM no\nPasswordAuthentication no\nPermitRootLogin yes\nPidFile none\n"
    )
    Path("/run/sshd").mkdir(exist_ok=True)
    with process([str(SSHD), "-D", "-f", str(folder / "config")], lambda: connects(port)):
        yield SshCredential("real", ME, key=(folder / "user").read_text(), port=port, timeout=20)


@pytest.fixture(scope="module")
def snmpd(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[SnmpCredential, SnmpCredential]]:
    folder = tmp_path_factory.mktemp("snmpd")
    port = free_port(socket.SOCK_DGRAM)
    (folder / "snmpd.conf").write_text(
        f"agentaddress udp:127.0.0.1:{port}\nrocommunity seaweed 127.0.0.1\nsysLocation Slipway\n"
        "createUser tide SHA-256 tide-auth-pass AES tide-priv-pass\nrouser tide priv\n"
    )
    command = [
        str(SNMPD),
        "-f",
        "-Lf",
        str(folder / "log"),
        "-C",
        "-c",
        str(folder / "snmpd.conf"),
        "-p",
        str(folder / "pid"),
    ]
    os.environ["SNMP_PERSISTENT_DIR"] = str(folder)
    asked = ["snmpget", "-v2c", "-c", "seaweed", "-t", "0.3", "-r", "0", f"127.0.0.1:{port}", "1.3.6.1.2.1.1.5.0"]
    with process(command, lambda: subprocess.run(asked, capture_output=True, check=False).returncode == 0):
        v3 = SnmpCredential(
            "v3", "v3", user="tide", auth_secret="tide-auth-pass", privacy_secret="tide-priv-pass", port=port, timeout=3
        )
        yield SnmpCredential("v2", "v2c", community="seaweed", port=port, timeout=3), v3


def out(*command: str) -> str:
    return subprocess.run(command, capture_output=True, text=True, check=True).stdout


async def test_ssh_reads_what_the_machine_itself_says(sshd):
    settings = LookSettings(DIRECT, (sshd,), frozenset({"ssh"}), patience=2, ports=(sshd.port,))
    found = await look("127.0.0.1", settings)
    sections = {r.section: r for r in reversed(found.readings) if r.section != "identity"}
    assert found.outcome in ("fully read", "part read"), found.reason
    release = dict(line.split("=", 1) for line in Path("/etc/os-release").read_text().splitlines() if "=" in line)
    booted = next(r.facts.booted for r in found.readings if r.collector == "ssh.boot")
    assert f"btime {booted}\n" in Path("/proc/stat").read_text()
    assert sections["system"].facts.os_version == release["VERSION_ID"].strip('"')
    assert sections["system"].facts.os_kernel == out("uname", "-r").strip()
    listed = {
        tuple(line.split(" ")[:2])
        for line in out("dpkg-query", "-W", "-f", "${Package} ${Version} ${db:Status-Status}\n").splitlines()
        if line.endswith(" installed")
    }
    assert {(p.name, p.version) for p in sections["packages"].items} == listed
    assert sections["packages"].complete
    accounts = {a.name: a for a in sections["accounts"].items}
    there = {line.split(":")[0] for line in Path("/etc/passwd").read_text().splitlines()}
    # Accounts that other tests make on this machine come and go meanwhile.
    assert {n for n in accounts if not n.startswith("tarn-")} == {n for n in there if not n.startswith("tarn-")}
    assert accounts["root"].administrator
    assert not accounts["nobody"].enabled
    assert sections["hardware"].facts.cores <= os.cpu_count() * 2
    total = next(
        int(w.split()[1]) * 1024 for w in Path("/proc/meminfo").read_text().splitlines() if w.startswith("MemTotal")
    )
    assert sections["hardware"].facts.memory >= total
    identity = [r.facts for r in found.readings if r.section == "identity"]
    assert any(i.name == socket.gethostname().split(".")[0] for i in identity)
    assert any(k.startswith("SHA256:") for i in identity for k in i.keys)
    if "filesystems" in sections:
        assert any(f.mount == "/" for f in sections["filesystems"].items) == any(
            line.split()[-1] == "/" and line.split()[1] not in ("overlay", "squashfs", "tmpfs")
            for line in out("df", "-PT").splitlines()[1:]
        )


async def test_snmp_reads_a_real_agent_by_v2c_and_v3_alike(snmpd):
    read = {}
    for credential in snmpd:
        async with snmp(DIRECT, "127.0.0.1", credential) as walker:
            readings, problems = await read_snmp(walker)
        assert problems == []
        read[credential.version] = {r.section: r for r in readings}
    for sections in read.values():
        assert sections["system"].facts.platform == "Linux"
        assert sections["system"].facts.location == "Slipway"
        assert sections["system"].facts.os_kernel == out("uname", "-r").strip()
        listed = set(out("dpkg-query", "-W", "-f", "${Package}\n").splitlines())
        named = {p.name for p in sections["packages"].items}
        assert len(named & listed) > 0.9 * len(named) > 50
        processors = sections["hardware"].facts.cores
        assert processors == os.cpu_count()
    assert read["v2c"]["packages"].items == read["v3"]["packages"].items


async def test_ways_to_fail_are_told_apart(sshd, snmpd):
    async def code(opening: "object") -> str:
        with pytest.raises(Problem) as caught:
            async with opening as opened:  # type: ignore[attr-defined]
                await opened.get(["1.3.6.1.2.1.1.5.0"])
        return caught.value.code

    v2, v3 = snmpd
    wrong_user = SshCredential("w", "nobody-here", password="x", port=sshd.port, timeout=5)
    closed = SshCredential("c", ME, password="x", port=free_port(), timeout=5)
    assert await code(ssh(DIRECT, "127.0.0.1", wrong_user, Expected())) == "sign-in-refused"
    assert await code(ssh(DIRECT, "127.0.0.1", closed, Expected())) == "refused"
    silent = SnmpCredential("s", "v2c", community="wrong", port=v2.port, timeout=0.3)
    assert await code(snmp(DIRECT, "127.0.0.1", silent)) == "snmp-silent"
    for change in ({"user": "ebb"}, {"auth_secret": "not-the-secret"}):
        wrong = SnmpCredential(**{**{f: getattr(v3, f) for f in v3.__slots__}, **change})
        assert await code(snmp(DIRECT, "127.0.0.1", wrong)) == "sign-in-refused"


async def test_a_wrong_privacy_secret_is_told_from_silence_and_nonsense_is_said(snmpd):
    wrong = replace(snmpd[1], privacy_secret="not-the-secret", timeout=0.5)
    steps = {s.step: s async for s in try_credential(DIRECT, "127.0.0.1", wrong, Expected())}
    assert "privacy secret" in steps["sign-in"].says
    found = await look("127.0.0.1", LookSettings(DIRECT, (wrong,), frozenset({"snmp"}), patience=0.5, ports=(9,)))
    assert found.code == "privacy-refused"
    loop = asyncio.get_running_loop()

    class Babble(asyncio.DatagramProtocol):
        def connection_made(self, transport):
            self.transport = transport

        def datagram_received(self, data, address):
            self.transport.sendto(b"\x30\x82\x00\x05hello", address)

    port = free_port(socket.SOCK_DGRAM)
    transport, _ = await loop.create_datagram_endpoint(Babble, local_addr=("127.0.0.1", port))
    babbled = SnmpCredential("v2", "v2c", community="x", port=port, timeout=0.5)
    found = await look("127.0.0.1", LookSettings(DIRECT, (babbled,), frozenset({"snmp"}), patience=0.5, ports=(9,)))
    transport.close()
    assert "offers neither" not in found.reason
    assert found.code in ("nonsense", "silent"), found.reason


async def test_one_sighting_joins_what_both_protocols_read(sshd, snmpd):
    settings = LookSettings(DIRECT, (snmpd[0], sshd), patience=2, ports=(sshd.port,))
    found = await look("127.0.0.1", settings)
    sighting = found.sighting(("sweep", "here"), "Slipway")
    assert sighting is not None
    chosen = effective(sighting)
    assert chosen["packages"].collector == "ssh.packages"
    assert chosen["placement"].facts.place == "Slipway"
