"""Reading a Windows computer: from the answer of one script to readings."""

import json
import time
from collections.abc import Callable
from typing import Any

from tarn.collect.problems import Problem
from tarn.collect.winrm.client import Remote
from tarn.collect.winrm.script import SOFTWARE, SYSTEM, script
from tarn.collect.winrm.software import features, licence_keys, programs, scheduled
from tarn.collect.winrm.values import Answer, mac_of, moment, number, one, rows, text
from tarn.collect.winrm.workings import guests, people, printers, protections, services, sockets, updates
from tarn.core.items import (
    Address,
    Disk,
    Filesystem,
    Interface,
    MemoryModule,
)
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading


def identity(answer: Answer) -> list[Any]:
    """Read names, BIOS and board serials, the hardware UUID, and the addresses of physical adapters."""
    computer, bios = one(answer, "computer"), one(answer, "bios")
    macs = [mac_of(a.get("MACAddress")) for a in rows(answer, "adapters") if a.get("PhysicalAdapter")]
    name = text(computer.get("Name")).lower()
    facts = Identity(
        name=name or None,
        domain=(text(computer.get("Domain")).lower() or None) if computer.get("PartOfDomain") else None,
        serial=text(bios.get("SerialNumber")) or None,
        manufacturer=text(computer.get("Manufacturer")) or None,
        model=text(computer.get("Model")) or None,
        uuid=text(one(answer, "product").get("UUID")).lower() or None,
        macs=tuple(dict.fromkeys(m for m in macs if m)),
    )
    return [make_reading("identity", facts, "winrm.identity")]


def system(answer: Answer) -> list[Any]:
    """Read the operating system, its build and its last start."""
    held = one(answer, "os")
    user = text(one(answer, "signed_in").get("LastLoggedOnUser") or one(answer, "computer").get("UserName"))
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
        processors=len(processors) or None,
        cores=sum(number(p.get("NumberOfCores")) or 0 for p in processors) or None,
        memory=number(one(answer, "computer").get("TotalPhysicalMemory")),
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


def network(answer: Answer) -> list[Any]:
    """Read adapters that have a connection or a hardware address, and their addresses; link-local ones left out."""
    items, names = {}, {}
    for a in rows(answer, "adapters"):
        name = text(a.get("NetConnectionID") or a.get("Name"))
        mac = mac_of(a.get("MACAddress"))
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
            ("programs", licence_keys),
            ("features", features),
            ("tasks", scheduled),
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

_EXPECTED_ABSENT = frozenset({"guests", "protections", "tasks", "features"})
"""Questions that fail on sound computers: no virtual host, no security centre, no parts to choose from."""


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
