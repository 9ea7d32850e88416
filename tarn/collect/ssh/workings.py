"""What a Linux computer is doing: services, connections, containers, and when it was last started."""

import re
from typing import Any

from tarn.collect.ssh.parsing import UID, Answers, Ask, ReadingStep, Unread
from tarn.core.items import Connection, Container, Install, Service, UsbDevice
from tarn.core.sections import System
from tarn.core.sightings import make_reading
from tarn.core.text import fitting

_STARTS = {"enabled": "automatic", "enabled-runtime": "automatic", "disabled": "disabled", "masked": "disabled"}
EPHEMERAL = 32_768
"""Local ports from here on are the system's own choice for connections it opens (ip-sysctl: ip_local_port_range)."""


def services(said: Answers) -> list[Any]:
    """Read services of systemctl: units as they run, then unit files as they start. Without systemd there are none."""
    if not said.there("units"):
        return []
    units = said.whole("units", "systemctl list-units")
    starts = {}
    for line in said.text("files").splitlines():
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
            name=name[:300],
            label=label,
            start=starts.get(words[0], "manual") if starts else "",
            running=words[2] == "active",
        )
    if not items:
        raise Unread("`systemctl` lists no service")
    unseen = {} if starts else {"unseen": ("start",), "note": said.why_not("files", "systemctl list-unit-files")}
    return [make_reading("services", [items[k] for k in sorted(items)], "ssh.services", **unseen)]


_PEER = re.compile(r"^\[?(?P<address>[0-9a-fA-F:.]+?)(?:%\w+)?\]?:(?P<port>\d+)$")
_HOLDER = re.compile(r'users:\(\("([^"]+)"')


def connections(said: Answers) -> list[Any]:
    """Read what processes are connected to, of ss, and by whom they are called: as seen twice, a moment apart, for many
    connections are short. The second sight adds to the first, and takes nothing from it.

    An ordinary account is shown every connection, but the process only of its own.
    """
    text, all_seen = said.as_root("connections", "ss")
    held = {}
    again = said.text("again_as_root" if said.ran("again_as_root") else "again") if said.ran("again") else ""
    for line in [*text.splitlines(), *(line for line in again.splitlines() if _is_connection(line))]:
        words = line.split()
        if words and words[0] == "ESTAB":
            words = words[1:]
        if not words:
            continue
        local, peer = (_PEER.match(w) for w in words[2:4]) if len(words) > 3 else (None, None)
        if not local or not peer:
            raise Unread(f"`ss` printed no list of connections: {line.strip()[:80]}")
        if peer["address"].startswith(("127.", "::1")):
            continue
        holder = _HOLDER.search(line)
        if holder is None and all_seen:
            continue  # the kernel's own
        address = peer["address"].removeprefix("::ffff:")
        # Who calls lets the system choose its port, and the system chooses from above EPHEMERAL.
        called = int(local["port"]) < EPHEMERAL <= int(peer["port"])
        direction, port = ("in", int(local["port"])) if called else ("out", int(peer["port"]))
        process = holder[1][:300] if holder else ""
        connection = Connection(direction=direction, process=process, peer=address, port=port)
        held[direction, process, address, port] = connection
    rest: dict[str, Any] = {}
    if not all_seen:
        rest = {"unseen": ("process",), "note": "Connections of other accounts' processes are shown to root alone."}
    return [make_reading("connections", [held[k] for k in sorted(held)], "ssh.connections", **rest)]


def _is_connection(line: str) -> bool:
    words = line.removeprefix("ESTAB").split()
    return len(words) > 3 and all(_PEER.match(w) for w in words[2:4])


def containers(said: Answers) -> list[Any]:
    """Read containers of docker or podman, running or not; nothing where neither is installed or its engine runs."""
    items: dict[str, Container] = {}
    refused = ""
    engines = 0
    for engine, has_socket in (("docker", said.ran("socket")), ("podman", True)):
        part = f"{engine}_as_root" if said.ran(f"{engine}_as_root") else engine
        if not said.ran(part):
            if said.there(engine) and has_socket:
                refused = said.why_not(engine, engine)
            continue
        lines = [line.split("\t") for line in said.text(part).splitlines() if line.strip()]
        if any(len(words) != 6 for words in lines):
            refused = f"`{engine}` printed no list of containers: {' '.join(lines[0])[:80]}"
            continue
        engines += 1
        for name, image, state, ports, networks, volumes in lines:
            items[name] = Container(
                name=name[:300],
                image=image[:480],
                running=state == "running",
                ports=_parted(ports),
                networks=_parted(networks),
                volumes=_parted(volumes),
            )
    if refused and not engines:
        raise Unread(refused)
    if not engines:
        return []
    listed = [items[k] for k in sorted(items)]
    return [make_reading("containers", listed, "ssh.containers", complete=not refused, note=refused)]


def _parted(listed: str) -> str:
    """Return what stands parted by commas parted by spaces, each once, cut at a whole one."""
    return fitting(dict.fromkeys(filter(None, (one.strip() for one in listed.split(",")))), " ", 500)


_DAY, _WEEK = 86_400, 7 * 86_400
_LIST = re.compile(r"(?:.*/)?([^/:]+)(?::\w+)?\.list$")


def installs(said: Answers) -> list[Any]:
    """Read when packages were installed and when one of their programs was last started.

    dpkg keeps a package's list of files, written when it was installed; rpm the time itself. A program's last start is
    the time its file was last read (stat(1), %X). A system that does not keep that time leaves it at the time of
    installing, so only a later one counts.
    """
    installed: dict[str, int] = {}
    for line in (said.text("dpkg") + said.text("rpm")).splitlines():
        at, _, name = line.partition(" ")
        if at.isdigit() and name:
            match = _LIST.match(name)
            installed[match[1] if match else name] = int(at)
    read = said.text("programs").splitlines()
    started = {path: int(at) for at, _, path in (line.partition(" ") for line in read) if at.isdigit()}
    used: dict[str, int] = {}
    lists = said.text("lists").splitlines()
    for line in lists:
        where, _, program = line.rpartition(":")
        match = _LIST.match(where)
        last = started.get(program, 0)
        if match and last > installed.get(match[1], last) + _DAY:
            used[match[1]] = max(last, used.get(match[1], 0))
    items = [
        Install(name=name, installed=put - put % _DAY, used=used[name] - used[name] % _WEEK if name in used else None)
        for name, put in sorted(installed.items())
    ]
    if not items:
        return []
    whole = said.cut is None and (said.ran("dpkg") or said.ran("rpm"))
    unseen = () if started and any(_LIST.match(line.rpartition(":")[0]) for line in lists) else ("used",)
    rest = {"unseen": unseen} if unseen else {}
    return [make_reading("installs", items, "ssh.installs", complete=whole, **rest)]


def booted(said: Answers) -> list[Any]:
    """Read when the kernel was started (proc_stat(5): btime, seconds since 1970)."""
    match = re.search(r"^btime (\d+)$", said.whole("boot", "grep /proc/stat"), re.M)
    if not match:
        raise Unread("/proc/stat does not say when the kernel was started")
    return [make_reading("system", System(booted=int(match[1])), "ssh.boot", complete=False)]


_HUB = "09"
"""bDeviceClass of a hub (USB 2.0, 11.23.1)."""
_USB_NAMES = ("manufacturer", "product", "serial")
_USB = re.compile(r"/sys/bus/usb/devices/([^/]+)/(\w+):(.*)")


def usb_devices(said: Answers) -> list[Any]:
    """Read what the kernel shows of USB devices (sysfs-bus-usb), hubs left out: each has a class, some have no name."""
    if said.code("classes") in (1, 2) and not said.text("classes"):
        return []  # a machine without USB
    classes = _of_usb(said.whole("classes", "grep"))
    if not classes:
        raise Unread("the kernel names no USB device, not even a hub")
    named = _of_usb(said.text("names"))
    items = [
        UsbDevice(
            port=port,
            manufacturer=named.get((port, "manufacturer"), ""),
            model=named.get((port, "product"), ""),
            serial=named.get((port, "serial"), ""),
        )
        for (port, _), value in sorted(classes.items())
        if value != _HUB
    ]
    unseen = {} if named else {"unseen": ("manufacturer", "model", "serial")}
    return [make_reading("usb_devices", items, "ssh.usb", **unseen)]


def _of_usb(text: str) -> dict[tuple[str, str], str]:
    """Return by device and attribute what grep printed of them."""
    matches = (_USB.match(line) for line in text.splitlines())
    return {(m[1], m[2]): m[3].strip()[:480] for m in matches if m}


_DOCKER = r"ps -a --format '{{.Names}}\t{{.Image}}\t{{.State}}\t{{.Ports}}\t{{.Networks}}\t{{.Mounts}}'"
_TALK = "ss -H -tnp state established"
STEPS: tuple[ReadingStep, ...] = (
    ReadingStep(
        "usb_devices",
        3,
        (
            Ask("classes", "grep -s . /sys/bus/usb/devices/*/bDeviceClass"),
            Ask("names", "grep -s . " + " ".join(f"/sys/bus/usb/devices/*/{n}" for n in _USB_NAMES)),
        ),
        usb_devices,
    ),
    ReadingStep("boot", 3, (Ask("boot", "grep -s ^btime /proc/stat"),), booted),
    ReadingStep(
        "installs",
        4,
        (
            Ask("dpkg", "stat -c '%Y %n' /var/lib/dpkg/info/*.list 2>/dev/null"),
            Ask("rpm", "rpm -qa --qf '%{INSTALLTIME} %{NAME}\\n' 2>/dev/null"),
            Ask("lists", "grep -Hs '^/usr/bin/.' /var/lib/dpkg/info/*.list"),
            Ask("programs", "stat -c '%X %n' /usr/bin/* 2>/dev/null"),
        ),
        installs,
    ),
    ReadingStep(
        "services",
        4,
        (
            Ask("units", "systemctl list-units --type=service --all --no-legend --no-pager --plain"),
            Ask("files", "systemctl list-unit-files --type=service --no-legend --no-pager"),
        ),
        services,
    ),
    ReadingStep(
        "connections",
        4,
        (
            UID,
            Ask("connections", _TALK, root=True),
            Ask("pause", "sleep 0.4 2>/dev/null"),
            Ask("again", _TALK, root=True),
        ),
        connections,
    ),
    ReadingStep(
        "containers",
        4,
        (
            Ask("socket", "ls /run/docker.sock 2>/dev/null"),
            Ask("docker", f"docker {_DOCKER}", root=True),
            Ask("podman", f"podman {_DOCKER}", root=True),
        ),
        containers,
    ),
)
"""What is read of what a Linux computer does."""
