"""What is installed on a Windows computer and what it runs by itself: programs, keys, features, scheduled tasks."""

import re
from typing import Any

from pydantic import ValidationError

from tarn.collect.winrm.values import Answer, moment, number, one, rows, text
from tarn.core.items import Feature, Install, LicenceKey, Package, Scheduled
from tarn.core.sightings import make_reading

_DAY, _WEEK = 86_400, 7 * 86_400
_SID = re.compile(r"HKEY_USERS\\(S-1-[\d-]+)")
_LICENCE_STATES = ("unlicensed", "licensed", "grace", "grace", "grace", "notification", "grace")
"""LicenseStatus of SoftwareLicensingProduct, by number."""


def _programs(answer: Answer) -> list[tuple[dict[str, Any], str, str]]:
    """Return entries of both registry views and of each user, with their name and how they are built."""
    out = []
    for view, arch in (("programs", "x64"), ("programs32", "x86"), ("programs_users", "user")):
        for p in rows(answer, view):
            name = text(p.get("DisplayName"))[:300]
            if name and number(p.get("SystemComponent")) != 1:
                out.append((p, name, arch))
    return out


def programs(answer: Answer) -> list[Any]:
    """Read installed programs of both registry views and of each user; system components are none."""
    found: dict[tuple[str, str], Package] = {}
    left_out = 0
    for p, name, arch in _programs(answer):
        try:
            one_of = Package(
                name=name, version=text(p.get("DisplayVersion")), arch=arch, publisher=text(p.get("Publisher"))
            )
        except ValidationError:
            left_out += 1
            continue
        found.setdefault((one_of.name, one_of.version), one_of)
    note = f"{left_out} left out for impossible names" if left_out else ""
    return [make_reading("packages", [found[k] for k in sorted(found)], "winrm.programs", note=note)]


def installs(answer: Answer) -> list[Any]:
    """Read when programs were installed, for whom, and when they were last started.

    When a program was last started is told by the file that the system keeps to fetch it faster (`NAME.EXE-….pf`),
    found by the program its entry shows as its icon.
    """
    people = {text(u.get("SID")): text(u.get("Name")) for u in rows(answer, "users")}
    started = _started(answer)
    dated: dict[tuple[str, str], Install] = {}
    for p, name, _ in _programs(answer):
        sid = _SID.search(str(p.get("PSPath") or ""))
        user = people.get(sid[1], sid[1]) if sid else ""
        dated[name, user] = _install(p, name, user, started)
    return [make_reading("installs", [dated[k] for k in sorted(dated)], "winrm.programs")]


def _install(program: dict[str, Any], name: str, user: str, started: dict[str, int]) -> Install:
    at = moment(program.get("InstallDate"))
    shown = text(program.get("DisplayIcon")).strip('"').rsplit("\\", 1)[-1].partition(",")[0].strip('" ').upper()
    used = started.get(shown)
    return Install(
        name=name,
        user=user,
        installed=at - at % _DAY if at is not None else None,
        used=used - used % _WEEK if used is not None else None,
        removes=text(program.get("UninstallString")),
    )


def _started(answer: Answer) -> dict[str, int]:
    """Return when programs were last started, by the name of their file in capitals."""
    out: dict[str, int] = {}
    for f in rows(answer, "prefetch"):
        program, at = text(f.get("Name")).upper().rpartition("-")[0], moment(f.get("LastWriteTime"))
        if program and at is not None:
            out[program] = max(at, out.get(program, 0))
    return out


def licence_keys(answer: Answer) -> list[Any]:
    """Read keys: those programs enter with themselves, the last five characters of those the licensing service has in
    force, and the one in firmware."""
    items = {}
    for view in ("programs", "programs32", "programs_users"):
        for p in rows(answer, view):
            name, key = text(p.get("DisplayName"))[:300], text(p.get("ProductID"))[:300]
            if name and key:
                items[name, key] = LicenceKey(product=name, key=key)
    for p in rows(answer, "keys"):
        name, key, state = text(p.get("Name"))[:300], text(p.get("PartialProductKey")), number(p.get("LicenseStatus"))
        if name and key:
            said = _LICENCE_STATES[state] if state is not None and 0 <= state < len(_LICENCE_STATES) else ""
            items[name, key] = LicenceKey(product=name, key=f"…{key}", state=said)
    if key := text(one(answer, "firmware_key").get("OA3xOriginalProductKey")):
        system = text(one(answer, "os").get("Caption")).removeprefix("Microsoft ") or "Windows"
        items[system, key] = LicenceKey(product=system, key=key, state="in firmware")
    return [make_reading("licence_keys", [items[k] for k in sorted(items)], "winrm.keys")]


def features(answer: Answer) -> list[Any]:
    """Read optional parts of the system that are installed (Win32_OptionalFeature, InstallState 1)."""
    items = {
        name: Feature(name=name, label=text(f.get("Caption")))
        for f in rows(answer, "features")
        if (name := text(f.get("Name"))[:300])
    }
    return [make_reading("features", [items[k] for k in sorted(items)], "winrm.features")]


def scheduled(answer: Answer) -> list[Any]:
    """Read scheduled tasks that did not come with the system. State 1 is switched off."""
    items = {}
    for t in rows(answer, "tasks"):
        name = (text(t.get("TaskPath")) + text(t.get("TaskName"))).lstrip("\\")[:300]
        if not name:
            continue
        actions = t.get("Actions") or []
        first = next((a for a in (actions if isinstance(actions, list) else [actions]) if isinstance(a, dict)), {})
        runs = f"{text(first.get('Execute'))} {text(first.get('Arguments'))}".strip()
        principal = t.get("Principal")
        account = text(principal.get("UserId")) if isinstance(principal, dict) else ""
        state = number(t.get("State"))
        items[name] = Scheduled(
            name=name, runs=runs[:480], account=account, enabled=None if state is None else state != 1
        )
    return [make_reading("scheduled", [items[k] for k in sorted(items)], "winrm.scheduled")]
