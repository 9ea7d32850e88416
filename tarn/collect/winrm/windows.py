"""Reading a Windows computer: from the answer of one script to readings."""

import json
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from tarn.collect.problems import Problem
from tarn.collect.winrm.client import Remote
from tarn.collect.winrm.script import SOFTWARE, SYSTEM, script
from tarn.collect.winrm.software import features, installs, licence_keys, programs, scheduled
from tarn.collect.winrm.values import Answer, mac_of, moment, number, one, rows, text
from tarn.collect.winrm.workings import (
    accounts,
    connections,
    guests,
    memberships,
    ports,
    printers,
    processes,
    protections,
    services,
    share_users,
    shares,
    updates,
)
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
    """Read processors and memory: what is fitted, for what the system can use is less."""
    processors = rows(answer, "processors")
    fitted = sum(number(m.get("Capacity")) or 0 for m in rows(answer, "modules"))
    facts = Hardware(
        processor=text(processors[0].get("Name")) or None if processors else None,
        processors=len(processors) or None,
        cores=sum(number(p.get("NumberOfCores")) or 0 for p in processors) or None,
        memory=fitted or number(one(answer, "computer").get("TotalPhysicalMemory")),
    )
    return [make_reading("hardware", facts, "winrm.hardware")]


def modules(answer: Answer) -> list[Any]:
    """Read memory modules."""
    items = {
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
    return [make_reading("memory_modules", [items[k] for k in sorted(items)], "winrm.hardware")]


def disks(answer: Answer) -> list[Any]:
    """Read disks."""
    items = {
        name: Disk(
            name=name, model=text(d.get("Model")), serial=text(d.get("SerialNumber")), size=number(d.get("Size"))
        )
        for d in rows(answer, "disks")
        if (name := text(d.get("DeviceID")).rsplit("\\", 1)[-1])
    }
    return [make_reading("disks", [items[k] for k in sorted(items)], "winrm.storage")]


def volumes(answer: Answer) -> list[Any]:
    """Read local volumes (DriveType 3) with how full they are to the nearest 5 %."""
    items = {}
    for v in rows(answer, "volumes"):
        name, size, free = text(v.get("DeviceID")), number(v.get("Size")), number(v.get("FreeSpace"))
        if not name or number(v.get("DriveType")) != 3 or not size:
            continue
        full = min(100, round(100 * (size - free) / size / 5) * 5) if free is not None else None
        items[name] = Filesystem(mount=name, type=text(v.get("FileSystem")).lower(), size=size, full=full)
    return [make_reading("filesystems", [items[k] for k in sorted(items)], "winrm.storage")]


def _adapters(answer: Answer) -> list[tuple[Any, str, str | None, dict[str, Any]]]:
    """Return index, name, hardware address and row of adapters that have a connection or a hardware address."""
    out = []
    for a in rows(answer, "adapters"):
        name, mac = text(a.get("NetConnectionID") or a.get("Name")), mac_of(a.get("MACAddress"))
        if name and (mac or a.get("NetConnectionID")):
            out.append((a.get("Index"), name, mac, a))
    return out


def interfaces(answer: Answer) -> list[Any]:
    """Read adapters that have a connection or a hardware address."""
    items = {}
    for _, name, mac, a in _adapters(answer):
        speed = number(a.get("Speed"))
        speed = speed if speed and speed < 2**62 else None  # an adapter that is down says 2^63 − 1
        items[name] = Interface(name=name, mac=mac, speed=speed, up=bool(a.get("NetEnabled")), kind="ethernet")
    return [make_reading("interfaces", [items[k] for k in sorted(items)], "winrm.network")]


def addresses(answer: Answer) -> list[Any]:
    """Read addresses of adapters; link-local ones are left out."""
    names = {index: name for index, name, _, _ in _adapters(answer)}
    held = {}
    for c in rows(answer, "configurations"):
        listed, masks = c.get("IPAddress") or [], c.get("IPSubnet") or []
        for address, mask in zip(listed, masks, strict=False):
            if str(address).lower().startswith("fe80") or c.get("Index") not in names:
                continue
            bits = sum(bin(int(p)).count("1") for p in str(mask).split(".")) if "." in str(mask) else number(mask)
            held[address] = Address(address=str(address), interface=names[c["Index"]], prefix=bits)
    return [make_reading("addresses", [held[k] for k in sorted(held)], "winrm.network")]


@dataclass(frozen=True, slots=True)
class Reader:
    """What makes readings of an answer.

    `needs`: questions without which there is no reading; `uses`: questions without which it is not whole; `to_all`:
    whether it is shown whole to ordinary accounts too; `hides`: by question the attributes that are not seen without.
    """

    read: Callable[[Answer], list[Any]]
    needs: tuple[str, ...]
    uses: tuple[str, ...] = ()
    to_all: bool = True
    hides: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


STEPS: tuple[tuple[int, str, dict[str, str], tuple[Reader, ...]], ...] = (
    (
        3,
        "the system",
        SYSTEM,
        (
            Reader(identity, ("computer",), ("bios", "product", "adapters")),
            Reader(system, ("os",), ("signed_in",)),
            Reader(hardware, ("processors", "computer"), hides={"modules": ("memory",)}),
            Reader(modules, ("modules",)),
            Reader(disks, ("disks",)),
            Reader(volumes, ("volumes",)),
            Reader(interfaces, ("adapters",)),
            Reader(addresses, ("adapters", "configurations")),
        ),
    ),
    (
        4,
        "software and services",
        SOFTWARE,
        (
            Reader(programs, ("programs",), ("programs32", "programs_users"), to_all=False),
            Reader(installs, ("programs", "users"), ("programs32", "programs_users"), False, {"prefetch": ("used",)}),
            Reader(licence_keys, ("programs", "os"), ("keys", "programs32", "programs_users", "firmware_key"), False),
            Reader(features, ("features",)),
            Reader(scheduled, ("tasks",), to_all=False),
            Reader(services, ("services",)),
            Reader(memberships, ("memberships", "computer")),
            Reader(accounts, ("users", "computer"), hides={"memberships": ("administrator",)}),
            Reader(protections, ("protections",)),
            Reader(updates, ("updates",)),
            Reader(printers, ("printers",), to_all=False),
            Reader(shares, ("shares",), to_all=False),
            Reader(share_users, ("share_users",), to_all=False),
            Reader(ports, ("listeners",), hides={"processes": ("process",)}),
            Reader(connections, ("connections",), hides={"processes": ("process",)}),
            Reader(processes, ("commands",), hides={"owners": ("account",), "listeners": ("listens",)}),
            Reader(guests, ("guests",), to_all=False),
        ),
    ),
)
"""Stage, what it is called, its questions, and the readers."""

_EXPECTED_ABSENT = frozenset({"guests", "protections", "tasks", "features", "keys", "printers"})
"""Questions that fail on sound computers: no virtual host, no security centre, no parts to choose from, no spooler."""


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


def _read(answer: Answer, readers: tuple[Reader, ...]) -> tuple[list[Any], list[Problem]]:
    readings: list[Any] = []
    problems: dict[str, Problem] = {}
    for reader in readers:
        failed = [q for q in reader.needs if q not in answer]
        for name in failed:
            if name not in _EXPECTED_ABSENT:
                detail = text(answer.get(f"{name}_error"))[:200] or "no answer to the question"
                problems[name] = Problem("not-permitted", section=name, detail=detail)
        if failed:
            continue
        try:
            made = reader.read(answer)
        except (ValueError, KeyError, TypeError) as error:
            name = reader.needs[0]
            problems[name] = Problem("failed", section=name, detail=(str(error).splitlines() or ["?"])[0][:200])
            continue
        readings += _as_far_as_seen(reader, answer, made)
    return readings, list(problems.values())


def _as_far_as_seen(reader: Reader, answer: Answer, made: list[Any]) -> list[Any]:
    """Say of readings whether they are whole: every question was answered, to one who may see all of it."""
    missing = [q for q in (*reader.uses, *reader.hides) if q not in answer]
    administrator = answer.get("administrator") in (True, [True])
    if not missing and (reader.to_all or administrator):
        return made
    told = f"Not answered: {', '.join(missing)}." if missing else "An ordinary account is not shown all of it."
    whole = not set(missing) & set(reader.uses) and (reader.to_all or administrator)
    unseen = tuple(a for q in missing for a in reader.hides.get(q, ()))
    seen: dict[str, Any] = {"note": f"{told} {made[0].note}".strip()[:480], "complete": whole}
    if unseen:
        seen["unseen"] = unseen
    return [r.model_copy(update={**seen, "complete": whole and r.complete}) for r in made]
