"""Reading a device over SNMP by standard MIBs; each reader cites the RFC of its tables."""

import re
import time
from collections.abc import Awaitable, Callable
from ipaddress import IPv4Address
from typing import Any

from tarn.collect.problems import Problem
from tarn.collect.snmp import network
from tarn.collect.snmp.client import Pair, Walker
from tarn.collect.snmp.power import parts
from tarn.collect.snmp.values import MOST_TEXT, column, mac, text
from tarn.core.items import Address, Filesystem, Interface, Package
from tarn.core.sections import Hardware, Identity, System
from tarn.core.sightings import make_reading

_SYSTEM = "1.3.6.1.2.1.1"
UPTIME = f"{_SYSTEM}.3.0"
"""sysUpTime: what every agent has (RFC 3418)."""
_ENTITY = "1.3.6.1.2.1.47.1.1.1.1"
_IF = "1.3.6.1.2.1.2.2.1"
_IFX = "1.3.6.1.2.1.31.1.1.1"
_ADDR = "1.3.6.1.2.1.4.20.1"
_HOST = "1.3.6.1.2.1.25"

FIXED_DISK = "1.3.6.1.2.1.25.2.1.4"
_NET_SNMP_LINUX, _WINDOWS = "1.3.6.1.4.1.8072.3.2.10", "1.3.6.1.4.1.311.1.1.3.1"


async def identity_and_system(walker: Walker) -> list[Any]:
    """Read the system group (RFC 3418) and the chassis of the entity table (RFC 6933)."""
    got = await walker.get(f"{_SYSTEM}.{n}.0" for n in (1, 2, 4, 5, 6))
    said = {n: text(got[f"{_SYSTEM}.{n}.0"]) for n in (1, 4, 5, 6) if f"{_SYSTEM}.{n}.0" in got}
    object_id = str(got.get(f"{_SYSTEM}.2.0", ""))
    chassis = await _chassis(walker)
    name = said.get(5, "")
    platform, os_name, os_version, kernel = _platform(said.get(1, ""), object_id, chassis or {})
    short, _, domain = name.partition(".")
    whole = chassis is not None and bool(name)
    chassis = chassis or {}
    identity = Identity(
        name=short or None,
        domain=domain or None,
        serial=chassis.get("serial") or None,
        manufacturer=chassis.get("maker") or None,
        model=chassis.get("model") or None,
    )
    system = System(
        platform=platform,
        os_name=os_name or None,
        os_version=os_version or None,
        os_kernel=kernel or None,
        description=said.get(1) or None,
        object_id=object_id or None,
        contact=said.get(4) or None,
        location=said.get(6) or None,
    )
    return [
        make_reading("identity", identity, "snmp.system", complete=whole),
        make_reading("system", system, "snmp.system", complete=whole),
    ]


async def _chassis(walker: Walker) -> dict[str, str] | None:
    """Return serial, maker, model and firmware of the first chassis (entPhysicalClass 3); None where it fails."""
    try:
        classes = await column(walker, f"{_ENTITY}.5")
    except Problem:
        return None
    index = next((i for i, c in classes.items() if c == 3), None)
    if index is None:
        return {}
    columns = {"firmware": 9, "serial": 11, "maker": 12, "model": 13}
    got = await walker.get(f"{_ENTITY}.{c}.{index}" for c in columns.values())
    return {n: text(got.get(f"{_ENTITY}.{c}.{index}", "")) for n, c in columns.items()}


def _platform(description: str, object_id: str, chassis: dict[str, str]) -> tuple[str, str, str, str]:
    """Return platform, system name, version and kernel, from what the agent says of itself."""
    if object_id.startswith(_WINDOWS):
        build = re.search(r"Version (\S+) \(Build (\d+)", description)
        server = object_id.endswith(".2") or object_id.endswith(".3")
        return "Windows", "Windows Server" if server else "Windows", f"{build[1]}.{build[2]}" if build else "", ""
    if object_id.startswith(_NET_SNMP_LINUX) or description.startswith("Linux "):
        words = description.split()
        return "Linux", "Linux", "", words[2] if len(words) > 2 else ""
    version = chassis.get("firmware", "")
    maker = chassis.get("maker", "")
    return "firmware", f"{maker} firmware".strip() if maker else "", version, ""


async def interfaces(walker: Walker) -> list[Any]:
    """Read interfaces (RFC 2863; ifHighSpeed where it is there)."""
    names = await column(walker, f"{_IF}.2")
    macs = await column(walker, f"{_IF}.6")
    status = await column(walker, f"{_IF}.8")
    kinds = await column(walker, f"{_IF}.3")
    short = await column(walker, f"{_IFX}.1")
    high = await column(walker, f"{_IFX}.15")
    slow = await column(walker, f"{_IF}.5") if len(high) < len(names) else {}
    items: dict[str, Interface] = {}
    for index, described in names.items():
        name = text(short.get(index) or described) or f"interface {index}"
        if kinds.get(index) == 24:
            continue  # softwareLoopback
        speed = high[index] * 10**6 if high.get(index) else slow.get(index)
        if name in items:
            name = f"{name} ({index})"
        items[name] = Interface(
            name=name,
            mac=mac(macs.get(index)),
            speed=speed or None,
            up=status.get(index) == 1,
            kind=_if_kind(kinds.get(index)),
        )
    out = [make_reading("interfaces", sorted(items.values(), key=lambda i: i.name), "snmp.interfaces")]
    known = list(dict.fromkeys(i.mac for i in items.values() if i.mac))
    if known:
        out.append(make_reading("identity", Identity(macs=tuple(known[:8])), "snmp.interfaces", complete=False))
    return out


def _if_kind(number: Any) -> str:
    """Return the words for the commonest interface types (IANAifType-MIB)."""
    return {6: "ethernet", 71: "wireless", 131: "tunnel", 135: "vlan", 161: "aggregate"}.get(number, "")


async def addresses(walker: Walker) -> list[Any]:
    """Read addresses (ipAddrTable, RFC 4293, which every agent still has)."""
    indexes = await column(walker, f"{_ADDR}.2")
    masks = await column(walker, f"{_ADDR}.3")
    names = await column(walker, f"{_IFX}.1")
    items = []
    for address, index in indexes.items():
        if address.startswith("127."):
            continue
        mask = masks.get(address)
        prefix = bin(int(IPv4Address(mask))).count("1") if isinstance(mask, str) else None
        items.append(Address(address=address, interface=text(names.get(str(index), "")), prefix=prefix))
    return [make_reading("addresses", sorted(items, key=lambda a: a.address), "snmp.addresses")]


async def host(walker: Walker) -> list[Any]:
    """Read storage, processors and memory of the host resources MIB (RFC 2790); nothing where it is absent."""
    memory = (await walker.get([f"{_HOST}.2.2.0"])).get(f"{_HOST}.2.2.0")
    kinds = await column(walker, f"{_HOST}.2.3.1.2")
    if not memory and not kinds:
        return []
    names = await column(walker, f"{_HOST}.2.3.1.3")
    units = await column(walker, f"{_HOST}.2.3.1.4")
    sizes = await column(walker, f"{_HOST}.2.3.1.5")
    used = await column(walker, f"{_HOST}.2.3.1.6")
    items: dict[str, Filesystem] = {}
    for index, kind in kinds.items():
        if kind != FIXED_DISK or not sizes.get(index):
            continue
        mount = text(names.get(index, index))
        share = 100 * used.get(index, 0) / sizes[index]
        size = sizes[index] * units.get(index, 1)
        items[mount] = Filesystem(mount=mount, size=size, full=min(100, round(share / 5) * 5))
    processors = await column(walker, f"{_HOST}.3.2.1.2")
    loads = [i for i, kind in processors.items() if kind == "1.3.6.1.2.1.25.3.1.3"]
    described = await walker.get([f"{_HOST}.3.2.1.3.{loads[0]}"]) if loads else {}
    hardware = Hardware(
        processor=text(next(iter(described.values()), "")) or None,
        cores=len(loads) or None,
        memory=memory * 1024 if memory else None,
    )
    out = [make_reading("hardware", hardware, "snmp.host")]
    if items:
        out.append(make_reading("filesystems", sorted(items.values(), key=lambda f: f.mount), "snmp.host"))
    return out


_PACKAGE = (
    re.compile(r"^(?P<name>[^_]+)_(?P<version>[^_]+)_(?P<arch>[a-z0-9]+)$"),
    re.compile(r"^(?P<name>.+?)-(?P<version>\d[^-]*(?:-\d[^-]*)?)\.(?P<arch>x86_64|noarch|i686|aarch64)$"),
    re.compile(r"^(?P<name>.+?)[- ](?P<version>v?\d[\w.+~:-]*)$"),
)


def package(described: str) -> Package:
    """Return a package of hrSWInstalledName, where name, version and architecture stand in one text."""
    for pattern in _PACKAGE:
        if match := pattern.match(described):
            parts = match.groupdict()
            return Package(name=parts["name"][:300], version=parts["version"], arch=parts.get("arch") or "")
    return Package(name=described[:300])


async def software(walker: Walker) -> list[Any]:
    """Read installed software (RFC 2790, hrSWInstalledTable); nothing where it is absent."""
    rows = await walker.walk(f"{_HOST}.6.3.1.2")
    return [_packages(rows)] if rows else []


def _packages(rows: list[Pair]) -> Any:
    found: dict[tuple[str, str], Package] = {}
    left_out = 0
    for _, value in rows:
        said = text(value)
        if not said or (isinstance(value, bytes) and len(value) > MOST_TEXT):
            left_out += 1
            continue
        one = package(said)
        found[one.name, one.version] = one
    note = f"{left_out} entries left out: their names are empty or absurdly long" if left_out else ""
    items = sorted(found.values(), key=lambda p: (p.name, p.version))
    return make_reading("packages", items, "snmp.software", note=note)


STEPS: tuple[tuple[str, int, Callable[[Walker], Awaitable[list[Any]]]], ...] = (
    ("system", 1, identity_and_system),
    ("interfaces", 1, interfaces),
    ("addresses", 1, addresses),
    ("parts", 1, parts),
    ("host resources", 3, host),
    ("installed software", 4, software),
)
"""Name, stage of the sweep and reader, in order."""


def _unless_empty(reading: Any) -> Any:
    """An agent without any row of a table every device has does not show it: its view leaves it out (RFC 3415)."""
    if getattr(reading, "items", True):
        return reading
    return reading.model_copy(update={"complete": False, "note": "The agent shows no row of this table."})


async def read_all(walker: Walker, stages: Callable[[int], None] | None = None) -> tuple[list[Any], list[Problem]]:
    """Read everything; a table that fails is a problem of its own and the rest goes on.

    Raises Problem where the device does not even tell its system group.
    """
    readings: list[Any] = []
    problems: list[Problem] = []

    async def take(name: str, step: Callable[[Walker], Awaitable[list[Any]]]) -> None:
        began = time.perf_counter()
        try:
            made = await step(walker)
        except Problem as problem:
            if not readings:
                raise
            problem.met.setdefault("section", name)
            problems.append(problem)
            return
        took = int((time.perf_counter() - began) * 1000)
        readings.extend(r.model_copy(update={"took_ms": took}) for r in made)

    for name, stage, step in STEPS:
        if stages:
            stages(stage)
        await take(name, step)
    readings[:] = [_unless_empty(r) for r in readings]
    said: dict[str, Any] = {}
    try:
        said = await network.offers(walker)
    except Problem as problem:
        problems.append(problem)
    for name, condition, step in network.STEPS:
        if network.offered(condition, said):
            await take(name, step)
    return readings, problems
