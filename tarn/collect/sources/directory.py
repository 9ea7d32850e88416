"""A directory's computers (LDAP, RFC 4511; attributes of MS-ADA where a Windows directory has them)."""

import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from typing import Any

from ldap3.core.exceptions import LDAPInvalidDnError
from ldap3.utils.dn import parse_dn

from tarn.collect.credentials import LdapCredential
from tarn.collect.ldap.client import COMPUTERS, Directory, directory
from tarn.collect.presented import Expected, tls_key
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.kind import CERTIFICATE, Setting, SettingError, SourceKind
from tarn.core.mapping import MappingError, build
from tarn.core.people import Person

ATTRIBUTES = [
    "cn",
    "dNSHostName",
    "operatingSystem",
    "operatingSystemVersion",
    "lastLogonTimestamp",
    "userAccountControl",
    "managedBy",
    "description",
    "objectGUID",
    "entryUUID",
    "serialNumber",
]
DISABLED, CONTROLLER = 0x2, 0x2000
"""Bits of userAccountControl (MS-ADTS 2.2.16): ACCOUNTDISABLE and SERVER_TRUST_ACCOUNT."""

PICKS = ("domain controllers", "member servers", "workstations")


@dataclass(frozen=True, slots=True)
class DirectorySettings:
    """Where a directory is: its address, the base of the search ("" for the first it holds), a further condition on
    computers, and whether its people are taken too. `certificate`: the pin of its key, where no authority signed it."""

    address: str
    base: str = ""
    condition: str = ""
    people: bool = True
    certificate: str = ""


async def read_directory(
    route: Route, credential: LdapCredential, settings: DirectorySettings
) -> AsyncIterator[Finding]:
    """Yield the directory's computers and people. Raises Problem, where it was cut short after all that came."""
    async with _opened(route, credential, settings) as opened:
        bases = [settings.base] if settings.base else await opened.naming_contexts()
        if not bases:
            raise Problem("failed", section="the directory", detail="it names no base to search below")
        wanted = f"(&{COMPUTERS}{settings.condition})" if settings.condition else COMPUTERS
        for dn, held in await opened.search(bases[0], wanted, ATTRIBUTES):
            yield computer(dn, held)
        if settings.people:
            above = {dn.lower(): _groups(held) for dn, held in await opened.search(bases[0], GROUPS, ["memberOf"])}
            for dn, held in await opened.search(bases[0], PEOPLE, PERSONAL):
                yield person(dn, held, above)
        if opened.cut is not None:
            raise opened.cut


@asynccontextmanager
async def _opened(route: Route, credential: LdapCredential, settings: DirectorySettings) -> AsyncIterator[Directory]:
    """Open a directory that presents the key of its settings, or one that an authority signed. Raises Problem."""
    given = frozenset({tls_key(credential.port, settings.certificate)} if settings.certificate else ())
    try:
        async with directory(route, settings.address, credential, Expected(given, first_too=False)) as opened:
            yield opened
    except Problem as problem:
        host, key = settings.address, problem.met.get("key", "")
        if problem.code == "first-certificate":
            detail = "no authority is asked for it"
            raise Problem("untrusted-source", host=host, detail=detail, pin=key) from None
        if problem.code == "another-certificate":
            raise Problem("other-certificate", host=host, found=key, pin=settings.certificate) from None
        raise


def _groups(held: dict[str, list[str]]) -> list[str]:
    return held.get("memberof", [])


def all_groups(direct: list[str], above: dict[str, list[str]]) -> tuple[str, ...]:
    """Return the names of groups somebody is in, by way of other groups too; groups in a circle are each named once."""
    found: dict[str, str] = {}
    waiting = list(direct)
    while waiting:
        if (dn := waiting.pop(0)).lower() not in found:
            found[dn.lower()] = _first(dn)
            waiting += above.get(dn.lower(), [])
    return tuple(found.values())


def _first(dn: str) -> str:
    """Return the value of a distinguished name's own part."""
    try:
        return _unescaped(parse_dn(dn)[0][1])
    except (LDAPInvalidDnError, IndexError):
        return dn


GROUPS = "(|(objectClass=group)(objectClass=groupOfNames))"
"""Groups of a Windows directory, and of others (RFC 4519)."""
PEOPLE = "(&(objectClass=person)(!(objectClass=computer)))"
PERSONAL = [
    "cn",
    "displayName",
    "sAMAccountName",
    "uid",
    "mail",
    "department",
    "title",
    "userAccountControl",
    "memberOf",
    "objectGUID",
    "entryUUID",
]


def person(dn: str, held: dict[str, list[str]], above: dict[str, list[str]]) -> Finding:
    """Return what an entry says of a person (RFC 4519; RFC 2798, inetOrgPerson). `above`: by group those it is in."""

    def first(name: str) -> str:
        return next(iter(held.get(name, [])), "")

    key = first("objectguid") or first("entryuuid") or dn.lower()
    name = first("displayname") or first("cn")
    control = first("useraccountcontrol")
    groups = all_groups(held.get("memberof", []), above)
    made = Person(
        key=key[:300],
        name=name[:300],
        email=first("mail")[:300],
        department=first("department")[:300],
        title=first("title")[:300],
        active=not (control.isdigit() and int(control) & DISABLED),
        groups=groups,
        account=(first("samaccountname") or first("uid"))[:300],
    )
    return Finding(key, name or dn, [], person=made) if name else Finding("", dn, [], [MappingError("name", "no name")])


def computer(dn: str, held: dict[str, list[str]]) -> Finding:
    """Return what an entry says of a computer."""

    def first(name: str) -> str | None:
        return next(iter(held.get(name, [])), None)

    control = int(first("useraccountcontrol") or 0)
    values: dict[str, Any] = {
        "name": first("dnshostname") or first("cn"),
        "os_name": first("operatingsystem"),
        "os_version": first("operatingsystemversion"),
        "serial": first("serialnumber"),
        "signed_in": first("lastlogontimestamp"),
        "disabled": bool(control & DISABLED),
        "unit": unit(dn),
    }
    name = values["os_name"] or ""
    if "Windows" in name:
        values["platform"] = "Windows"
    readings, faults = build(values, {}, "directory")
    key = first("objectguid") or first("entryuuid") or dn.lower()
    return Finding(
        key, str(values["name"] or dn), readings, faults, {**values, "controller": bool(control & CONTROLLER)}
    )


def unit(dn: str) -> str:
    """Return the organisational units of a distinguished name, the widest first: "Terminals / Port Averne"."""
    try:
        parts = parse_dn(dn)
    except LDAPInvalidDnError:
        return ""
    return " / ".join(reversed([_unescaped(value) for kind, value, _ in parts if kind.lower() == "ou"]))


_ESCAPED = re.compile(rb"\\([0-9a-fA-F]{2}|.)", re.S)


def _unescaped(value: str) -> str:
    """Return a value of a distinguished name as it is meant (RFC 4514, section 3: hexpair, or the character itself)."""

    def meant(found: re.Match[bytes]) -> bytes:
        return bytes.fromhex(found[1].decode()) if len(found[1]) == 2 else found[1]

    return _ESCAPED.sub(meant, value.encode()).decode(errors="replace")


def picked(finding: Finding, pick: str, now: int, stale_days: int = 90) -> bool:
    """Whether a computer belongs to one of PICKS; those disabled or not signed in for long never do."""
    facts = {a: getattr(r.facts, a) for r in finding.readings for a in type(r.facts).model_fields}
    if facts.get("disabled") or (facts.get("signed_in") or 0) < now - stale_days * 86_400:
        return False
    server = "server" in (facts.get("os_name") or "").lower()
    if finding.facts.get("controller"):
        return pick == "domain controllers"
    return pick == ("member servers" if server else "workstations")


def _check(settings: DirectorySettings) -> None:
    if settings.condition and not (settings.condition.startswith("(") and settings.condition.endswith(")")):
        raise SettingError("condition", "A further condition stands in brackets, such as (location=Saltholm).")


KINDS = (
    SourceKind(
        "directory",
        "directory",
        "a directory over LDAP: its computers and its people",
        DirectorySettings,
        (
            Setting("address", "Address", needed="Say at which address the directory answers."),
            CERTIFICATE,
            Setting("base", "Base to search below"),
            Setting("condition", "Further condition"),
        ),
        lambda settings, asking: read_directory(asking.route, asking.credential, settings),
        LdapCredential,
        "ldap",
        must="A directory is asked with an LDAP credential.",
        host_in="address",
        check=_check,
    ),
)
