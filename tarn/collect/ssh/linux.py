"""Reading a Linux computer over a shell: what is run for each section, and how its output is read.

Everything run is read-only and found on ordinary systems; what is missing is said in the reading's note.
"""

import json
import re
import shlex
from datetime import UTC, datetime
from typing import Any, Literal

from pydantic import ValidationError

from tarn.collect.ssh import accounts, clustered, hosting, processes, serving, workings
from tarn.collect.ssh.parsing import UID, Answers, Ask, ReadingStep, Unread, host_name
from tarn.core.items import Address, Disk, Filesystem, Interface, Package, Port, SignIn
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading

_DMI = ("sys_vendor", "product_name", "product_serial", "product_uuid", "board_serial")


def identity(said: Answers) -> list[Any]:
    """Read DMI (DMTF DSP0134, as the kernel shows it) and the host name. Only root is shown serial number and UUID."""
    dmi: dict[str, str] = {}
    for line in (said.text("dmi_as_root") + said.text("dmi")).splitlines():
        path, _, value = line.partition(":")
        if path.startswith("/sys/class/dmi/"):
            dmi.setdefault(path.rsplit("/", 1)[-1], value.strip()[:400])
    name = host_name(said, "fqdn") or host_name(said, "host")
    if not name and not dmi:
        raise Unread("neither a host name nor DMI could be read")
    short, _, domain = name.partition(".")
    facts = Identity(
        name=short or None,
        domain=domain or None,
        serial=dmi.get("product_serial"),
        manufacturer=dmi.get("sys_vendor"),
        model=dmi.get("product_name"),
        uuid=dmi.get("product_uuid"),
    )
    all_seen = said.is_root or said.text("root").strip() == "0"
    note = ""
    if "product_serial" not in dmi:
        may_not = "The account may not read the serial number (root may)."
        note = "The machine tells no serial number." if all_seen else may_not
    whole = bool(all_seen and dmi and host_name(said, "fqdn"))
    return [make_reading("identity", facts, "ssh.identity", complete=whole, note=note)]


def system(said: Answers) -> list[Any]:
    """Read os-release (its specification: os-release(5)) and the kernel's own name."""
    release: dict[str, str] = {}
    for line in said.text("release").splitlines():
        key, sign, value = line.partition("=")
        if sign:
            release[key] = (shlex.split(value) or [""])[0] if value.count('"') % 2 == 0 else value.strip('"')
    kernel = re.search(r"^Linux (\S+) (\S+)$", said.text("kernel"), re.M)
    told = said.ran("release") and "NAME" in release
    if not told and not kernel:
        raise Unread("the system does not say what it is")
    facts = System(
        platform="Linux",
        os_name=release["NAME"] if told else None,
        os_version=release.get("VERSION_ID") if told else None,
        os_kernel=kernel[1] if kernel else None,
        arch=kernel[2] if kernel else None,
        description=release.get("PRETTY_NAME") if told else None,
    )
    return [make_reading("system", facts, "ssh.system", complete=bool(told and kernel))]


def hardware(said: Answers) -> list[Any]:
    """Read processors and memory; memory that is online, or where that is unknown what the kernel has."""
    cpu = said.text("cpu") if said.ran("cpu") else ""
    names = re.findall(r"^model name\s*:\s*(.+)$", cpu, re.M)
    cores = len(
        set(zip(*[re.findall(rf"^{k}\s*:\s*(\d+)$", cpu, re.M) for k in ("physical id", "core id")], strict=False))
    )
    threads = len(re.findall(r"^processor\s*:", cpu, re.M))
    online = re.search(r"^Total online memory:\s*(\d+)", said.text("online"), re.M)
    total = re.search(r"^MemTotal:\s*(\d+) kB", said.text("memory"), re.M)
    if not threads and not total:
        raise Unread("neither processors nor memory could be read")
    memory = int(online[1]) if online else int(total[1]) * 1024 if total else None
    facts = Hardware(
        processor=names[0].strip()[:400] if names else None,
        processors=len(set(re.findall(r"^physical id\s*:\s*(\d+)$", cpu, re.M))) or None,
        cores=cores or threads or None,
        memory=memory,
    )
    # What the kernel has is less than what is fitted: it is no word against what lsmem said before.
    unseen = {} if online else {"unseen": ("memory",)}
    return [make_reading("hardware", facts, "ssh.hardware", complete=bool(threads and memory), **unseen)]


def disks(said: Answers) -> list[Any]:
    """Read whole disks of lsblk; loop and memory devices are none."""
    items = []
    for line in said.whole("disks", "lsblk").splitlines():
        pairs = dict(re.findall(r'([A-Z]+)="([^"]*)"', line))
        if line.strip() and "TYPE" not in pairs:
            raise Unread(f"`lsblk` printed no list of disks: {line.strip()[:80]}")
        if pairs.get("TYPE") == "disk" and not pairs["NAME"].startswith(("zram", "ram", "nbd", "fd")):
            size = int(pairs["SIZE"]) if pairs.get("SIZE", "").isdigit() else None
            items.append(
                Disk(
                    name=pairs["NAME"],
                    model=pairs.get("MODEL", "").strip(),
                    serial=pairs.get("SERIAL", "").strip(),
                    size=size,
                )
            )
    return [make_reading("disks", sorted(items, key=lambda d: d.name), "ssh.disks")]


_NOT_STORAGE = frozenset(
    [
        "tmpfs",
        "devtmpfs",
        "overlay",
        "squashfs",
        "proc",
        "sysfs",
        "cgroup2",
        "efivarfs",
        "ramfs",
        "fuse.lxcfs",
        "udev",
        "none",
        "autofs",
    ]
)


def filesystems(said: Answers) -> list[Any]:
    """Read mounted file systems of df (POSIX format with types), how full to the nearest 5 %.

    How full is what df says: of what ordinary accounts may use (POSIX, df: the percentage used of used and available),
    for what is kept for root is no room. df ends with 1 where it may not look at one of them: then the rest is kept.
    """
    text = said.text("filesystems") if said.code("filesystems") == 1 else said.whole("filesystems", "df")
    heading, *lines = text.splitlines() or [""]
    if not heading.startswith("Filesystem") or "Mounted on" not in heading:
        raise Unread(said.why_not("filesystems", "df") if not text else f"`df` printed no table: {heading[:80]}")
    items: dict[str, Filesystem] = {}
    for line in lines:
        words = line.split(None, 6)
        if len(words) < 7 or words[1] in _NOT_STORAGE or not words[2].isdigit() or not int(words[2]):
            continue
        device, kind, size, used, available, _, mount = words
        items[mount] = Filesystem(
            mount=mount, device=device, type=kind, size=int(size), full=share_used(int(used), int(available))
        )
    whole = said.ran("filesystems")
    note = "" if whole else "df could not look at all of them."
    listed = sorted(items.values(), key=lambda f: f.mount)
    return [make_reading("filesystems", listed, "ssh.filesystems", complete=whole, note=note)]


def share_used(used: int, available: int) -> int:
    """Return how full a file system is as df has it, in percent to the nearest five."""
    room = used + max(0, available)
    return min(100, round(100 * used / room / 5) * 5) if room else 100


def network(said: Answers) -> list[Any]:
    """Read interfaces and addresses of `ip -j addr`, speeds from the kernel; loopback is left out."""
    try:
        data = json.loads(said.whole("links", "ip").strip() or "null")
    except ValueError:
        data = None
    if not isinstance(data, list):
        raise Unread("`ip -j addr` gave no list of interfaces")
    speeds = {m[1]: int(m[2]) for m in re.finditer(r"/net/([^/]+)/speed:(\d+)", said.text("speeds"))}
    items, held, macs = [], [], []
    for link in data:
        name, kind = str(link.get("ifname", "")), link.get("link_type")
        if not name or kind == "loopback":
            continue
        mac = str(link.get("address", "")).lower()
        good = mac if kind == "ether" and re.fullmatch(r"[0-9a-f]{2}(:[0-9a-f]{2}){5}", mac) else None
        speed = speeds.get(name, 0) * 10**6 or None
        up = link.get("operstate") in ("UP", "UNKNOWN")
        items.append(Interface(name=name, mac=good, speed=speed, up=up, kind="ethernet" if good else str(kind or "")))
        virtual = name.startswith(("docker", "br-", "veth", "virbr"))
        if good and not virtual:
            macs.append(good)
        for entry in link.get("addr_info", []):
            if entry.get("scope") != "link" and entry.get("local"):
                held.append(Address(address=entry["local"], interface=name, prefix=entry.get("prefixlen")))
    unseen = {} if said.ran("speeds") and speeds else {"unseen": ("speed",)}  # a link that is down tells none
    out = [
        make_reading("interfaces", sorted(items, key=lambda i: i.name), "ssh.network", **unseen),
        make_reading("addresses", sorted(held, key=lambda a: a.address), "ssh.network"),
    ]
    if macs:
        out.append(make_reading("identity", Identity(macs=tuple(dict.fromkeys(macs))), "ssh.network", complete=False))
    return out


_MAINTAINER = re.compile(r"\s*<[^>]*>\s*$")


def packages(said: Answers) -> list[Any]:
    """Read packages of dpkg (five columns) and rpm (four). A list cut short keeps what came before."""
    found: dict[tuple[str, str], Package] = {}
    left_out: list[str] = []
    text = said.text("dpkg") + said.text("rpm")
    if said.cut is not None:
        text += said.unfinished.rpartition("\n")[0]  # the last line may be half a line
    for line in text.split("\n"):
        words = line.split("\t")
        if len(words) == 5:
            name, version, arch, publisher, status = words
            system: Literal["deb", "rpm"] = "deb"
            if status.strip() != "installed":
                continue
        elif len(words) == 4:
            name, version, arch, publisher = words
            system = "rpm"
            version = version.removeprefix("(none):").removeprefix("0:")
        else:
            continue
        publisher = _MAINTAINER.sub("", publisher).strip()
        try:
            package = Package(
                name=name,
                version=version,
                arch=arch,
                publisher="" if publisher == "(none)" else publisher[:480],
                system=system,
            )
        except ValidationError:
            left_out.append(name[:40])
            continue
        found[name, version] = package
    failed = [c for c in ("dpkg", "rpm") if not said.ran(c) and said.there(c)]
    if not found and said.cut is None:
        if failed:
            raise Unread(said.why_not(failed[0], failed[0]))
        raise Unread("neither dpkg nor rpm lists any package")
    notes = [said.cut.says] if said.cut else [said.why_not(c, c) for c in failed]
    if left_out:
        notes.append(f"{len(left_out)} left out for impossible names: {', '.join(left_out[:3])}")
    items = sorted(found.values(), key=lambda p: (p.name, p.version))
    whole = said.cut is None and not failed
    return [make_reading("packages", items, "ssh.packages", complete=whole, note=" ".join(notes)[:480])]


_PROCESS = re.compile(r'users:\(\("([^"]+)"')
_EVERYWHERE = frozenset({"*", "0.0.0.0", "::"})


def ports(said: Answers) -> list[Any]:
    """Read listening ports of ss, where they are bound, and their processes.

    An ordinary account is shown every port, but only the processes of its own.
    """
    text, all_seen = said.as_root("ports", "ss")
    held: dict[tuple[str, int], tuple[str, set[str]]] = {}
    for line in text.splitlines():
        words = line.split()
        if not words:
            continue
        host, _, number = words[4].rpartition(":") if len(words) > 4 else ("", "", "")
        if words[0] not in ("tcp", "udp") or not (number.isdigit() or number == "*"):
            raise Unread(f"`ss` printed no list of sockets: {line.strip()[:80]}")
        host = host.strip("[]").partition("%")[0].removeprefix("::ffff:")
        if not number.isdigit() or host.startswith("127.") or host == "::1":
            continue
        process = _PROCESS.search(line)
        name, bound = held.get((words[0], int(number)), ("", set()))
        held[words[0], int(number)] = (name or (process[1][:300] if process else ""), bound | {host})
    items = [
        Port(
            protocol=protocol,
            port=number,
            process=name,
            bound="" if bound & _EVERYWHERE else " ".join(sorted(bound))[:480],
        )
        for (protocol, number), (name, bound) in sorted(held.items())
    ]
    rest: dict[str, Any] = {}
    if not all_seen:
        rest = {"unseen": ("process",), "note": "Processes of other accounts are shown to root alone."}
    return [make_reading("ports", items, "ssh.ports", **rest)]


_LAST = re.compile(r"^(\S+)\s+(\S+)\s+(\S*)\s+(?:\w{3}) (\w{3}\s+\d+ \d\d:\d\d:\d\d \d{4})")


def signins(said: Answers) -> list[Any]:
    """Read the latest sign-in of each account of last(1).

    The list is never whole: last shows the newest only, and its file is begun anew every month.
    """
    if not said.there("signins"):
        return []
    items: dict[str, SignIn] = {}
    newest: str | None = None
    text = said.whole("signins", "last")
    if "begins" not in text:
        raise Unread(f"`last` printed no list of sign-ins: {text.strip()[:80]}")
    for line in text.splitlines():
        if not (match := _LAST.match(line)) or match[1] in ("reboot", "shutdown", "runlevel"):
            continue
        try:
            at = int(datetime.strptime(match[4], "%b %d %H:%M:%S %Y").replace(tzinfo=UTC).timestamp())
        except ValueError:
            continue
        if match[1] not in items:
            items[match[1]] = SignIn(account=match[1], at=at, origin=match[3])
            newest = newest or match[1]
    out = [make_reading("signins", [items[k] for k in sorted(items)], "ssh.signins", complete=False)]
    if newest:
        out.append(make_reading("system", System(last_user=newest), "ssh.signins", complete=False))
    return out


_DMI_PATHS = " ".join(f"/sys/class/dmi/id/{n}" for n in _DMI)
_DPKG = r"dpkg-query -W -f '${Package}\t${Version}\t${Architecture}\t${Maintainer}\t${db:Status-Status}\n'"
_RPM = r"rpm -qa --qf '%{NAME}\t%{EPOCH}:%{VERSION}-%{RELEASE}\t%{ARCH}\t%{VENDOR}\n'"

STEPS: tuple[ReadingStep, ...] = (
    ReadingStep(
        "identity",
        3,
        (
            UID,
            Ask("root", "sudo -n id -u 2>/dev/null"),
            Ask("dmi", f"grep -s . {_DMI_PATHS}", root=True),
            Ask("fqdn", "hostname -f 2>/dev/null"),
            Ask("host", "hostname"),
        ),
        identity,
    ),
    ReadingStep("system", 3, (Ask("release", "cat /etc/os-release"), Ask("kernel", "uname -srm")), system),
    ReadingStep(
        "hardware",
        3,
        (
            Ask("cpu", "cat /proc/cpuinfo"),
            Ask("memory", "cat /proc/meminfo"),
            Ask("online", "lsmem -b --summary=only 2>/dev/null"),
        ),
        hardware,
    ),
    ReadingStep("disks", 3, (Ask("disks", "lsblk -b -d -P -o NAME,TYPE,SIZE,MODEL,SERIAL"),), disks),
    ReadingStep("filesystems", 3, (Ask("filesystems", "df -P -T -B1"),), filesystems),
    ReadingStep(
        "network",
        3,
        (Ask("links", "ip -j addr"), Ask("speeds", "grep -s . /sys/class/net/*/speed 2>/dev/null")),
        network,
    ),
    ReadingStep("accounts", 3, accounts.ASKS, accounts.accounts),
    ReadingStep("packages", 4, (Ask("dpkg", _DPKG), Ask("rpm", _RPM)), packages),
    ReadingStep("ports", 4, (UID, Ask("ports", "ss -H -tulnp", root=True)), ports),
    ReadingStep("signins", 4, (Ask("signins", "last -F -w -n 60"),), signins),
    *hosting.STEPS,
    *clustered.STEPS,
    *workings.STEPS,
    *serving.STEPS,
    processes.STEP,
)
"""What is read of a Linux computer, in order."""
