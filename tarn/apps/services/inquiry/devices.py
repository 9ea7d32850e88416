"""What is known of single devices in an inquiry, straight from spans: how full, what ends, tickets, when started."""

import json
from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.inquiry.results import InquiryBar, InquiryCertificate, InquiryGrade, InquiryTicket
from tarn.core.inquiring import DAY, Filling, filling

SOON = 14 * DAY
FULL, NEARLY = 95, 90
LOW = 30
"""Percent below which a battery is low."""


@dataclass
class Device:
    """What is known of a device."""

    address: str | None = None
    memory: int | None = None
    os: str = ""
    state: str | None = None
    person: str | None = None
    department: str | None = None
    last_seen: int = 0
    first_seen: int = 0
    disks: dict[str, tuple[int, int, Filling]] = field(default_factory=dict)
    """By mount how full it is in percent, since when, and how fast it fills."""
    certificates: list[tuple[int, str, int]] = field(default_factory=list)
    """Port, subject, and when it ends."""
    tickets: list[InquiryTicket] = field(default_factory=list)
    opened: list[tuple[int, str]] = field(default_factory=list)
    started: int | None = None
    """Since when its oldest process runs."""
    given: int = 0
    """Of a virtual host the memory given to its running guests, in bytes."""
    battery: int | None = None
    runtime: int | None = None
    load: int | None = None
    feeding_from: str | None = None
    """Of what has a battery how far it is charged in percent, the minutes it would last, how much of what it can give
    is drawn, and what it feeds from."""


def devices(assets: Collection[int], at: int | None, now: int) -> dict[int, Device]:
    """Return what is known of devices as of a moment."""
    out = {a: Device() for a in assets}
    _plates(out, at)
    _disks(out, now)
    for asset, port, subject, ends in _now(out, "certificates", "port, x.subject, x.ends", at):
        if ends is not None:
            out[asset].certificates.append((port, subject or "", ends))
    for asset, number, title, state, is_open, opened in _now(
        out, "tickets", "number, x.title, x.state, x.open, x.opened", at
    ):
        if is_open:
            out[asset].tickets.append({"number": number, "title": title or "", "state": state or ""})
            out[asset].opened += [(opened, f"{number}: {title}")] if opened is not None else []
    for asset, started in _now(out, "processes", "started", at):
        if started is not None:
            out[asset].started = min(started, out[asset].started or started)
    for asset, given, state in _now(out, "guests", "memory, x.state", at):
        if state in ("running", "", None):
            out[asset].given += given or 0
    return out


_POWER = ("battery", "runtime", "load", "feeding_from")


def _plates(out: Mapping[int, Device], at: int | None) -> None:
    then = holds("s", at)
    word = "(SELECT w.text FROM estate_term w WHERE w.id = s.{}_id)"
    power = ", ".join(reckoned(f"claim.{name}", at) for name in _POWER)
    for asset, address, memory, version, state, person, department, os, last, first, *told in raw_connection().execute(
        f"SELECT s.asset_id, s.address, s.memory, s.os_version, {word.format('state')}, {word.format('person')}, "
        f"{word.format('department')}, {word.format('os_name')}, {reckoned('seen.last', at)}, a.first_seen, {power} "
        "FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id "
        f"WHERE {then.text} AND s.asset_id IN (SELECT value FROM json_each(?))",
        [*then.values, json.dumps(sorted(out))],
    ):
        one = out[asset]
        one.address, one.memory, one.state, one.person, one.department = address, memory, state, person, department
        one.os, one.last_seen = " ".join(filter(None, (os, version))), last or 0
        one.first_seen = first or 0
        one.battery, one.runtime, one.load, one.feeding_from = told


def _disks(out: Mapping[int, Device], now: int) -> None:
    points: dict[tuple[int, str], list[tuple[int, int, int | None]]] = defaultdict(list)
    for asset, mount, full, begins, ends in _rows(
        out, "filesystems", "mount, x.full, x.valid_from, x.valid_to", "x.valid_from <= ?", [now]
    ):
        if full is not None:
            points[asset, mount].append((begins, full, ends))
    for (asset, mount), told in points.items():
        told.sort()
        begins, full, ends = told[-1]
        if ends is None or ends > now:
            out[asset].disks[mount] = (full, begins, filling([(b, f) for b, f, _ in told], now))


def _now(out: Mapping[int, Device], section: str, columns: str, at: int | None) -> Iterator[Any]:
    then = holds("x", at)
    return _rows(out, section, columns, then.text, list(then.values))


def _rows(out: Mapping[int, Device], section: str, columns: str, where: str, values: list[Any]) -> Iterator[Any]:
    return raw_connection().execute(
        f"SELECT x.asset_id, x.{columns} FROM estate_{section}span x "
        f"WHERE x.asset_id IN (SELECT value FROM json_each(?)) AND {where}",
        [json.dumps(sorted(out)), *values],
    )


def bars(device: Device, now: int) -> list[InquiryBar]:
    """Return how full its disks and a host's memory are, its battery, and what is drawn of it, the fullest first."""
    out: list[InquiryBar] = []
    for mount, (full, _, fills) in device.disks.items():
        days = (fills.full_at - now) // DAY if fills.full_at is not None else None
        words = f"{100 - full} % free" if full >= NEARLY else f"{full} %"
        if days is not None and days <= 60 and full < 100:
            words += f", full in {days} days at this rate" if days != 1 else ", full in a day at this rate"
        bad, warn = full >= FULL or (days is not None and days * DAY <= SOON), full >= NEARLY
        out.append({"what": mount, "percent": full, "words": words, "grade": _grade(bad, warn)})
    if device.given and device.memory:
        share = round(100 * device.given / device.memory)
        grade = _grade(share > 100, share >= 85)
        out.append(
            {"what": "memory", "percent": min(share, 100), "words": f"{share} % given to guests", "grade": grade}
        )
    if device.battery is not None:
        words = f"{device.battery} %" + (f", {device.runtime} minutes" if device.runtime is not None else "")
        drained = device.feeding_from == "battery"
        grade = _grade(drained or device.battery < LOW, False)
        words += ", and it runs on it" if drained else ""
        out.append({"what": "battery", "percent": device.battery, "words": words, "grade": grade})
    if device.load is not None:
        grade = _grade(device.load >= FULL, device.load >= 80)
        out.append(
            {"what": "load", "percent": min(device.load, 100), "words": f"{device.load} % drawn", "grade": grade}
        )
    return sorted(out, key=lambda b: (-b["percent"], b["what"]))


def certificates(device: Device, now: int) -> list[InquiryCertificate]:
    """Return the certificates it presents, those that end first first."""
    return [
        {
            "port": port,
            "subject": subject,
            "ends_at": iso(ends),
            "days": (ends - now) // DAY,
            "grade": _grade(ends <= now, ends - now <= SOON),
        }
        for port, subject, ends in sorted(device.certificates, key=lambda c: c[2])
    ]


def _grade(bad: bool, warn: bool) -> InquiryGrade:
    return "bad" if bad else "warn" if warn else ""
