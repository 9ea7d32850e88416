"""Looking at one address: does it answer, what is it, what does it hold; and how far that got."""

import asyncio
import time
from collections.abc import Callable, Coroutine, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Any, TypeVar

from tarn.collect import clear, listening, names
from tarn.collect.credentials import Credential, SnmpCredential, SshCredential, WinrmCredential, reaches
from tarn.collect.guard import Guard
from tarn.collect.hints import Hints
from tarn.collect.looked import Look
from tarn.collect.offers import NO_CREDENTIAL, UNUSED, closed, offer
from tarn.collect.presented import Expected
from tarn.collect.problems import REFUSALS, Problem
from tarn.collect.reach import PORTS, TLS_PORTS, reach
from tarn.collect.routes import Route
from tarn.collect.snmp import read as snmp_read
from tarn.collect.snmp.client import snmp
from tarn.collect.ssh import read as ssh_read
from tarn.collect.ssh.client import ssh
from tarn.collect.tls import certificate
from tarn.collect.winrm import windows
from tarn.collect.winrm.client import winrm
from tarn.core.hosting import DnsName
from tarn.core.sections import Identity
from tarn.core.sightings import make_reading

_C = TypeVar("_C", SnmpCredential, SshCredential, WinrmCredential)
Stage = Callable[[int], None]
STAGES = ("network gear", "virtual hosts", "computers and devices", "software and services")


@dataclass(frozen=True, slots=True)
class LookSettings:
    """How to look: the route, what to try, and how long to wait for a first answer (seconds)."""

    route: Route
    credentials: tuple[Credential, ...]
    protocols: frozenset[str] = frozenset({"snmp", "ssh", "winrm", "tls"})
    patience: float = 1.5
    ports: tuple[int, ...] = PORTS
    worked: dict[str, set[str]] = field(default_factory=dict)
    """By address the credentials that were let in before: they are tried first."""
    guard: Guard = field(default_factory=Guard)
    limited: dict[str, frozenset[str]] = field(default_factory=dict)
    """By credential the places it may be used for, where it may not be used for all."""
    place: Callable[[str], str] = lambda address: ""
    host_keys: Mapping[str, frozenset[str]] = field(default_factory=dict)
    """By address the keys (`presented.py`) that were presented there before, or were accepted there."""
    keys_met: frozenset[str] = frozenset()
    """Keys of any device that is known: one of them at another address is that device, moved."""
    organisation: str = ""
    """Whom it is done for: what is found belongs to it."""

    def expected(self, address: str) -> Expected:
        """Return the keys an address may present."""
        return Expected(self.host_keys.get(address, frozenset()), self.keys_met)

    def tried(self, kind: type[_C], address: str) -> list[_C]:
        """Return the credentials of a kind that may be used at an address, in the order they are tried."""
        before = self.worked.get(address, set())
        place = self.place(address) if self.limited else ""
        allowed = (
            c
            for c in self.credentials
            if isinstance(c, kind)
            and reaches(c, address)
            and (c.name not in self.limited or place in self.limited[c.name])
        )
        return sorted(allowed, key=lambda c: c.name not in before)


async def look(address: str, settings: LookSettings, stage: Stage = lambda n: None) -> Look:
    """Look at one address through all stages, with no hint from other devices. Never raises Problem."""
    found = await begin(address, settings, stage)
    return found if found.outcome != "waiting" else await go_on(found, settings, Hints(), stage)


async def begin(address: str, settings: LookSettings, stage: Stage = lambda n: None) -> Look:
    """The first stage: does it answer, and what does it tell by SNMP. Its outcome is "waiting" where more may come."""
    look = Look(address)
    await _guarded(look, _begin(look, settings, stage))
    return look


async def go_on(found: Look, settings: LookSettings, hints: Hints, stage: Stage = lambda n: None) -> Look:
    """The later stages: sign-ins, certificates, and what other devices have told of this one."""
    await _guarded(found, _go_on(found, settings, hints, stage))
    return found


async def _guarded(found: Look, work: Coroutine[Any, Any, None]) -> None:
    """Do a part of a look: every way it can end is an outcome."""
    began = time.perf_counter()
    try:
        await work
    except Problem as problem:
        found.end("no answer" if problem.code == "unreachable" else "answered", problem)
    except Exception as error:  # whatever a device makes a library do, the sweep goes on and says so
        detail = f"{type(error).__name__}: {error}"[:300]
        found.end("part read" if found.readings else "answered", Problem("failed", section="the device", detail=detail))
    found.took_ms += int((time.perf_counter() - began) * 1000)


async def _begin(found: Look, settings: LookSettings, stage: Stage) -> None:
    stage(1)
    answer = await reach(settings.route, found.address, settings.ports, settings.patience)
    found.ports = sorted(answer.open)
    asked = settings.tried(SnmpCredential, found.address)
    why_not = UNUSED if "snmp" not in settings.protocols else "" if asked else NO_CREDENTIAL
    found.told = await offer(
        found.offers, found.readings, "snmp", why_not, lambda: _try_snmp(found, settings, found.problems, stage)
    )
    found.answers = answer.anything or found.told


async def _go_on(found: Look, settings: LookSettings, hints: Hints, stage: Stage) -> None:
    if not found.answers:
        heard = hints.seen(found.address)
        if heard is not None and (reading := hints.identity(found.address)):
            found.readings.append(reading)
        outcome = "recognised" if heard else "no answer"
        found.end(outcome, heard or Problem("silent", seconds=settings.patience))
        return
    stage(2 if found.is_virtual_host else 3)
    read = await _sign_in(found, settings, stage)

    async def certificates() -> bool:
        stage(4)
        await _certificates(found, settings)
        return True

    why_not = UNUSED if "tls" not in settings.protocols else ""
    why_not = why_not or ("" if _with_tls(found) else "no port with TLS answers")
    await offer(found.offers, found.readings, "tls", why_not, certificates)
    if found.signed_in_over and not any(r.section == "certificates" for r in found.readings):
        # Without it the next sweep would not know whether it is the same server.
        found.readings.append(make_reading("certificates", [found.signed_in_over], "reach", complete=False))
    await listening.pages(found, settings.route, settings.patience * 2)
    listening.tell(found)
    _conclude(found, settings, found.problems, found.told, read)
    if not found.has_identity():
        await _heard_of(found, settings, hints)


async def _sign_in(found: Look, settings: LookSettings, stage: Stage) -> bool:
    """Offer the device to what signs in: SSH, and where that does not read it, WinRM."""
    read = False
    kinds: tuple[tuple[str, type[SshCredential] | type[WinrmCredential], Any], ...] = (
        ("ssh", SshCredential, _try_ssh),
        ("winrm", WinrmCredential, _try_winrm),
    )
    for name, kind, work in kinds:
        why_not = UNUSED if name not in settings.protocols else "it was read by SSH" if read else ""
        why_not = why_not or closed(settings.tried(kind, found.address), found.ports, settings.ports)
        collect = partial(work, found, settings, found.problems, stage)
        read = await offer(found.offers, found.readings, name, why_not, collect) or read
    return read


async def _try_snmp(found: Look, settings: LookSettings, problems: list[Problem], stage: Stage) -> bool:
    """Read by the first SNMP credential that is answered.

    Agents stay silent to a wrong one, so all are tried at once: silence costs one time-out, not one each.
    """
    credentials = settings.tried(SnmpCredential, found.address)
    for credential, refused in await _first_answers(settings.route, found.address, credentials):
        if refused is None:
            try:
                async with snmp(settings.route, found.address, credential) as walker:
                    readings, failed = await snmp_read.read_all(walker, stage)
            except Problem as problem:
                problems.append(problem)
                continue
            found.readings += readings
            found.let_in(credential)
            if told := clear.of_snmp(credential):
                found.clear["udp", 161] = told
            problems += failed
            return True
        if refused.code != "snmp-silent":
            problems.append(refused)
    return False


async def _heard_of(found: Look, settings: LookSettings, hints: Hints) -> None:
    """Identify a device that told nothing of itself by what others say: a router, and a name that leads back to it."""
    if reading := hints.identity(found.address):
        found.readings.append(reading)
    try:
        name = await names.name_of(settings.route, found.address)
        if not name or found.address not in await names.addresses_of(settings.route, name):
            return
    except Problem:
        return  # without a name service there is no name; what answered stays as it was said
    short, _, domain = name.partition(".")
    found.readings.append(
        make_reading("identity", Identity(name=short, domain=domain or None), "reach.names", complete=False)
    )
    named = DnsName(name=name[:300], address=found.address, reverse=True)
    found.readings.append(make_reading("dns_names", [named], "reach.names"))
    found.taken_for = short


async def _first_answers(
    route: Route, address: str, credentials: list[SnmpCredential]
) -> list[tuple[SnmpCredential, Problem | None]]:
    """Ask with all credentials at once and return what each came to, up to the first that is answered."""
    tasks = {asyncio.create_task(_answers(route, address, c)): c for c in credentials}
    out: list[tuple[SnmpCredential, Problem | None]] = []
    waiting = set(tasks)
    while waiting:
        done, waiting = await asyncio.wait(waiting, return_when=asyncio.FIRST_COMPLETED)
        out += [(tasks[t], t.result()) for t in done]
        if any(refused is None for _, refused in out):
            break
    for task in waiting:
        task.cancel()
    return out


async def _answers(route: Route, address: str, credential: SnmpCredential) -> Problem | None:
    """Return what is wrong with an SNMP credential at an address, or None where it is answered."""
    try:
        async with snmp(route, address, credential) as walker:
            await walker.get([snmp_read.UPTIME])
    except Problem as problem:
        return problem
    return None


async def _try_ssh(found: Look, settings: LookSettings, problems: list[Problem], stage: Stage) -> bool:
    """Read by the first SSH credential that is let in; a refused one is not tried twice."""
    for credential in settings.tried(SshCredential, found.address):
        if credential.port not in found.ports and credential.port in settings.ports:
            continue
        try:
            async with ssh(settings.route, found.address, credential, settings.expected(found.address)) as opened:
                key = Identity(keys=(opened.fingerprint,)) if opened.fingerprint else Identity()
                readings, failed = await ssh_read.read_all(opened.shell, stage, credential=credential)
                found.readings += [make_reading("identity", key, "reach", complete=False), *readings]
        except Problem as problem:
            problems.append(problem)
            if problem.code in (*REFUSALS, "cut-off", "another-key"):
                continue
            break
        found.let_in(credential)
        problems += failed
        return True
    return False


async def _try_winrm(found: Look, settings: LookSettings, problems: list[Problem], stage: Stage) -> bool:
    """Read by the first WinRM credential that is let in; one that a directory keeps refusing is not used on."""
    for credential in settings.tried(WinrmCredential, found.address):
        if credential.port not in found.ports and credential.port in settings.ports:
            continue
        if stopped := settings.guard.stops(credential):
            problems.append(stopped)
            continue
        try:
            async with winrm(settings.route, found.address, credential, settings.expected(found.address)) as session:
                settings.guard.accepted(credential)
                found.signed_in_over = session.certificate
                readings, failed = await windows.read_all(session, stage)
        except Problem as problem:
            problems.append(problem)
            if problem.code == "another-certificate":
                continue  # nothing was sent; one that shows less may still be tried
            if problem.code in REFUSALS:
                settings.guard.refused(credential)
                continue
            break
        found.readings += readings
        found.let_in(credential)
        problems += failed
        return True
    return False


def _with_tls(found: Look) -> list[int]:
    """Return the ports that should speak TLS: those seen from outside, and those the machine says it listens on."""
    told = {p.port for r in found.readings if r.section == "ports" for p in r.items if p.protocol == "tcp"}
    return sorted(TLS_PORTS & (told | set(found.ports)))


async def _certificates(found: Look, settings: LookSettings) -> None:
    over = found.signed_in_over
    ports = [p for p in _with_tls(found) if over is None or p != over.port]
    tried = (certificate(settings.route, found.address, p, settings.patience * 2) for p in ports)
    items = [one for one in await asyncio.gather(*tried) if one is not None]
    if over is not None:
        items.append(over)
        ports.append(over.port)
    if items:
        found.readings.append(make_reading("certificates", items, "reach", complete=len(items) == len(ports)))
        named = items[0].subject
        if not any(r.section == "identity" for r in found.readings) and "." in named and " " not in named:
            short, _, domain = named.partition(".")
            keys = (items[0].fingerprint,)
            identity = Identity(name=short, domain=domain, keys=keys)
            found.readings.append(make_reading("identity", identity, "reach", complete=False))


def _conclude(found: Look, settings: LookSettings, problems: list[Problem], told: bool, read: bool) -> None:
    found.taken_for = _named(found)
    if told or read:
        # A computer that tells its tables over SNMP but refuses the sign-in is only partly read.
        worst = next((p for p in problems if p.code != "snmp-silent"), None)
        if worst is None:
            found.end("fully read", Problem("read"))
        else:
            found.end("part read", worst)
        return
    if problems:
        found.end("recognised" if found.taken_for else "answered", problems[0])
        return
    listed = ", ".join(map(str, found.ports)) or "no port tried"
    speaks = bool({22, 5985, 5986} & set(found.ports))
    code = "no-credential" if speaks else "unmanaged"
    found.end("recognised" if found.taken_for else "answered", Problem(code, ports=listed))


def _named(found: Look) -> str:
    for reading in found.readings:
        if reading.section == "identity" and reading.facts.name:
            return str(reading.facts.name)
    return ""
