"""Reading a Windows computer: from the answer of one script to readings."""

import json
import re
import time
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from pydantic import ValidationError

from tarn.collect.problems import Problem
from tarn.collect.winrm.client import Remote
from tarn.collect.winrm.script import SOFTWARE, SYSTEM, script
from tarn.core.items import (
    Account,
    Address,
    Connection,
    Disk,
    Filesystem,
    Guest,
    Interface,
    Membership,
    MemoryModule,
    Package,
    Port,
    Printer,
    Protection,
    Service,
    Update,
)
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading

Answer = dict[str, Any]
_MAC = re.compile(r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")


def text(value: Any) -> str:
    """Return a value as one line of text without control characters."""
    return re.sub(r"[\x00-\x1f\x7f\s]+", " ", "" if value is None else str(value)).strip()[:480]


def number(value: Any) -> int | None:
    """Return a whole number, or None where the computer gave none."""
    try:
        return int(value)
    except (TypeError, ValueError):
        return None


def moment(value: Any) -> int | None:
    """Return seconds since 1970 of a time as PowerShell prints it: `/Date(ms)/`, ISO 8601, or yyyymmdd."""
    said = text(value if not isinstance(value, dict) else value.get("value"))
    if found := re.match(r"^/Date\((-?\d+)", said):
        return int(found[1]) // 1000
    for shape in ("%Y%m%d", "%m/%d/%Y"):
        try:
            return int(datetime.strptime(said, shape).replace(tzinfo=UTC).timestamp())
        except ValueError:
            continue
    try:
        at = datetime.fromisoformat(said)
    except ValueError:
        return None
    return int((at if at.tzinfo else at.replace(tzinfo=UTC)).timestamp())


def rows(answer: Answer, name: str) -> list[dict[str, Any]]:
    """Return the rows of one question; PowerShell makes a list of one a single object."""
    got = answer.get(name) or []
    return [r for r in (got if isinstance(got, list) else [got]) if isinstance(r, dict)]


def _one(answer: Answer, name: str) -> dict[str, Any]:
    return next(iter(rows(answer, name)), {})


def identity(answer: Answer) -> list[Any]:
    """Read names, BIOS and board serials, the hardware UUID, and the addresses of physical adapters."""
    computer, bios = _one(answer, "computer"), _one(answer, "bios")
    macs = [_mac(a.get("MACAddress")) for a in rows(answer, "adapters") if a.get("PhysicalAdapter")]
    name = text(computer.get("Name")).lower()
    facts = Identity(
        name=name or None,
        domain=(text(computer.get("Domain")).lower() or None) if computer.get("PartOfDomain") else None,
        serial=text(bios.get("SerialNumber")) or None,
        manufacturer=text(computer.get("Manufacturer")) or None,
        model=text(computer.get("Model")) or None,
        uuid=text(_one(answer, "product").get("UUID")).lower() or None,
        macs=tuple(dict.fromkeys(m for m in macs if m)),
    )
    return [make_reading("identity", facts, "winrm.identity")]


def system(answer: Answer) -> list[Any]:
    """Read the operating system, its build and its last start."""
    held = _one(answer, "os")
    user = text(_one(answer, "signed_in").get("LastLoggedOnUser") or _one(answer, "computer").get("UserName"))
    facts = System(
        platform="Windows",
        os_name=text(held.get("Caption")).removeprefix("Microsoft ") or None,
        os_version=text(held.get("Version")) or None,
        arch=text(held.get("OSArchitecture")) or None,
        last_user=user or None,
        booted=moment(held.get("LastBootUpTime")),
    )
    return [make_reading("system", facts, "winrm.system")]


def hardware(answer: Answer) -> list[Any]:
    """Read processors, memory and its modules."""
    processors = rows(answer, "processors")
    facts = Hardware(
        processor=text(processors[0].get("Name")) or None if processors else None,
        cores=sum(number(p.get("NumberOfCores")) or 0 for p in processors) or None,
        memory=number(_one(answer, "computer").get("TotalPhysicalMemory")),
    )
    modules = {
        slot: MemoryModule(
            slot=slot,
            size=number(m.get("Capacity")),
            speed=number(m.get("Speed")),
            manufacturer=text(m.get("Manufacturer")),
            serial=text(m.get("SerialNumber")),
        )
        for m in rows(answer, "modules")
        if (slot := text(m.get("DeviceLocator")))
    }
    installed = sum(m.size or 0 for m in modules.values())
    if installed:  # what the system can use is less than what is fitted
        facts = facts.model_copy(update={"memory": installed})
    return [
        make_reading("hardware", facts, "winrm.hardware"),
        make_reading("memory_modules", [modules[k] for k in sorted(modules)], "winrm.hardware"),
    ]


def storage(answer: Answer) -> list[Any]:
    """Read disks, and local volumes (DriveType 3) with how full they are to the nearest 5 %."""
    disks = {
        name: Disk(
            name=name, model=text(d.get("Model")), serial=text(d.get("SerialNumber")), size=number(d.get("Size"))
        )
        for d in rows(answer, "disks")
        if (name := text(d.get("DeviceID")).rsplit("\\", 1)[-1])
    }
    volumes = {}
    for v in rows(answer, "volumes"):
        name, size, free = text(v.get("DeviceID")), number(v.get("Size")), number(v.get("FreeSpace"))
        if not name or number(v.get("DriveType")) != 3 or not size:
            continue
        full = min(100, round(100 * (size - (free or 0)) / size / 5) * 5)
        volumes[name] = Filesystem(mount=name, type=text(v.get("FileSystem")).lower(), size=size, full=full)
    return [
        make_reading("disks", [disks[k] for k in sorted(disks)], "winrm.storage"),
        make_reading("filesystems", [volumes[k] for k in sorted(volumes)], "winrm.storage"),
    ]


def _mac(value: Any) -> str | None:
    mac = text(value).lower().replace("-", ":")
    return mac if _MAC.match(mac) else None


def network(answer: Answer) -> list[Any]:
    """Read adapters that have a connection or a hardware address, and their addresses; link-local ones left out."""
    items, names = {}, {}
    for a in rows(answer, "adapters"):
        name = text(a.get("NetConnectionID") or a.get("Name"))
        mac = _mac(a.get("MACAddress"))
        if not name or not (mac or a.get("NetConnectionID")):
            continue
        names[a.get("Index")] = name
        speed = number(a.get("Speed"))
        speed = speed if speed and speed < 2**62 else None  # an adapter that is down says 2^63 − 1
        items[name] = Interface(name=name, mac=mac, speed=speed, up=bool(a.get("NetEnabled")), kind="ethernet")
    held = {}
    for c in rows(answer, "configurations"):
        addresses, masks = c.get("IPAddress") or [], c.get("IPSubnet") or []
        for address, mask in zip(addresses, masks, strict=False):
            if str(address).lower().startswith("fe80") or c.get("Index") not in names:
                continue
            bits = sum(bin(int(p)).count("1") for p in str(mask).split(".")) if "." in str(mask) else number(mask)
            held[address] = Address(address=str(address), interface=names[c["Index"]], prefix=bits)
    return [
        make_reading("interfaces", [items[k] for k in sorted(items)], "winrm.network"),
        make_reading("addresses", [held[k] for k in sorted(held)], "winrm.network"),
    ]


def programs(answer: Answer) -> list[Any]:
    """Read installed programs of both registry views and of each user; system components are none."""
    found: dict[tuple[str, str], Package] = {}
    left_out = 0
    for view, arch in (("programs", "x64"), ("programs32", "x86"), ("programs_users", "user")):
        for p in rows(answer, view):
            name = text(p.get("DisplayName"))[:300]
            if not name or number(p.get("SystemComponent")) == 1:
                continue
            try:
                one = Package(
                    name=name, version=text(p.get("DisplayVersion")), arch=arch, publisher=text(p.get("Publisher"))
                )
            except ValidationError:
                left_out += 1
                continue
            found.setdefault((one.name, one.version), one)
    note = f"{left_out} left out for impossible names" if left_out else ""
    items = [found[k] for k in sorted(found)]
    complete = "programs" in answer
    return [make_reading("packages", items, "winrm.programs", complete=complete, note=note)]


_START = {"auto": "automatic", "manual": "manual", "disabled": "disabled", "boot": "boot", "system": "system"}


def services(answer: Answer) -> list[Any]:
    """Read services."""
    items = {
        name: Service(
            name=name,
            label=text(s.get("DisplayName")),
            start=_START.get(text(s.get("StartMode")).lower(), text(s.get("StartMode")).lower()),
            running=text(s.get("State")).lower() == "running",
            account=text(s.get("StartName")),
        )
        for s in rows(answer, "services")
        if (name := text(s.get("Name")))
    }
    return [make_reading("services", [items[k] for k in sorted(items)], "winrm.services")]


def _named(component: Any) -> tuple[str, str]:
    """Return domain and name of a reference such as `Win32_Group (Name = "Users", Domain = "PC")`."""
    if isinstance(component, dict):
        return text(component.get("Domain")), text(component.get("Name"))
    pairs = dict(re.findall(r'(\w+) ?= ?"([^"]*)"', str(component or "")))
    return text(pairs.get("Domain")), text(pairs.get("Name"))


def people(answer: Answer) -> list[Any]:
    """Read local accounts and groups; administrators are members of the group with RID 544 by its usual name."""
    members: dict[tuple[str, str], Membership] = {}
    administrators: set[str] = set()
    computer = text(_one(answer, "computer").get("Name")).lower()
    for m in rows(answer, "memberships"):
        _, group = _named(m.get("GroupComponent"))
        domain, name = _named(m.get("PartComponent"))
        if not group or not name:
            continue
        member = name if domain.lower() in (computer, "builtin", "nt authority", "") else f"{domain}\\{name}"
        members[group, member] = Membership(group=group, member=member)
        if group == "Administrators" and member == name:
            administrators.add(name)
    accounts = {
        name: Account(
            name=name,
            uid=number(text(u.get("SID")).rsplit("-", 1)[-1]),
            full_name=text(u.get("FullName")),
            administrator=name in administrators,
            enabled=not u.get("Disabled"),
        )
        for u in rows(answer, "users")
        if (name := text(u.get("Name")))
    }
    return [
        make_reading("accounts", [accounts[k] for k in sorted(accounts)], "winrm.people"),
        make_reading("memberships", [members[k] for k in sorted(members)], "winrm.people"),
    ]


def protections(answer: Answer) -> list[Any]:
    """Read protection products: bit 12 of productState says on, bit 4 out of date."""
    items = {}
    for p in rows(answer, "protections"):
        name, state = text(p.get("displayName")), number(p.get("productState")) or 0
        if name:
            items[name] = Protection(name=name, on=bool(state & 0x1000), up_to_date=not state & 0x10)
    return [make_reading("protections", [items[k] for k in sorted(items)], "winrm.protections")]


def updates(answer: Answer) -> list[Any]:
    """Read updates of the operating system."""
    items = {
        name: Update(name=name, description=text(u.get("Description")), installed=moment(u.get("InstalledOn")))
        for u in rows(answer, "updates")
        if (name := text(u.get("HotFixID")))
    }
    return [make_reading("updates", [items[k] for k in sorted(items)], "winrm.updates")]


def printers(answer: Answer) -> list[Any]:
    """Read printers set up."""
    items = {
        name: Printer(name=name, driver=text(p.get("DriverName")), port=text(p.get("PortName")))
        for p in rows(answer, "printers")
        if (name := text(p.get("Name")))
    }
    return [make_reading("printers", [items[k] for k in sorted(items)], "winrm.printers")]


def sockets(answer: Answer) -> list[Any]:
    """Read listening ports and connections with their processes."""
    names = {p.get("Id"): text(p.get("ProcessName")) for p in rows(answer, "processes")}
    ports = {}
    for s in rows(answer, "listeners"):
        port = number(s.get("LocalPort"))
        if port is not None and not str(s.get("LocalAddress", "")).startswith(("127.", "::1")):
            ports[port] = Port(protocol="tcp", port=port, process=names.get(s.get("OwningProcess"), ""))
    held = {}
    for c in rows(answer, "connections"):
        peer, port = text(c.get("RemoteAddress")), number(c.get("RemotePort"))
        process = names.get(c.get("OwningProcess"), "")
        if peer and port is not None and process and not peer.startswith(("127.", "::1")):
            held[process, peer, port] = Connection(process=process, peer=peer, port=port)
    return [
        make_reading("ports", [ports[k] for k in sorted(ports)], "winrm.sockets"),
        make_reading("connections", [held[k] for k in sorted(held)], "winrm.sockets"),
    ]


def guests(answer: Answer) -> list[Any]:
    """Read guests, where the computer is a virtual host; nothing where it is none."""
    if "guests" not in answer:
        return []
    items = {
        uuid: Guest(
            uuid=uuid,
            name=text(g.get("VMName")),
            state={"2": "running", "3": "off"}.get(text(g.get("State")), text(g.get("State")).lower()),
            cores=number(g.get("ProcessorCount")),
            memory=number(g.get("MemoryAssigned")),
        )
        for g in rows(answer, "guests")
        if (uuid := text(g.get("VMId")).lower())
    }
    return [make_reading("guests", [items[k] for k in sorted(items)], "winrm.guests")]


Reader = Callable[[Answer], list[Any]]
STEPS: tuple[tuple[int, str, dict[str, str], tuple[tuple[str, Reader], ...]], ...] = (
    (
        3,
        "the system",
        SYSTEM,
        (
            ("computer", identity),
            ("os", system),
            ("processors", hardware),
            ("disks", storage),
            ("adapters", network),
        ),
    ),
    (
        4,
        "software and services",
        SOFTWARE,
        (
            ("programs", programs),
            ("services", services),
            ("users", people),
            ("protections", protections),
            ("updates", updates),
            ("printers", printers),
            ("listeners", sockets),
            ("guests", guests),
        ),
    ),
)
"""Stage, what it is called, its questions, and the readers, each with the question it cannot do without."""

_EXPECTED_ABSENT = frozenset({"guests", "protections"})
"""Questions that fail on sound computers: not every one is a virtual host or has the security centre."""


def answer_of(printed: str, section: str) -> Answer:
    """Return the answer a script printed. Raises Problem where it is none."""
    start = printed.find("{")
    try:
        answer = json.loads(printed[start:]) if start >= 0 else None
    except ValueError:
        answer = None
    if not isinstance(answer, dict):
        raise Problem("nonsense", protocol="PowerShell", detail=f"{section}: {text(printed)[:120] or 'no output'}")
    return answer


async def read_all(session: Remote, stages: Callable[[int], None] | None = None) -> tuple[list[Any], list[Problem]]:
    """Read everything; a question that fails is a problem of its own and the rest goes on.

    Raises Problem where the computer does not even tell its system.
    """
    readings: list[Any] = []
    problems: list[Problem] = []
    answer: Answer = {}
    for stage, called, questions, readers in STEPS:
        if stages:
            stages(stage)
        began = time.perf_counter()
        try:
            # Later readers look things up in what earlier questions brought (the computer's name).
            answer |= answer_of(await session.run(script(questions), called), called)
        except Problem as problem:
            if not readings:
                raise
            problems.append(problem)
            break
        took = int((time.perf_counter() - began) * 1000)
        made, failed = _read(answer, readers)
        readings += [r.model_copy(update={"took_ms": took}) for r in made]
        problems += failed
    return readings, problems


def read_answer(answer: Answer) -> tuple[list[Any], list[Problem]]:
    """Read an answer to all questions at once, as a reporter sends it."""
    return _read(answer, tuple(r for _, _, _, readers in STEPS for r in readers))


def _read(answer: Answer, readers: tuple[tuple[str, Reader], ...]) -> tuple[list[Any], list[Problem]]:
    readings: list[Any] = []
    problems: list[Problem] = []
    for needed, reader in readers:
        if needed not in answer:
            if needed not in _EXPECTED_ABSENT:
                detail = text(answer.get(f"{needed}_error"))[:200] or "no answer to the question"
                problems.append(Problem("not-permitted", section=needed, detail=detail))
            continue
        try:
            readings += reader(answer)
        except (ValueError, KeyError, TypeError) as error:
            problems.append(Problem("failed", section=needed, detail=str(error).splitlines()[0][:200]))
    return readings, problems
