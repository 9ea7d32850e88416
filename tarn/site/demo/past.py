"""The demo's past: what the lab's devices would have said on sampled days, read by the real collectors.

Only the wire is left out: the lab's shell and tables are asked in the process instead of over
sockets. Parsing, identity and spans are the ones every sweep uses.
"""

import asyncio
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime, time, timedelta
from typing import Any

from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding

from tarn.collect.clear import asks_in_clear
from tarn.collect.found import guests_of
from tarn.collect.listening import tell
from tarn.collect.looked import Look
from tarn.collect.problems import Problem
from tarn.collect.snmp import read as snmp_read
from tarn.collect.sources.finding import whose
from tarn.collect.ssh import read as ssh_read
from tarn.collect.ssh.client import Output
from tarn.collect.tls import read_certificate
from tarn.collect.winrm import windows
from tarn.core.sections import Decision, Identity
from tarn.core.sightings import Sighting, compose, make_reading
from tarn.lab import powershell
from tarn.lab.fleet import CARRIED, OUTLYING, TRUST, VESSELS
from tarn.lab.keys import certificate_pem, host_key
from tarn.lab.mib import mib
from tarn.lab.model import Device
from tarn.lab.pages import page
from tarn.lab.parts import digest
from tarn.lab.scenario import NETWORKS, TANSY
from tarn.lab.shell import run
from tarn.lab.timeline import TODAY, World

FIRST, EVERY = TODAY - 121, 3
"""The past begins so many days ago and is sampled every so many days."""

STAFF = "ines"
SWEEP, VESSEL_SWEEP, STOCK_LIST = "Saltholm and Port Averne", "MV Tansy in port", "Stock list, spring"
FERRIES, HARBOUR_TRUST = "Skerrivane Ferries", "Averne Harbour Trust"
TRUST_SWEEP = "Trust House"
OUTER_SWEEP, VESSELS_SWEEP = "Outer terminals and second floor", "Other vessels in port"
OUTER_EVERY = 12
"""Places further out are sampled every so many days."""
_UNDECIDED_YET = {"avrn-kiosk-15", "avrn-kiosk-16", "avrn-cam-08", "tansy-cam-04"}
"""Found, and left at intake for whoever opens the demo."""


class _Shell:
    def __init__(self, device: Device, now: datetime) -> None:
        self.device, self.now = device, now

    async def run(self, line: str, section: str, seconds: float = 0, most: float = 0) -> Output:
        out, err, code = run(self.device, line, self.now)
        if self.device.fault == "cut" and "dpkg-query" in line:
            return Output(out[: len(out) // 2], err, None, Problem("cut-off", protocol="SSH", section=section))
        return Output(out, err, code)


class _Remote:
    """A remote session on a simulated Windows computer."""

    def __init__(self, device: Device, now: datetime) -> None:
        self.device, self.now = device, now

    async def run(self, script: str, section: str) -> str:
        return powershell.run(self.device, script, self.now)[0]


class _Walker:
    """The device's tables as the SNMP library would hand them over."""

    def __init__(self, device: Device) -> None:
        self.rows = [(".".join(map(str, o)), _handed(v)) for o, v in mib(device)]
        self.held = dict(self.rows)

    async def get(self, oids: Iterable[str]) -> dict[str, Any]:
        return {o: self.held[o] for o in oids if o in self.held}

    async def walk(self, oid: str) -> list[tuple[str, Any]]:
        below = oid + "."
        return [r for r in self.rows if r[0].startswith(below)]


def _handed(value: tuple[str, Any]) -> Any:
    kind, data = value
    return data.encode() if kind == "str" else data


async def _look(device: Device, now: datetime, day: int) -> Look:
    """Return what a sweep would have brought home of a device."""
    look = Look(device.address, began=now)
    look.ports = sorted(device.open_ports + ((22,) if device.ssh else ()))
    if device.snmp and device.fault != "loop":
        look.readings += (await snmp_read.read_all(_Walker(device)))[0]
        if device.snmp != "v3":
            look.clear["udp", 161] = f"SNMP {device.snmp}"
    if device.ssh == "yes" and device.fault not in ("stall", "nonsense"):
        key = Identity(keys=(host_key(device.host_key).get_fingerprint("sha256"),))
        readings, _ = await ssh_read.read_all(_Shell(device, now))
        look.readings += [make_reading("identity", key, "reach", complete=False), *readings]
    if device.winrm == "yes":
        look.readings += (await windows.read_all(_Remote(device, now)))[0]
    certificates = []
    for port, wanted in device.presented().items():
        begins, ends = (now + timedelta(days=d - day) for d in (wanted.begins, wanted.ends))
        pem = certificate_pem(wanted.subject, begins, ends, weak=wanted.weak, issued=wanted.issued)
        presented = x509.load_pem_x509_certificates(pem[pem.index(b"-----BEGIN CERT") :])
        own, *signers = (one.public_bytes(Encoding.DER) for one in presented)
        certificates.append(read_certificate(own, port, signers))
    if certificates:
        look.readings.append(make_reading("certificates", certificates, "reach"))
    if device.asks and 80 in look.ports:
        look.clear["tcp", 80] = asks_in_clear(page(device))
    tell(look)
    return look


def instant(anchor: datetime, day: int, hour: int = 1, minute: int = 30) -> datetime:
    """Return a time of one of the lab's days; day 400 is the day of `anchor`."""
    return datetime.combine((anchor - timedelta(days=TODAY - day)).date(), time(hour, minute), UTC)


def _hand(now: datetime, facts: dict[str, Any], number: str) -> Sighting:
    readings = [
        make_reading("identity", Identity(tarn=number), "hand", complete=False),
        make_reading("decision", Decision(**facts), "hand"),
    ]
    return compose(("hand", STAFF), now, readings)


def sightings_of(day: int, anchor: datetime, world: World) -> Iterator[tuple[Device, Sighting]]:
    """Yield the sightings a night's sweep of that day would have brought."""
    networks = {n.range.rsplit(".", 1)[0]: n for n in NETWORKS}
    now = instant(anchor, day)
    for device in world.on(day):
        outer = device.place in (*OUTLYING, TRUST) or device.address.startswith("10.60.6.")
        if device.kind in CARRIED or (outer and (day - FIRST) % OUTER_EVERY):
            continue
        look = asyncio.run(_look(device, now, day))
        source = ("sweep", sweep_of(device))
        network = networks[device.address.rsplit(".", 1)[0]]
        sighting = look.sighting(source, network.place, network.organisation)
        if sighting is not None:
            yield device, sighting


def guests_told(day: int, anchor: datetime, world: World) -> Iterator[Sighting]:
    """Yield what the virtual hosts would have said of their guests that night."""
    for host in world.on(day):
        if host.guests:
            look = asyncio.run(_look(host, instant(anchor, day), day))
            look.taken_for = host.name
            yield from guests_of(look, FERRIES)


def sweep_of(device: Device) -> str:
    """Return the sweep that reads a device."""
    if device.place in VESSELS:
        return VESSELS_SWEEP
    if device.place == TRUST:
        return TRUST_SWEEP
    if device.place in OUTLYING or device.address.startswith("10.60.6."):
        return OUTER_SWEEP
    return VESSEL_SWEEP if device.place == TANSY else SWEEP


def stock_list(anchor: datetime, world: World) -> Iterator[Sighting]:
    """Yield the rows of a stock list someone keeps by hand: useful, and not always right."""
    now = instant(anchor, FIRST + 2, 10, 0)
    for device in world.on(FIRST):
        unlisted = (not device.person and digest(device.name, "stock") % 3) or digest(device.name, "unlisted") % 7 == 0
        if device.place == TRUST or unlisted:
            continue
        memory = device.memory
        if memory and digest(device.name, "slip") % 9 == 0:
            memory *= 2
        identity = Identity(serial=device.serial, manufacturer=device.maker, name=device.name, domain=device.domain)
        told: dict[str, Any] = {"memory": memory} if memory else {}
        facts = Decision(
            kind=device.kind,
            person=device.person or None,
            department=device.department or None,
            **told,
        )
        yield compose(
            ("file", STOCK_LIST),
            now,
            [
                make_reading("identity", identity, "file"),
                make_reading("decision", facts, "file"),
                *whose(FERRIES, "file"),
            ],
        )


def adoption(now: datetime, device: Device, number: str) -> Sighting | None:
    """Return the decision that takes a device into the register, unless it is left for later."""
    if device.name in _UNDECIDED_YET:
        return None
    return _hand(now, {"standing": "register", "kind": device.kind}, number)


def retirement(anchor: datetime, number: str) -> Sighting:
    """Return the decision on a leaver's laptop that stopped reporting."""
    note = "Left with its holder in September; asked for it back."
    return _hand(instant(anchor, 360, 9, 0), {"state": "retired", "note": note}, number)
