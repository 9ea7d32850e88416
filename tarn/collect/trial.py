"""A trial: one credential at one address, step by step, each step with its verdict and what it means."""

import asyncio
import time
from collections.abc import AsyncIterator
from dataclasses import asdict, dataclass
from typing import Any

import asyncssh

from tarn.collect import names
from tarn.collect.credentials import (
    Credential,
    HttpCredential,
    LdapCredential,
    SnmpCredential,
    SshCredential,
    WinrmCredential,
    keep_to_reach,
)
from tarn.collect.ldap.client import directory
from tarn.collect.presented import Expected, tls_key
from tarn.collect.problems import Problem
from tarn.collect.reach import reach
from tarn.collect.routes import Route
from tarn.collect.snmp import read as snmp_read
from tarn.collect.snmp.client import snmp
from tarn.collect.ssh import read as ssh_read
from tarn.collect.ssh.client import speechless, ssh
from tarn.collect.tls import certificate
from tarn.collect.winrm import windows
from tarn.collect.winrm.client import winrm
from tarn.collect.winrm.script import RIGHTS
from tarn.core.items import Certificate

TITLES = {
    "answers": "Does it answer?",
    "port": "Is the port open?",
    "names": "Do the names agree?",
    "server": "Is it the server it says?",
    "sign-in": "Does the sign-in work?",
    "session": "Can a session open?",
    "command": "Does a command return?",
    "rights": "What may it read?",
}
OTHER_KEY, FIRST_KEY = "another-key", "first-key"
VERDICTS = ("passed", "noted", "failed", "not applicable", "not reached")
_PROBED = (22, 80, 135, 443, 445, 5985, 5986)


@dataclass(frozen=True, slots=True)
class TrialStep:
    """One step: its verdict (one of VERDICTS), what was found, what it means, milliseconds taken; `code` names what
    can be answered by an action of its own, `key` the host key it is about."""

    step: str
    verdict: str
    says: str
    advice: str = ""
    took_ms: int = 0
    code: str = ""
    key: str = ""

    def as_row(self) -> dict[str, Any]:
        """Return it for storing and showing, with its title."""
        return {"title": TITLES[self.step], **asdict(self)}


class _Clock:
    def __init__(self) -> None:
        self._at = time.perf_counter()

    def lap(self) -> int:
        now = time.perf_counter()
        took, self._at = now - self._at, now
        return round(took * 1000)


async def try_credential(
    route: Route,
    address: str,
    credential: Credential,
    expected: Expected,
) -> AsyncIterator[TrialStep]:
    """Try a credential at an address and yield each step as it is done; after a failure the rest is not reached.

    Where the device presents another key than is `expected` of it no password is sent, for it may be another device.
    """
    done: set[str] = set()
    async for step in _steps(route, address, credential, expected):
        done.add(step.step)
        yield step
    for name in TITLES:
        if name not in done:
            yield TrialStep(name, "not reached", "Not reached")


async def _steps(route: Route, address: str, credential: Credential, expected: Expected) -> AsyncIterator[TrialStep]:
    clock = _Clock()
    try:
        keep_to_reach(credential, address)
    except Problem as problem:
        yield TrialStep("answers", "not applicable", "Not asked: the credential may not be used there.")
        yield TrialStep("sign-in", "failed", problem.says, problem.remedy, clock.lap())
        return
    udp = isinstance(credential, SnmpCredential)
    probed = tuple(dict.fromkeys((*([] if udp else [credential.port]), *_PROBED)))
    try:
        answer = await reach(route, address, probed, min(credential.timeout, 3.0))
        listed = ", ".join(map(str, answer.open))
        if answer.anything:
            also = " and to a ping" if answer.pinged else ""
            yield TrialStep("answers", "passed", f"Yes, on port {listed}{also}" if listed else "Yes", "", clock.lap())
        elif udp:
            yield TrialStep("answers", "noted", "On no TCP port tried; SNMP may answer all the same.", "", clock.lap())
        else:
            says = "Nothing answered."
            yield TrialStep("answers", "failed", says, "Switched off, on another network, or a firewall.", clock.lap())
            return
    except Problem as problem:
        yield TrialStep("answers", "failed", problem.says, problem.remedy, clock.lap())
        return
    if udp:
        yield TrialStep("port", "not applicable", "UDP has no open ports: only an answer tells.")
    elif credential.port in answer.open:
        yield TrialStep("port", "passed", f"{credential.port} is open", "", clock.lap())
    else:
        says = f"{credential.port} is closed; open are: {listed or 'none of those tried'}."
        yield TrialStep("port", "failed", says, "Start the service, or change the credential's port.", clock.lap())
        return
    yield await _names(route, address, clock)
    kinds: list[tuple[type, Any]] = [
        (SshCredential, _ssh),
        (SnmpCredential, _snmp),
        (WinrmCredential, _winrm),
        (LdapCredential, _ldap),
    ]
    for kind, steps in kinds:
        if isinstance(credential, kind):
            async for step in steps(route, address, credential, expected, clock):
                yield step
            return
    if isinstance(credential, HttpCredential):
        yield TrialStep("server", "not applicable", "An HTTP credential is tried with its source: see its test.")


async def _names(route: Route, address: str, clock: _Clock) -> TrialStep:
    try:
        name = await names.name_of(route, address)
        if not name:
            says = f"{address} has no name in the name service."
            return TrialStep(
                "names", "noted", says, "Reading by address works; sign-in by ticket would not.", clock.lap()
            )
        back = await names.addresses_of(route, name)
    except Problem as problem:
        return TrialStep("names", "noted", problem.says, problem.remedy, clock.lap())
    if address in back:
        return TrialStep("names", "passed", f"{address} is {name}, and back", "", clock.lap())
    leads = " and ".join(back) or "nowhere"
    advice = "A stale entry in the name service. Reading by address still works; sign-in by ticket would not."
    return TrialStep("names", "noted", f"{address} is {name}; that name leads to {leads}.", advice, clock.lap())


def _about(
    found: Certificate | None, credential: WinrmCredential | LdapCredential, expected: Expected, clock: _Clock
) -> TrialStep:
    if found is None:
        advice = "Another service may use this port, or it wants plain text."
        return TrialStep("server", "failed", "It does not speak TLS.", advice, clock.lap())
    known = expected.certificates(credential.port)
    as_before = ""
    if not credential.verify:  # where an authority vouches for it the sign-in itself finds out
        key = tls_key(credential.port, found.key)
        as_before = ", key as before" if known else ", key met for the first time"
        if known and key not in known:
            says = f"Its certificate for {found.subject} has another key than before, {found.key}."
            advice = "It was made anew, or another answers here. Nothing was sent; accept the key first."
            return TrialStep("server", "failed", says, advice, clock.lap(), OTHER_KEY, key)
        if not known and not expected.first_too:
            says = f"The key of its certificate, {found.key}, is met for the first time: the password was not sent."
            advice = "Someone who keeps the credentials accepts the key, once it is sure whose it is."
            return TrialStep("server", "failed", says, advice, clock.lap(), FIRST_KEY, key)
    now = time.time()
    ends = time.strftime("%-d %B %Y", time.gmtime(found.ends or 0))
    signed = "signed by itself" if found.issuer == found.subject else f"signed by {found.issuer}"
    if found.ends and found.ends < now:
        advice = "Renew it on the device. Tarn reads all the same where the credential accepts any certificate."
        return TrialStep(
            "server", "noted", f"Its certificate for {found.subject} ended on {ends}.", advice, clock.lap()
        )
    return TrialStep(
        "server", "passed", f"Certificate for {found.subject}, {signed}, ends {ends}{as_before}", "", clock.lap()
    )


async def _snmp(
    route: Route, address: str, credential: SnmpCredential, expected: Expected, clock: _Clock
) -> AsyncIterator[TrialStep]:
    yield TrialStep("server", "not applicable", "SNMP presents neither certificate nor host key.")
    at = "sign-in"
    try:
        async with snmp(route, address, credential) as walker:
            got = await walker.get([snmp_read.UPTIME])
            yield TrialStep("sign-in", "passed", f"It answers to “{credential.name}”", "", clock.lap())
            yield TrialStep("session", "not applicable", "SNMP has none.")
            at = "command"
            if not got:
                says = "It answers, but shows nothing of its system group."
                yield TrialStep(
                    at, "failed", says, "Widen the view of this community or user on the agent.", clock.lap()
                )
                return
            yield TrialStep("command", "passed", "The system's uptime was read", "", clock.lap())
            at = "rights"
            readings, problems = await snmp_read.read_all(walker)
            yield _rights(readings, problems, "", clock)
    except Problem as problem:
        yield TrialStep(at, "failed", problem.says, problem.remedy, clock.lap())


async def _ssh(
    route: Route, address: str, credential: SshCredential, expected: Expected, clock: _Clock
) -> AsyncIterator[TrialStep]:
    host, port = route.dial(address, credential.port)
    try:
        async with asyncio.timeout(credential.timeout):
            key = await asyncssh.get_server_host_key(host, port, config=[])
    except (OSError, asyncssh.Error, TimeoutError) as error:
        says = f"It does not greet as SSH does: {type(error).__name__}."
        yield TrialStep("server", "failed", says, "Another service may use this port.", clock.lap())
        return
    fingerprint = key.get_fingerprint("sha256") if key is not None else ""
    known = expected.host_keys()
    if known and fingerprint not in known:
        advice = (
            "The machine was set up anew, or another answers here. The password was not sent; accept the key first."
        )
        verdict = "failed" if credential.password else "noted"
        says = f"Its host key {fingerprint} is another than before."
        yield TrialStep("server", verdict, says, advice, clock.lap(), OTHER_KEY, fingerprint)
        if verdict == "failed":
            return
    elif not known and credential.password and not expected.first_too:
        says = f"Its host key {fingerprint} is met for the first time: the password was not sent."
        advice = "Someone who keeps the credentials accepts the key, once it is sure whose it is."
        yield TrialStep("server", "failed", says, advice, clock.lap(), FIRST_KEY, fingerprint)
        return
    else:
        as_before = "as before" if known else "met for the first time"
        yield TrialStep("server", "passed", f"Host key {fingerprint}, {as_before}", "", clock.lap())
    at = "sign-in"
    try:
        async with ssh(route, address, credential, expected) as opened:
            yield TrialStep("sign-in", "passed", f"{credential.user} was let in", "", clock.lap())
            at = "session"
            output = await opened.shell.run("sudo -n id -un 2>/dev/null; id -un", "the account")
            if problem := output.cut or speechless(output, credential):
                raise problem
            yield TrialStep("session", "passed", "A session opened", "", clock.lap())
            at = "command"
            words = output.out.split()
            if not words:
                says = f"The command printed nothing: {output.err.strip()[:120] or 'no error either'}."
                yield TrialStep(at, "failed", says, "Give the account an ordinary shell.", clock.lap())
                return
            yield TrialStep("command", "passed", f"It runs commands as {words[-1]}", "", clock.lap())
            at = "rights"
            readings, problems = await ssh_read.read_all(opened.shell)
            root = "root" in words
            yield _rights(readings, problems, "acts as root where needed" if root else "is no administrator", clock)
    except Problem as problem:
        yield TrialStep(at, "failed", problem.says, problem.remedy, clock.lap())


async def _winrm(
    route: Route, address: str, credential: WinrmCredential, expected: Expected, clock: _Clock
) -> AsyncIterator[TrialStep]:
    if credential.plain:
        kind = "the password goes in clear text" if credential.manner == "basic" else "messages are sealed by NTLM"
        yield TrialStep("server", "not applicable", f"Plain HTTP presents no certificate; {kind}.")
    else:
        found = await certificate(route, address, credential.port, credential.timeout)
        step = _about(found, credential, expected, clock)
        yield step
        if step.verdict == "failed":
            return
    at = "sign-in"
    try:
        async with winrm(route, address, credential, expected) as session:
            yield TrialStep("sign-in", "passed", f"{credential.user} was let in", "", clock.lap())
            yield TrialStep("session", "passed", "A remote shell opened", "", clock.lap())
            at = "command"
            said = (await session.run("$env:COMPUTERNAME", "the computer's name")).strip()
            yield TrialStep("command", "passed", f"PowerShell runs on {said}", "", clock.lap())
            at = "rights"
            administrator = "True" in await session.run(RIGHTS, "the account's rights")
            readings, problems = await windows.read_all(session)
            yield _rights(readings, problems, "is administrator" if administrator else "is no administrator", clock)
    except Problem as problem:
        yield TrialStep(at, "failed", problem.says, problem.remedy, clock.lap())


async def _ldap(
    route: Route, address: str, credential: LdapCredential, expected: Expected, clock: _Clock
) -> AsyncIterator[TrialStep]:
    if credential.plain:
        yield TrialStep(
            "server", "not applicable", "Plain LDAP presents no certificate; the password goes in clear text."
        )
    else:
        found = await certificate(route, address, credential.port, credential.timeout)
        step = _about(found, credential, expected, clock)
        yield step
        if step.verdict == "failed":
            return
    at = "sign-in"
    try:
        async with directory(route, address, credential, expected) as opened:
            yield TrialStep("sign-in", "passed", f"{credential.user} was bound", "", clock.lap())
            yield TrialStep("session", "passed", "The connection stands", "", clock.lap())
            at = "command"
            bases = await opened.naming_contexts()
            yield TrialStep("command", "passed", f"It holds {', '.join(bases) or 'no naming context'}", "", clock.lap())
            at = "rights"
            counts = await opened.counts(bases[0] if bases else "")
            said = ", ".join(f"{n} {what}" for what, n in counts.items())
            verdict = "passed" if any(counts.values()) else "noted"
            yield TrialStep("rights", verdict, f"Reads {said}", "", clock.lap())
    except Problem as problem:
        yield TrialStep(at, "failed", problem.says, problem.remedy, clock.lap())


def _rights(readings: list[Any], problems: list[Problem], account: str, clock: _Clock) -> TrialStep:
    sections = list(dict.fromkeys(r.section.replace("_", " ") for r in readings))
    notes = [p.says for p in problems] + [r.note for r in readings if r.note]
    says = f"Reads {len(sections)} sections: {', '.join(sections)}."
    if account:
        says = f"The account {account}. {says}"
    return TrialStep("rights", "noted" if notes else "passed", says, " ".join(dict.fromkeys(notes))[:600], clock.lap())
