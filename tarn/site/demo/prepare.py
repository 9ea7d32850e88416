"""Preparing the demo company's data."""

import asyncio
import contextlib
import json
import sys
import threading
import time
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from tarn.site.demo import past

SIGN_INS = (
    ("ines", "administrator", "Ines Kallas", "low-water-ines"),
    ("piet", "manager", "Piet Harrowgate", "low-water-piet"),
    ("wren", "operator", "Wren Tasker", "low-water-wren"),
    ("oona", "viewer", "Oona Mereth", "low-water-oona"),
)
PHRASES = (
    ("office_suites", "Products that count as an office suite", ["quill-office"]),
    ("protection", "Products that protect against malware", ["corvid-protect"]),
    ("galley_tills", "Till software, under its old and its new name", ["tillmaster", "/^galleykeeper/"]),
)


def lab_day(home: Path) -> int:
    """Return the lab's day of today: 400 on the day the demo was made, one more each day after."""
    anchor = datetime.fromisoformat(json.loads((home / "demo.json").read_text())["anchor"])
    return min(800, 400 + max(0, (datetime.now(UTC).date() - anchor.date()).days))


def prepared(home: Path) -> bool:
    """Whether the demo's data is there, whole."""
    return (home / "demo.json").exists()


def prepare(home: Path) -> None:
    """Make the demo's data: people, networks, credentials, sweeps, and 120 days of history."""
    began = time.perf_counter()
    anchor = datetime.now(UTC)
    _settings()
    count = _history(anchor) + _sync()
    # Written last: a preparation that was broken off begins anew.
    (home / "demo.json").write_text(json.dumps({"anchor": anchor.isoformat()}))
    print(f"\r  {count} sightings over 120 days, in {time.perf_counter() - began:.0f} s.        ", flush=True)


def _settings() -> None:
    from tarn.apps.discovery.actions.credentials import make_credential
    from tarn.apps.discovery.actions.sweeps import make_network, make_sweep
    from tarn.apps.estate.models import KeptSet, Phrase
    from tarn.apps.people.actions.accounts import make_person
    from tarn.lab import scenario

    for username, role, name, password in SIGN_INS:
        make_person(None, username, password, role, name)
    for n in scenario.NETWORKS:
        make_network(None, {"range": n.range, "name": n.name, "place": n.place, "never_probe": n.never_probe})
    made = [
        make_credential(
            None,
            {
                "name": "harbour-snmp3",
                "protocol": "snmp-v3",
                "user": scenario.SNMP_USER,
                "preference": 10,
                "timeout": 0.8,
            },
            {"auth": scenario.SNMP_AUTH, "privacy": scenario.SNMP_PRIVACY},
        ),
        make_credential(
            None,
            {"name": "skerry-read", "protocol": "snmp-v2c", "preference": 20, "timeout": 0.8},
            {"community": scenario.SNMP_COMMUNITY},
        ),
        make_credential(
            None,
            {"name": "harbour-linux", "protocol": "ssh", "user": scenario.SSH_USER, "preference": 30, "timeout": 8},
            {"password": scenario.SSH_PASSWORD},
        ),
        make_credential(
            None,
            {
                "name": "harbour-windows",
                "protocol": "winrm",
                "user": "SKERRIVANE\\tarn-reader",
                "preference": 40,
                "timeout": 15,
            },
            {"password": scenario.SSH_PASSWORD},
        ),
    ]
    make_credential(
        None,
        {"name": "terminal-tills", "protocol": "ssh", "user": scenario.SSH_USER, "preference": 50, "timeout": 8},
        {"password": scenario.SSH_PASSWORD},
    )
    ids = [c.pk for c in made]
    common = {"credentials": ids, "route": "lab", "patience": 0.6}
    ashore = ["10.60.4.0/24", "10.60.5.0/24", "10.60.8.0/24"]
    make_sweep(None, {"name": past.SWEEP, "ranges": ashore, "exclusions": ["10.60.4.200-10.60.4.220"], **common})
    make_sweep(None, {"name": past.VESSEL_SWEEP, "ranges": ["10.60.20.0/24", "10.60.21.0/24"], **common})
    outer = ["10.60.6.0/24", "10.60.9.0/24", "10.60.10.0/24", "10.60.11.0/24", "10.60.12.0/24"]
    make_sweep(None, {"name": past.OUTER_SWEEP, "ranges": outer, **common})
    make_sweep(None, {"name": past.VESSELS_SWEEP, "ranges": [f"10.60.{n}.0/24" for n in (22, 24, 26)], **common})
    _sources()
    for phrase, meaning, values in PHRASES:
        Phrase.objects.create(name=phrase, meaning=meaning, values=values)
    now = int(time.time())
    KeptSet.objects.create(name="Ticketing machines", filter="software[name ~ tixline]", made_at=now)
    KeptSet.objects.create(name="Aboard MV Tansy", filter='place = "MV Tansy"', made_at=now)


def _sources() -> None:
    """Make the other systems that the company has: a directory, device management, endpoint management."""
    from tarn.apps.discovery.actions.credentials import make_credential
    from tarn.apps.discovery.actions.sources import make_source
    from tarn.apps.discovery.asking_sources import PREPARED
    from tarn.lab import systems

    bind = make_credential(
        None,
        {"name": "harbour-directory", "protocol": "ldap", "user": systems.BIND, "preference": 60},
        {"password": systems.BIND_PASSWORD},
    )
    token = make_credential(
        None,
        {"name": "lanyard-token", "protocol": "http", "auth": "bearer", "preference": 70},
        {"password": systems.DEVICES_TOKEN},
    )
    basic = make_credential(
        None,
        {
            "name": "breakwater-reader",
            "protocol": "http",
            "auth": "basic",
            "user": systems.ENDPOINTS_USER,
            "preference": 80,
        },
        {"password": systems.ENDPOINTS_PASSWORD},
    )
    managed, endpoints = PREPARED.values()
    nightly = "FREQ=DAILY;BYHOUR=2;BYMINUTE=0;BYSECOND=0"
    common = {"route": "lab", "schedule": nightly}
    directory = {"address": systems.DIRECTORY}
    make_source(
        None, {"name": "Company directory", "kind": "directory", "settings": directory, "credential": bind.pk, **common}
    )
    make_source(
        None,
        {
            "name": "Lanyard",
            "kind": "device management",
            "settings": managed,
            "credential": token.pk,
            "gone": "mark",
            **common,
        },
    )
    make_source(
        None, {"name": "Breakwater", "kind": "inventory", "settings": endpoints, "credential": basic.pk, **common}
    )


@contextlib.contextmanager
def systems_serving() -> Iterator[None]:
    """Have the lab's other systems answer while this lasts."""
    from tarn.lab.serve import Lab
    from tarn.lab.timeline import TODAY

    loop, lab = asyncio.new_event_loop(), Lab(TODAY)
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    asyncio.run_coroutine_threadsafe(lab.start({"systems"}), loop).result(30)
    try:
        yield
    finally:
        asyncio.run_coroutine_threadsafe(lab.stop(), loop).result(30)
        loop.call_soon_threadsafe(loop.stop)
        thread.join()


def _sync() -> int:
    """Ask the other systems once, over the wire; adopt what people carry. Returns how many devices they know."""
    from tarn.apps.discovery.models import Source, Sync
    from tarn.apps.discovery.syncing import carry_out_sync
    from tarn.apps.estate.actions.decide import adopt_found
    from tarn.apps.estate.asking.ask import ids, question

    with systems_serving():
        for source in Source.objects.order_by("pk"):
            carry_out_sync(Sync.objects.create(source=source, made_at=int(time.time())).pk)
    carried = sorted(ids(question("standing = intake and kind in (phone, tablet, scanner)", None)))
    adopt_found(carried[:-_LEFT_AT_INTAKE], past.STAFF)
    return sum(s.counts.get("found", 0) for s in Sync.objects.all())


_LEFT_AT_INTAKE = 6
"""Carried devices that wait for whoever opens the demo."""


def _history(anchor: datetime) -> int:
    from tarn.apps.estate.actions.take_in import take_in
    from tarn.apps.estate.models import Asset
    from tarn.lab.timeline import TODAY, World

    world, count = World(), 0
    decided: set[int] = set()
    numbers: dict[str, int] = {}
    for day in range(past.FIRST, TODAY, past.EVERY):
        if sys.stdout.isatty():
            print(f"\r  The past: day {day - past.FIRST} of {TODAY - past.FIRST} …", end="", flush=True)
        night = list(past.sightings_of(day, anchor, world))
        found = dict(zip([d.name for d, _ in night], list(take_in(s for _, s in night)), strict=True))
        count += len(night)
        held = dict(Asset.objects.values_list("pk", "number"))
        adopted = []
        for device, _ in night:
            asset = found[device.name].asset
            numbers[device.identity] = asset or 0
            if asset is None or asset in decided:
                continue
            adoption = past.adoption(past.instant(anchor, day, 9, 15), device, held[asset])
            if adoption is not None:
                adopted.append(adoption)
                decided.add(asset)
        count += len(list(take_in(adopted)))
        if day == past.FIRST:
            count += len(list(take_in(past.stock_list(anchor, world))))
        if day == 360:
            count += len(list(take_in([past.retirement(anchor, held[numbers["salt-lt-09"]])])))
    return count
