"""What a Linux computer is doing: services, connections, containers, guests, and when it was last started."""

import re
from collections.abc import Callable
from typing import Any

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import ParseError, fromstring

from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, Unread
from tarn.core.items import Connection, Container, Guest, Install, Service
from tarn.core.sections import System
from tarn.core.sightings import make_reading

_STARTS = {"enabled": "automatic", "enabled-runtime": "automatic", "disabled": "disabled", "masked": "disabled"}
EPHEMERAL = 32_768
"""Local ports from here on are the system's own choice for connections it opens (ip-sysctl: ip_local_port_range)."""


def services(output: Output) -> list[Any]:
    """Read services of systemctl: units as they run, then unit files as they start. Without systemd there are none."""
    units, _, files = output.out.partition(f"{MARK}\n")
    starts = {}
    for line in files.splitlines():
        words = line.split()
        if len(words) >= 2 and words[0].endswith(".service"):
            starts[words[0]] = _STARTS.get(words[1], "manual")
    items = {}
    for line in units.splitlines():
        words = line.strip().lstrip("●*").split(None, 4)
        if len(words) < 4 or not words[0].endswith(".service") or words[1] == "not-found":
            continue
        name = words[0].removesuffix(".service")
        label = words[4].strip()[:480] if len(words) > 4 else ""
        items[name] = Service(
            name=name[:300], label=label, start=starts.get(words[0], "manual"), running=words[2] == "active"
        )
    return [make_reading("services", [items[k] for k in sorted(items)], "ssh.services")] if items else []


_PEER = re.compile(r"^\[?(?P<address>[0-9a-fA-F:.]+?)(?:%\w+)?\]?:(?P<port>\d+)$")
_HOLDER = re.compile(r'users:\(\("([^"]+)"')


def connections(output: Output) -> list[Any]:
    """Read what processes are connected to, of ss; connections that others opened to this computer are left out."""
    held = {}
    for line in output.out.splitlines():
        words = line.split()
        if words and words[0] == "ESTAB":
            words = words[1:]
        if len(words) < 4 or not (holder := _HOLDER.search(line)):
            continue
        local, peer = _PEER.match(words[2]), _PEER.match(words[3])
        if not local or not peer or peer["address"].startswith(("127.", "::1")):
            continue
        if int(local["port"]) < EPHEMERAL <= int(peer["port"]):
            continue
        address = peer["address"].removeprefix("::ffff:")
        one = Connection(process=holder[1][:300], peer=address, port=int(peer["port"]))
        held[one.process, one.peer, one.port] = one
    if not held and not output.out.strip() and output.code not in (0, None):
        raise Unread("ss is not there, or shows nothing to this account")
    return [make_reading("connections", [held[k] for k in sorted(held)], "ssh.connections")]


def containers(output: Output) -> list[Any]:
    """Read containers of docker or podman, running or not; nothing where neither is installed."""
    installed, _, listed = output.out.partition(f"{MARK}\n")
    if not installed.strip():
        return []
    items = {}
    refused = ""
    for line in listed.splitlines():
        words = line.split("\t")
        if len(words) == 3 and words[0]:
            items[words[0]] = Container(name=words[0][:300], image=words[1][:480], running=words[2] == "running")
        elif "denied" in line.lower() or "cannot connect" in line.lower():
            refused = line.strip()[:200]
    if refused and not items:
        raise Unread(refused)
    return [make_reading("containers", [items[k] for k in sorted(items)], "ssh.containers")]


_DAY, _WEEK = 86_400, 7 * 86_400
_LIST = re.compile(r"(?:.*/)?([^/:]+)(?::\w+)?\.list$")


def installs(output: Output) -> list[Any]:
    """Read when packages were installed and when one of their programs was last started.

    dpkg keeps a package's list of files, written when it was installed; rpm the time itself. A program's last start is
    the time its file was last read (stat(1), %X). A system that does not keep that time leaves it at the time of
    installing, so only a later one counts.
    """
    dated, _, rest = output.out.partition(f"{MARK}\n")
    listed, _, read = rest.partition(f"{MARK}\n")
    installed: dict[str, int] = {}
    for line in dated.splitlines():
        at, _, name = line.partition(" ")
        if at.isdigit() and name:
            found = _LIST.match(name)
            installed[found[1] if found else name] = int(at)
    started = {path: int(at) for at, _, path in (line.partition(" ") for line in read.splitlines()) if at.isdigit()}
    used: dict[str, int] = {}
    for line in listed.splitlines():
        where, _, program = line.rpartition(":")
        found = _LIST.match(where)
        last = started.get(program, 0)
        if found and last > installed.get(found[1], last) + _DAY:
            used[found[1]] = max(last, used.get(found[1], 0))
    items = [
        Install(name=name, installed=put - put % _DAY, used=used[name] - used[name] % _WEEK if name in used else None)
        for name, put in sorted(installed.items())
    ]
    return [make_reading("installs", items, "ssh.installs", complete=output.cut is None)] if items else []


def booted(output: Output) -> list[Any]:
    """Read when the kernel was started (proc_stat(5): btime, seconds since 1970)."""
    found = re.search(r"^btime (\d+)$", output.out, re.M)
    return [make_reading("system", System(booted=int(found[1])), "ssh.boot")] if found else []


_MAC = re.compile(r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")
_STATES = {"shut off": "off", "in shutdown": "off", "idle": "running", "pmsuspended": "suspended"}
_UNITS = {"b": 1, "bytes": 1, "kb": 1000, "k": 1 << 10, "kib": 1 << 10, "mb": 10**6, "m": 1 << 20, "mib": 1 << 20,
          "gb": 10**9, "g": 1 << 30, "gib": 1 << 30}  # fmt: skip


def guests(output: Output) -> list[Any]:
    """Read guests of libvirt: domain XML (libvirt's format of domains) and state, in turn; none where it is no host."""
    parts = [p.strip() for p in output.out.split(MARK)]
    items, unread = {}, 0
    for described, state in zip(parts[::2], parts[1::2], strict=False):
        if not described:
            continue
        try:
            one = _guest(described, state)
        except (ParseError, DefusedXmlException, ValueError):
            unread += 1
            continue
        items[one.uuid] = one
    if not items and not unread:
        return []
    note = f"{unread} guests could not be read: their description is no domain XML" if unread else ""
    listed = [items[k] for k in sorted(items)]
    return [make_reading("guests", listed, "ssh.guests", complete=not unread, note=note)]


def _guest(described: str, state: str) -> Guest:
    domain = fromstring(described)
    uuid = (domain.findtext("uuid") or "").strip().lower()
    if domain.tag != "domain" or not uuid:
        raise ValueError("no domain")
    memory = domain.find("memory")
    bytes_ = None
    if memory is not None and (memory.text or "").strip().isdigit():
        bytes_ = int(memory.text.strip()) * _UNITS.get(memory.get("unit", "KiB").lower(), 1 << 10)
    cores = (domain.findtext("vcpu") or "").strip()
    disks = [
        s.get("file") or s.get("dev") or s.get("name") or s.get("volume") or ""
        for d in domain.findall("devices/disk")
        if d.get("device", "disk") == "disk" and (s := d.find("source")) is not None
    ]
    macs = [(m.get("address") or "").lower() for m in domain.findall("devices/interface/mac")]
    macs = [m for m in macs if _MAC.match(m)]
    said = state.splitlines()[0].strip() if state else ""
    return Guest(
        uuid=uuid,
        name=(domain.findtext("name") or "").strip()[:480],
        state=_STATES.get(said, said)[:480],
        cores=int(cores) if cores.isdigit() else None,
        memory=bytes_,
        macs=" ".join(macs)[:480],
        disks=" ".join(d for d in disks if d)[:480],
    )


_DOCKER = r"ps -a --format '{{.Names}}\t{{.Image}}\t{{.State}}'"
_VIRSH = "virsh -q -c qemu:///system"
STEPS: tuple[tuple[str, int, str, Callable[[Output], list[Any]]], ...] = (
    (
        "guests",
        2,
        f"for u in $({_VIRSH} list --all --uuid 2>/dev/null); do {_VIRSH} dumpxml $u; echo {MARK}; "
        f"{_VIRSH} domstate $u; echo {MARK}; done",
        guests,
    ),
    ("boot", 3, "grep -s ^btime /proc/stat", booted),
    (
        "installs",
        4,
        "stat -c '%Y %n' /var/lib/dpkg/info/*.list 2>/dev/null; rpm -qa --qf '%{INSTALLTIME} %{NAME}\\n' 2>/dev/null; "
        f"echo {MARK}; grep -Hs '^/usr/bin/.' /var/lib/dpkg/info/*.list; echo {MARK}; "
        "stat -c '%X %n' /usr/bin/* 2>/dev/null",
        installs,
    ),
    (
        "services",
        4,
        "systemctl list-units --type=service --all --no-legend --no-pager --plain 2>/dev/null; "
        f"echo {MARK}; systemctl list-unit-files --type=service --no-legend --no-pager 2>/dev/null",
        services,
    ),
    (
        "connections",
        4,
        "sudo -n ss -H -tnp state established 2>/dev/null; ss -H -tnp state established 2>/dev/null",
        connections,
    ),
    (
        "containers",
        4,
        f"command -v docker podman; echo {MARK}; sudo -n docker {_DOCKER} 2>/dev/null; docker {_DOCKER} 2>&1; "
        f"podman {_DOCKER} 2>&1",
        containers,
    ),
)
"""Section, stage of the sweep, the line that is run, and its reader."""
