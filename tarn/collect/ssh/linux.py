"""Reading a Linux computer over a shell: what is run for each section, and how its output is read.

Everything run is read-only and found on ordinary systems; what is missing is said in the reading's note.
"""

import json
import re
import shlex
from collections.abc import Callable
from datetime import datetime
from typing import Any

from pydantic import ValidationError

from tarn.collect.ssh import workings
from tarn.collect.ssh.client import Output
from tarn.collect.ssh.parsing import MARK, Unread
from tarn.core.items import Account, Address, Disk, Filesystem, Interface, Package, Port, SignIn
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading

_DMI = ("sys_vendor", "product_name", "product_serial", "product_uuid", "board_serial")
_ADMIN_GROUPS = ("sudo", "wheel", "admin", "root")


def identity(output: Output) -> list[Any]:
    """Read DMI (DMTF DSP0134, as the kernel shows it) and the host name."""
    dmi_text, _, host = output.out.partition(f"{MARK}\n")
    dmi: dict[str, str] = {}
    for line in dmi_text.splitlines():
        path, _, value = line.partition(":")
        dmi.setdefault(path.rsplit("/", 1)[-1], value.strip()[:400])
    name = next(iter(host.split()), "")
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
    note = "" if "product_serial" in dmi else "The account may not read the serial number (root may)."
    return [make_reading("identity", facts, "ssh.identity", note=note)]


def system(output: Output) -> list[Any]:
    """Read os-release (its specification: os-release(5)) and the kernel's own name."""
    release_text, _, kernel = output.out.partition(f"{MARK}\n")
    release: dict[str, str] = {}
    for line in release_text.splitlines():
        key, sign, value = line.partition("=")
        if sign:
            release[key] = (shlex.split(value) or [""])[0] if value.count('"') % 2 == 0 else value.strip('"')
    words = kernel.split()
    if not release and not words:
        raise Unread("the system does not say what it is")
    facts = System(
        platform="Linux",
        os_name=release.get("NAME") or "Linux",
        os_version=release.get("VERSION_ID"),
        os_kernel=words[1] if len(words) > 1 else None,
        arch=words[2] if len(words) > 2 else None,
        description=release.get("PRETTY_NAME"),
    )
    return [make_reading("system", facts, "ssh.system")]


def hardware(output: Output) -> list[Any]:
    """Read processors and memory; memory that is online, or where that is unknown what the kernel has."""
    cpu, _, rest = output.out.partition(f"{MARK}\n")
    names = re.findall(r"^model name\s*:\s*(.+)$", cpu, re.M)
    cores = len(
        set(zip(*[re.findall(rf"^{k}\s*:\s*(\d+)$", cpu, re.M) for k in ("physical id", "core id")], strict=False))
    )
    threads = len(re.findall(r"^processor\s*:", cpu, re.M))
    online = re.search(r"^Total online memory:\s*(\d+)", rest, re.M)
    total = re.search(r"^MemTotal:\s*(\d+) kB", rest, re.M)
    if not threads and not total:
        raise Unread("neither processors nor memory could be read")
    memory = int(online[1]) if online else int(total[1]) * 1024 if total else None
    facts = Hardware(
        processor=names[0].strip()[:400] if names else None,
        processors=len(set(re.findall(r"^physical id\s*:\s*(\d+)$", cpu, re.M))) or None,
        cores=cores or threads or None,
        memory=memory,
    )
    return [make_reading("hardware", facts, "ssh.hardware")]


def disks(output: Output) -> list[Any]:
    """Read whole disks of lsblk; loop and memory devices are none."""
    items = []
    for line in output.out.splitlines():
        pairs = dict(re.findall(r'([A-Z]+)="([^"]*)"', line))
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


def filesystems(output: Output) -> list[Any]:
    """Read mounted file systems of df (POSIX format with types), how full to the nearest 5 %."""
    items: dict[str, Filesystem] = {}
    for line in output.out.splitlines()[1:]:
        words = line.split(None, 6)
        if len(words) < 7 or words[1] in _NOT_STORAGE or not words[2].isdigit() or not int(words[2]):
            continue
        device, kind, size, used, _, _, mount = words
        full = min(100, round(100 * int(used) / int(size) / 5) * 5)
        items[mount] = Filesystem(mount=mount, device=device, type=kind, size=int(size), full=full)
    return [make_reading("filesystems", sorted(items.values(), key=lambda f: f.mount), "ssh.filesystems")]


def network(output: Output) -> list[Any]:
    """Read interfaces and addresses of `ip -j addr`, speeds from the kernel; loopback is left out."""
    listed, _, speeds_text = output.out.partition(f"{MARK}\n")
    try:
        data = json.loads(listed or "null")
    except ValueError:
        data = None
    if not isinstance(data, list):
        raise Unread("`ip -j addr` gave no list of interfaces")
    speeds = {m[1]: int(m[2]) for m in re.finditer(r"/net/([^/]+)/speed:(\d+)", speeds_text)}
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
    out = [
        make_reading("interfaces", sorted(items, key=lambda i: i.name), "ssh.network"),
        make_reading("addresses", sorted(held, key=lambda a: a.address), "ssh.network"),
    ]
    if macs:
        out.append(make_reading("identity", Identity(macs=tuple(dict.fromkeys(macs))), "ssh.network"))
    return out


_MAINTAINER = re.compile(r"\s*<[^>]*>\s*$")


def packages(output: Output) -> list[Any]:
    """Read packages of dpkg (five columns) or rpm (four). A list cut short keeps what came before."""
    found: dict[tuple[str, str], Package] = {}
    left_out: list[str] = []
    lines = output.out.split("\n")
    if output.cut is not None:
        lines = lines[:-1]  # the last line may be half a line
    for line in lines:
        words = line.split("\t")
        if len(words) == 5:
            name, version, arch, publisher, status = words
            if status.strip() != "installed":
                continue
        elif len(words) == 4:
            name, version, arch, publisher = words
            version = version.removeprefix("(none):").removeprefix("0:")
        else:
            continue
        publisher = _MAINTAINER.sub("", publisher).strip()
        try:
            one = Package(
                name=name, version=version, arch=arch, publisher="" if publisher == "(none)" else publisher[:480]
            )
        except ValidationError:
            left_out.append(name[:40])
            continue
        found[name, version] = one
    if not found and output.cut is None:
        raise Unread("neither dpkg nor rpm lists any package")
    note = output.cut.says if output.cut else ""
    if left_out:
        note = f"{note} {len(left_out)} left out for impossible names: {', '.join(left_out[:3])}".strip()
    items = sorted(found.values(), key=lambda p: (p.name, p.version))
    return [make_reading("packages", items, "ssh.packages", complete=output.cut is None, note=note[:480])]


def accounts(output: Output) -> list[Any]:
    """Read local accounts of passwd(5) and group(5); administrators are uid 0 and members of sudo, wheel, admin."""
    passwd, _, group = output.out.partition(f"{MARK}\n")
    admins: set[str] = set()
    for line in group.splitlines():
        words = line.split(":")
        if len(words) == 4 and words[0] in _ADMIN_GROUPS:
            admins |= {m for m in words[3].split(",") if m}
    items = []
    for line in passwd.splitlines():
        words = line.split(":")
        if len(words) != 7 or not words[2].lstrip("-").isdigit() or not words[0]:
            continue
        name, _, uid, _, gecos, _, shell = words
        items.append(
            Account(
                name=name[:300],
                uid=int(uid),
                full_name=gecos.split(",")[0][:400],
                administrator=int(uid) == 0 or name in admins,
                enabled=not shell.endswith(("nologin", "false", "sync")),
            )
        )
    if not items:
        raise Unread("no account could be read")
    return [make_reading("accounts", sorted(items, key=lambda a: a.name), "ssh.accounts")]


_PROCESS = re.compile(r'users:\(\("([^"]+)"')


def ports(output: Output) -> list[Any]:
    """Read listening ports of ss, with their processes where the account may see them."""
    items: dict[tuple[str, int], Port] = {}
    for line in output.out.splitlines():
        words = line.split()
        if len(words) < 5 or words[0] not in ("tcp", "udp"):
            continue
        local = words[4]
        number = local.rpartition(":")[2]
        if not number.isdigit() or local.startswith(("127.", "[::1]")):
            continue
        process = _PROCESS.search(line)
        key = (words[0], int(number))
        if key not in items or (process and not items[key].process):
            items[key] = Port(protocol=key[0], port=key[1], process=process[1][:300] if process else "")
    return [make_reading("ports", [items[k] for k in sorted(items)], "ssh.ports")]


_LAST = re.compile(r"^(\S+)\s+(\S+)\s+(\S*)\s+(?:\w{3}) (\w{3}\s+\d+ \d\d:\d\d:\d\d \d{4})")


def signins(output: Output) -> list[Any]:
    """Read the latest sign-in of each account of last(1)."""
    items: dict[str, SignIn] = {}
    newest: str | None = None
    for line in output.out.splitlines():
        if not (found := _LAST.match(line)) or found[1] in ("reboot", "shutdown", "runlevel"):
            continue
        try:
            at = int(datetime.strptime(found[4], "%b %d %H:%M:%S %Y").timestamp())
        except ValueError:
            continue
        if found[1] not in items:
            items[found[1]] = SignIn(account=found[1], at=at, origin=found[3])
            newest = newest or found[1]
    out = [make_reading("signins", [items[k] for k in sorted(items)], "ssh.signins")]
    if newest:
        out.append(make_reading("system", System(last_user=newest), "ssh.signins"))
    return out


_DMI_PATHS = " ".join(f"/sys/class/dmi/id/{n}" for n in _DMI)
_DPKG = r"dpkg-query -W -f '${Package}\t${Version}\t${Architecture}\t${Maintainer}\t${db:Status-Status}\n' 2>/dev/null"
_RPM = r"rpm -qa --qf '%{NAME}\t%{EPOCH}:%{VERSION}-%{RELEASE}\t%{ARCH}\t%{VENDOR}\n' 2>/dev/null"

Reader = Callable[[Output], list[Any]]

STEPS: tuple[tuple[str, int, str, Reader], ...] = (
    (
        "identity",
        3,
        f"grep -s . {_DMI_PATHS} 2>/dev/null; sudo -n grep -s . {_DMI_PATHS} 2>/dev/null; echo {MARK}; "
        "hostname -f 2>/dev/null; hostname 2>/dev/null",
        identity,
    ),
    ("system", 3, f"cat /etc/os-release; echo {MARK}; uname -srm", system),
    (
        "hardware",
        3,
        f"cat /proc/cpuinfo; echo {MARK}; cat /proc/meminfo; lsmem -b --summary=only 2>/dev/null",
        hardware,
    ),
    ("disks", 3, "lsblk -b -d -P -o NAME,TYPE,SIZE,MODEL,SERIAL", disks),
    ("filesystems", 3, "df -P -T -B1 2>/dev/null", filesystems),
    ("network", 3, f"ip -j addr; echo; echo {MARK}; grep -s . /sys/class/net/*/speed 2>/dev/null", network),
    ("accounts", 3, f"cat /etc/passwd; echo {MARK}; cat /etc/group", accounts),
    ("packages", 4, f"{_DPKG}; {_RPM}", packages),
    ("ports", 4, "sudo -n ss -H -tulnp 2>/dev/null; ss -H -tulnp 2>/dev/null", ports),
    ("signins", 4, "last -F -w -n 60 2>/dev/null", signins),
    *workings.STEPS,
)
"""Section, stage of the sweep, the line that is run, and its reader, in order."""
