"""Preparing the demo company's data."""

import json
import logging
import os
import sys
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from tarn.site.demo import past
from tarn.site.demo.feeds import make_feeds, read_now, read_then
from tarn.site.demo.govern import govern
from tarn.site.demo.sources import make_sources
from tarn.site.home import home

SIGN_INS = (
    ("ines", "administrator", "Ines Kallas", "low-water-ines"),
    ("piet", "manager", "Piet Harrowgate", "low-water-piet"),
    ("wren", "operator", "Wren Tasker", "low-water-wren"),
    ("oona", "viewer", "Oona Mereth", "low-water-oona"),
    ("sten", "administrator", "Sten Ravell", "low-water-sten"),
    ("tove", "manager", "Tove Ashlar", "low-water-tove"),
)
OF_THE_TRUST = ("tove",)
"""Who sees only what is the harbour trust's."""
PHRASES = (
    ("office_suites", "Products that count as an office suite", ["Quill Office"]),
    ("protection", "Products that protect against malware", ["Corvid Protect"]),
    (
        "approved_administrators",
        "Accounts that may be administrator of a computer",
        ["harbour-admin", "root", "Administrator", "Domain Admins"],
    ),
    ("galley_tills", "Till software, under its old and its new name", ["Tillmaster", "/^galleykeeper/"]),
)


EDITION = 17
"""Rises when the demo company's settings change; an older demo is made anew."""


def lab_day(home: Path) -> int:
    """Return the lab's day of today: 400 on the day the demo was made, one more each day after."""
    anchor = datetime.fromisoformat(json.loads((home / "demo.json").read_text())["anchor"])
    return min(800, 400 + max(0, (datetime.now(UTC).date() - anchor.date()).days))


def prepared(home: Path) -> bool:
    """Whether the demo's data is there, whole, and of this edition."""
    path = home / "demo.json"
    return path.exists() and json.loads(path.read_text()).get("edition") == EDITION


def prepare(home: Path) -> None:
    """Make the demo's data: people, networks, credentials, sweeps, and 120 days of history."""
    began = time.perf_counter()
    logging.getLogger("tarn.audit").setLevel(logging.WARNING)  # a hundred and seventy lines of what nobody did
    anchor = datetime.now(UTC)
    (home / "lab-changes.jsonl").unlink(missing_ok=True)
    _settings()
    count = _history(anchor) + _sync()
    govern()
    # Written last: a preparation that was broken off begins anew.
    (home / "demo.json").write_text(
        json.dumps({"anchor": anchor.isoformat(), "edition": EDITION, "entries": _entries()})
    )
    print(f"\r  {count} sightings over 120 days, in {time.perf_counter() - began:.0f} s.        ", flush=True)


def _entries() -> int:
    """Return how much the preparation itself did in people's names, to be told from what they do afterwards."""
    from tarn.apps.people.models import AuditEntry

    return AuditEntry.objects.exclude(who="Tarn").count()


def _settings() -> None:
    from tarn.apps.discovery.networks.change import make_network
    from tarn.apps.discovery.networks.inputs import NetworkIn
    from tarn.apps.discovery.sweeps.change import make_sweep
    from tarn.apps.discovery.sweeps.inputs import SweepIn
    from tarn.apps.estate.models import KeptSet, Phrase
    from tarn.apps.people.actions.accounts import make_person
    from tarn.apps.people.actions.organisations import make_organisation, set_rights
    from tarn.lab import scenario

    ferries, trust = make_organisation(None, past.FERRIES), make_organisation(None, past.HARBOUR_TRUST)
    for username, role, name, password in SIGN_INS:
        made = make_person(None, username, password, role, name)
        made.email = f"{username}@skerrivane.example"
        made.save(update_fields=["email"])
        if username in OF_THE_TRUST:
            set_rights(None, made.pk, role, [trust.pk])
    owners = {o.name: o.pk for o in (ferries, trust)}
    for n in scenario.NETWORKS:
        described = {"range": n.range, "name": n.name, "place": n.place, "never_probe": n.never_probe}
        described["outside"] = n.outside
        make_network(None, NetworkIn.model_validate({**described, "organisation": owners[n.organisation]}))
    ids = _credentials("harbour", "SKERRIVANE", ferries.pk)
    common = {"credentials": ids, "route": "lab", "patience": 0.6, "organisation": ferries.pk}
    ashore = ["10.60.4.0/24", "10.60.5.0/24", "10.60.8.0/24"]
    make_sweep(
        None,
        SweepIn.model_validate(
            {"name": past.SWEEP, "ranges": ashore, "exclusions": ["10.60.4.200-10.60.4.220"], **common}
        ),
    )
    make_sweep(
        None,
        SweepIn.model_validate({"name": past.VESSEL_SWEEP, "ranges": ["10.60.20.0/24", "10.60.21.0/24"], **common}),
    )
    outer = ["10.60.6.0/24", "10.60.9.0/24", "10.60.10.0/24", "10.60.11.0/24", "10.60.12.0/24"]
    make_sweep(None, SweepIn.model_validate({"name": past.OUTER_SWEEP, "ranges": outer, **common}))
    make_sweep(
        None,
        SweepIn.model_validate(
            {"name": past.VESSELS_SWEEP, "ranges": [f"10.60.{n}.0/24" for n in (22, 24, 26)], **common}
        ),
    )
    theirs = {"credentials": _credentials("trust", "HARBOURTRUST", trust.pk), "organisation": trust.pk}
    make_sweep(
        None, SweepIn.model_validate({**common, "name": past.TRUST_SWEEP, "ranges": ["10.60.13.0/24"], **theirs})
    )
    make_sources(ferries.pk)
    make_feeds()
    _outposts(ferries.pk)
    for phrase, meaning, values in PHRASES:
        Phrase.objects.create(name=phrase, meaning=meaning, values=values)
    now = int(time.time())
    KeptSet.objects.create(name="Ticketing machines", filter="software[name ~ tixline]", made_at=now)
    KeptSet.objects.create(name="Aboard MV Tansy", filter='place = "MV Tansy"', made_at=now)


def _credentials(prefix: str, domain: str, organisation: int) -> list[int]:
    """Make the credentials of an organisation's sweeps; return their ids. Of one there is a second SSH credential."""
    from tarn.apps.discovery.credentials.change import make_credential
    from tarn.apps.discovery.credentials.inputs import CredentialIn
    from tarn.apps.discovery.models import Network
    from tarn.lab import scenario

    password = {"password": scenario.SSH_PASSWORD}
    v3 = {"auth": scenario.SNMP_AUTH, "privacy": scenario.SNMP_PRIVACY}
    community = "skerry-read" if prefix == "harbour" else f"{prefix}-read"
    plan: list[tuple[dict[str, Any], dict[str, str]]] = [
        ({"name": f"{prefix}-snmp3", "protocol": "snmp-v3", "user": scenario.SNMP_USER, "timeout": 0.8}, v3),
        ({"name": community, "protocol": "snmp-v2c", "timeout": 0.8}, {"community": scenario.SNMP_COMMUNITY}),
        ({"name": f"{prefix}-linux", "protocol": "ssh", "user": scenario.SSH_USER, "timeout": 8}, password),
        ({"name": f"{prefix}-windows", "protocol": "winrm", "user": f"{domain}\\tarn-reader"}, password),
    ]
    mine = Network.objects.filter(never_probe=False, organisation=organisation)
    own = {"organisation": organisation, "reach": [n.range for n in mine]}
    ids = [
        make_credential(None, CredentialIn.model_validate({**described, "preference": number * 10, **own}), secret).pk
        for number, (described, secret) in enumerate(plan, start=1)
    ]
    if prefix == "harbour":
        _hands(domain, own)
        tills = {"name": "terminal-tills", "protocol": "ssh", "user": scenario.SSH_USER, "preference": 50, "timeout": 8}
        make_credential(None, CredentialIn.model_validate({**tills, **own}), password)
    return ids


def _hands(domain: str, own: dict[str, Any]) -> None:
    """Make the credentials that tasks are run with; no sweep uses them."""
    from tarn.apps.discovery.credentials.change import make_credential
    from tarn.apps.discovery.credentials.inputs import CredentialIn
    from tarn.lab import acting, scenario

    secret = {"password": scenario.HAND_PASSWORD}
    common = {"acts": True, "preference": 55, **own}
    make_credential(
        None,
        CredentialIn.model_validate({"name": "harbour-hand-linux", "protocol": "ssh", "user": acting.HAND, **common}),
        secret,
    )
    user = f"{domain}\\{acting.HAND}"
    make_credential(
        None,
        CredentialIn.model_validate({"name": "harbour-hand-windows", "protocol": "winrm", "user": user, **common}),
        secret,
    )


def _outposts(organisation: int) -> None:
    """Make an outpost for each vessel; the file holds their tokens and the way each one's lab is dialled."""
    from tarn.apps.discovery.models import Credential, Network
    from tarn.apps.discovery.outposts.change import make_outpost
    from tarn.lab import scenario
    from tarn.lab.serve import aboard

    made = []
    for network in Network.objects.filter(never_probe=False).order_by("range"):
        number = int(network.range.split(".")[2])
        if number in scenario.VESSEL_NETS:
            outpost, token = make_outpost(None, f"{network.place} outpost", [network.pk], organisation)
            outpost.credential_set.set(
                Credential.objects.filter(organisation=organisation, sweep__isnull=False).distinct()
            )
            made.append({"token": token, "route": f"lab-{aboard(number)}"})
    handle = os.open(home() / OUTPOSTS, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        json.dump(made, file)


OUTPOSTS = "outposts.json"


def _sync() -> int:
    """Ask the other systems once, over the wire; adopt what people carry. Returns how many devices they know."""
    from tarn.apps.discovery.models import Source, Sync
    from tarn.apps.discovery.sources.syncing import carry_out_sync
    from tarn.apps.estate.asking.ask import ids, question
    from tarn.apps.estate.register.decide import adopt_found
    from tarn.lab.serve import serving

    with serving({"systems"}):
        for source in Source.objects.order_by("pk"):
            carry_out_sync(Sync.objects.create(source=source, made_at=int(time.time())).pk)
        read_now()
    carried = sorted(ids(question("standing = intake and kind in (phone, tablet, scanner)", None)))
    adopt_found(carried[:-_LEFT_AT_INTAKE], past.STAFF)
    return sum(s.counts.get("found", 0) for s in Sync.objects.all())


_LEFT_AT_INTAKE = 6
"""Carried devices that wait for whoever opens the demo."""


def _history(anchor: datetime) -> int:
    from tarn.apps.estate.door.entrance import take_in
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
        count += len(night) + len(list(take_in(past.guests_told(day, anchor, world))))
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
        read_then(day, past.instant(anchor, day, 6, 30))
        if day == past.FIRST:
            count += len(list(take_in(past.stock_list(anchor, world))))
        if day == 360:
            count += len(list(take_in([past.retirement(anchor, held[numbers["salt-lt-09"]])])))
    return count
