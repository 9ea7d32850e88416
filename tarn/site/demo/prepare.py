"""Preparing the demo company's data."""

import json
import sys
import time
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
    count = _history(anchor)
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
    for phrase, meaning, values in PHRASES:
        Phrase.objects.create(name=phrase, meaning=meaning, values=values)
    now = int(time.time())
    KeptSet.objects.create(name="Ticketing machines", filter="software[name ~ tixline]", made_at=now)
    KeptSet.objects.create(name="Aboard MV Tansy", filter='place = "MV Tansy"', made_at=now)


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
