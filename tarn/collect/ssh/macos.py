"""Reading a Mac over a shell, from the formats its own programs print: property lists, JSON, and BSD tables."""

import json
import plistlib
import re
from datetime import datetime
from itertools import pairwise
from typing import Any
from xml.parsers.expat import ExpatError

from pydantic import ValidationError

from tarn.collect.ssh.linux import share_used
from tarn.collect.ssh.parsing import UID, Answers, Ask, ReadingStep, Unread, host_name
from tarn.collect.ssh.processes import STEP_OF_A_MAC
from tarn.core.items import Account, Address, Disk, Filesystem, Install, Interface, Package, Port
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading

_SIZES = {"KB": 1 << 10, "MB": 1 << 20, "GB": 1 << 30, "TB": 1 << 40}


def _profile(text: str, key: str) -> list[dict[str, Any]]:
    """Return the entries of one data type of `system_profiler -json`."""
    try:
        data = json.loads(text or "null")
    except ValueError:
        data = None
    if not isinstance(data, dict) or not isinstance(data.get(key), list):
        raise Unread(f"system_profiler gave no {key}")
    return [e for e in data[key] if isinstance(e, dict)]


def identity(said: Answers) -> list[Any]:
    """Read the hardware overview of system_profiler, the host name, and the maker as the firmware tells it (ioreg)."""
    overview = said.whole("overview", "system_profiler")
    machine = next(iter(_profile(overview, "SPHardwareDataType")), {})
    name = host_name(said, "host")
    short, _, domain = name.partition(".")
    maker = re.search(r'"manufacturer" = <"([^"]+)">', said.text("platform"))
    facts = Identity(
        manufacturer=maker[1] if maker else None,
        name=short or None,
        domain=domain if domain and domain != "local" else None,
        serial=machine.get("serial_number"),
        model=machine.get("machine_name") or machine.get("machine_model"),
        uuid=str(machine.get("platform_UUID") or "").lower() or None,
    )
    size = re.match(r"(\d+) (KB|MB|GB|TB)$", str(machine.get("physical_memory", "")))
    cores = re.search(r"\d+", str(machine.get("number_processors", "")))
    hardware = Hardware(
        processor=machine.get("chip_type") or machine.get("cpu_type"),
        cores=int(cores[0]) if cores else None,
        memory=int(size[1]) * _SIZES[size[2]] if size else None,
    )
    return [
        make_reading("identity", facts, "ssh.identity", complete=bool(name and maker)),
        make_reading("hardware", hardware, "ssh.hardware"),
    ]


def system(said: Answers) -> list[Any]:
    """Read sw_vers, the kernel's own name, and when it was started (sysctl kern.boottime)."""
    told = dict(re.findall(r"^(\w+):\s*(.+)$", said.text("version"), re.M))
    kernel = re.search(r"^Darwin (\S+) (\S+)$", said.text("kernel"), re.M)
    if not told and not kernel:
        raise Unread("the system does not say what it is")
    boot = re.search(r"\bsec = (\d+)", said.text("boot"))
    facts = System(
        platform="macOS",
        os_name=told.get("ProductName") or ("macOS" if told else None),
        os_version=told.get("ProductVersion"),
        os_kernel=kernel[1] if kernel else None,
        arch=kernel[2] if kernel else None,
        description=" ".join(told[k] for k in ("ProductName", "ProductVersion", "BuildVersion") if k in told) or None,
        booted=int(boot[1]) if boot else None,
    )
    return [make_reading("system", facts, "ssh.system", complete=bool(told and kernel and boot))]


def disks(said: Answers) -> list[Any]:
    """Read whole physical disks of `diskutil list -plist physical`."""
    try:
        listed = plistlib.loads(said.whole("disks", "diskutil").strip().encode())["AllDisksAndPartitions"]
    except (plistlib.InvalidFileException, ExpatError, KeyError, ValueError, TypeError) as error:
        raise Unread(f"diskutil gave no property list ({type(error).__name__})") from None
    items = [Disk(name=str(d["DeviceIdentifier"]), size=int(d.get("Size") or 0) or None) for d in listed]
    return [make_reading("disks", sorted(items, key=lambda d: d.name), "ssh.disks")]


def filesystems(said: Answers) -> list[Any]:
    """Read mounted volumes of `df -P -k`, how full to the nearest 5 %; the system's own snapshots are left out."""
    text = said.text("filesystems") if said.code("filesystems") == 1 else said.whole("filesystems", "df")
    heading, *lines = text.splitlines() or [""]
    if not heading.startswith("Filesystem") or "Mounted on" not in heading:
        raise Unread(f"`df` printed no table: {heading[:80]}")
    items = {}
    for line in lines:
        words = re.match(r"^(\S.*?)\s+(\d+)\s+(\d+)\s+(-?\d+)\s+\d+%\s+(/.*)$", line)
        if not words or not words[1].startswith("/dev/") or int(words[2]) == 0:
            continue
        mount = words[5]
        if mount.startswith("/System/Volumes/") and mount != "/System/Volumes/Data":
            continue
        full = share_used(int(words[3]), int(words[4]))
        items[mount] = Filesystem(mount=mount, device=words[1], size=int(words[2]) << 10, full=full)
    whole = said.ran("filesystems")
    return [make_reading("filesystems", [items[k] for k in sorted(items)], "ssh.filesystems", complete=whole)]


_LINK = re.compile(r"^(\w+): flags=\S+<([^>]*)>", re.M)


def network(said: Answers) -> list[Any]:
    """Read interfaces and addresses of ifconfig; loopback and the system's own tunnels are left out."""
    items, held, macs = [], [], []
    text = said.whole("links", "ifconfig")
    starts = [*((m.start(), m[1], m[2]) for m in _LINK.finditer(text)), (len(text), "", "")]
    for (start, name, flags), (end, _, _) in pairwise(starts):
        block = text[start:end]
        if "LOOPBACK" in flags or name.startswith(("utun", "awdl", "llw", "gif", "stf", "anpi", "ap", "bridge")):
            continue
        mac = re.search(r"^\s+ether ([0-9a-f:]{17})", block, re.M)
        up = "status: active" in block
        items.append(Interface(name=name, mac=mac[1] if mac else None, up=up, kind="ethernet" if mac else ""))
        if mac:
            macs.append(mac[1])
        for address, mask in re.findall(r"^\s+inet (\S+) netmask 0x([0-9a-f]{8})", block, re.M):
            held.append(Address(address=address, interface=name, prefix=bin(int(mask, 16)).count("1")))
        for address, bits in re.findall(r"^\s+inet6 (\S+?) prefixlen (\d+)(?! scopeid)", block, re.M):
            if not address.startswith("fe80") and "%" not in address:
                held.append(Address(address=address, interface=name, prefix=int(bits)))
    if not items:
        raise Unread("ifconfig lists no interface")
    out = [
        make_reading("interfaces", sorted(items, key=lambda i: i.name), "ssh.network"),
        make_reading("addresses", sorted(held, key=lambda a: a.address), "ssh.network"),
    ]
    if macs:
        out.append(make_reading("identity", Identity(macs=tuple(dict.fromkeys(macs))), "ssh.network", complete=False))
    return out


def packages(said: Answers) -> list[Any]:
    """Read applications of system_profiler; their publisher is the name in the signature."""
    found = {}
    for entry in _profile(said.whole("packages", "system_profiler"), "SPApplicationsDataType"):
        name, version = str(entry.get("_name") or "").strip(), str(entry.get("version") or "").strip()
        signed = next(iter(entry.get("signed_by") or []), "")
        publisher = re.sub(r"^Developer ID Application: |\s*\([A-Z0-9]{10}\)$", "", str(signed))
        try:
            found[name, version] = Package(name=name, version=version, publisher=publisher[:480])
        except ValidationError:
            continue  # an entry without a name: a bundle the system keeps for itself
    items = [found[k] for k in sorted(found)]
    return [make_reading("packages", items, "ssh.packages")]


_USED = re.compile(r'kMDItemDisplayName\s*=\s*"([^"]+)"\s*kMDItemLastUsedDate\s*=\s*(\S+ \S+ \+0000)')


def installs(said: Answers) -> list[Any]:
    """Read when applications were last opened (mdls, kMDItemLastUsedDate); to the week."""
    items = {}
    for name, used in _USED.findall(said.whole("installs", "mdls")):
        at = int(datetime.strptime(used, "%Y-%m-%d %H:%M:%S %z").timestamp())
        items[name] = Install(name=name.removesuffix(".app"), used=at - at % (7 * 86_400))
    return [make_reading("installs", [items[k] for k in sorted(items)], "ssh.installs")] if items else []


def accounts(said: Answers) -> list[Any]:
    """Read people's accounts of the local directory (dscl); administrators are members of the group admin."""
    heading, _, members = said.whole("admin", "dscl").partition(":")
    if heading.strip() != "GroupMembership":
        raise Unread("`dscl` does not say who belongs to the group admin")
    admins = set(members.split())
    items = []
    for line in said.whole("users", "dscl").splitlines():
        words = line.split()
        if len(words) == 2 and words[1].lstrip("-").isdigit() and not words[0].startswith("_"):
            uid = int(words[1])
            items.append(Account(name=words[0], uid=uid, administrator=uid == 0 or words[0] in admins))
    if not items:
        raise Unread("no account could be read")
    return [make_reading("accounts", sorted(items, key=lambda a: a.name), "ssh.accounts")]


def ports(said: Answers) -> list[Any]:
    """Read listening ports of lsof in its field format (p process id, c command, n name).

    An ordinary account is shown the ports of its own processes alone.
    """
    all_seen = said.ran("ports_as_root") or said.is_root
    text = said.text("ports_as_root") if said.ran("ports_as_root") else said.text("ports")
    if not text:  # remote sign-in itself listens, so there is always one
        raise Unread(said.why_not("ports", "lsof"))
    held: dict[int, tuple[str, set[str]]] = {}
    command = ""
    for line in text.splitlines():
        if line[:1] == "c":
            command = line[1:]
        elif line[:1] == "n":
            host, _, number = line[1:].rpartition(":")
            if number.isdigit() and not host.startswith(("127.", "[::1]", "localhost")):
                held[int(number)] = (command[:300], held.get(int(number), ("", set()))[1] | {host.strip("[]")})
        elif line[:1] not in ("p", "f", ""):
            raise Unread(f"`lsof` printed no list of sockets: {line[:80]}")
    items = [
        Port(protocol="tcp", port=port, process=name, bound="" if "*" in bound else " ".join(sorted(bound))[:480])
        for port, (name, bound) in sorted(held.items())
    ]
    note = "" if all_seen else "Ports of other accounts' processes are shown to root alone."
    return [make_reading("ports", items, "ssh.ports", complete=all_seen, note=note)]


STEPS: tuple[ReadingStep, ...] = (
    ReadingStep(
        "identity",
        3,
        (
            Ask("overview", "system_profiler -json SPHardwareDataType"),
            Ask("host", "hostname"),
            Ask("platform", "ioreg -rd1 -c IOPlatformExpertDevice"),
        ),
        identity,
    ),
    ReadingStep(
        "system",
        3,
        (Ask("version", "sw_vers"), Ask("kernel", "uname -srm"), Ask("boot", "sysctl kern.boottime")),
        system,
    ),
    ReadingStep("disks", 3, (Ask("disks", "diskutil list -plist physical"),), disks),
    ReadingStep("filesystems", 3, (Ask("filesystems", "df -P -k"),), filesystems),
    ReadingStep("network", 3, (Ask("links", "ifconfig -a"),), network),
    ReadingStep(
        "accounts",
        3,
        (
            Ask("users", "dscl . -list /Users UniqueID"),
            Ask("admin", "dscl . -read /Groups/admin GroupMembership"),
        ),
        accounts,
    ),
    ReadingStep("packages", 4, (Ask("packages", "system_profiler -json SPApplicationsDataType"),), packages),
    ReadingStep(
        "installs",
        4,
        (Ask("installs", "mdls -name kMDItemDisplayName -name kMDItemLastUsedDate /Applications/*.app"),),
        installs,
    ),
    ReadingStep("ports", 4, (UID, Ask("ports", "lsof -nP -iTCP -sTCP:LISTEN -F pcn", root=True)), ports),
    STEP_OF_A_MAC,
)
"""What is read of a Mac, in order."""
