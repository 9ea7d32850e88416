"""Passwords that everybody knows: tried where the company allows it, to see whether a device still lets them in.

They are credentials marked so; each try is a trial with its guard: no password goes to a device whose key is not known,
an account that was refused too often is left alone, and a device is asked a few times a day at the most.
"""

import time
from collections import defaultdict
from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.discovery.credentials.acting_access import Ways
from tarn.apps.discovery.credentials.trying import carry_out_trial
from tarn.apps.discovery.models import Credential, Trial
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.estate.register.targets import known
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.guard import MOST_REFUSALS
from tarn.collect.routes import ROUTES
from tarn.core.sections import Identity, Management
from tarn.core.sightings import compose, make_reading

DAY = 86_400
AGAIN = 7 * DAY
"""Seconds after which a device is asked again with the same password."""
MOST_A_DAY = 2
"""Passwords a device is asked with in a day: systems commonly lock an account at three to five refusals."""
SOURCE = ("sweep", "Passwords that everybody knows")
_NAMES = {id(route): name for name, route in ROUTES.items()}


def try_everywhere(user: Any, number: int) -> list[Trial]:
    """Have a password that everybody knows tried on all devices it may be tried on; return the trials that are made.

    Raises Invalid, Credential.DoesNotExist.
    """
    require(user, "credentials")
    held = visible(Credential).get(pk=number)
    if not held.known_to_all:
        raise Invalid("credential", f"“{held.name}” is none that everybody knows: it is used to read devices.")
    made = _made(held, user)
    if not made:
        raise Invalid("credential", _why_none(held))
    record(user, "had a known password tried", held.name, detail={"devices": len(made)})
    return made


def _why_none(held: Credential) -> str:
    if held.refusals >= MOST_REFUSALS:
        return f"Its account was refused {held.refusals} times: it is left alone, so that it is not locked."
    days, most = AGAIN // DAY, MOST_A_DAY
    return (
        f"No device is due: each is asked once in {days} days, with {most} passwords a day, where it listens for one."
    )


def try_what_is_due() -> list[Trial]:
    """Make the trials that are due of all such passwords; who calls carries them out."""
    return [trial for held in Credential.objects.filter(known_to_all=True) for trial in _made(held, None)]


def _made(held: Credential, user: Any) -> list[Trial]:
    """Make trials of a password at the devices that listen for it and may be asked now."""
    if held.refusals >= MOST_REFUSALS:
        return []
    now, ways, made = int(time.time()), Ways(), []
    recent: dict[str, list[tuple[int, int]]] = defaultdict(list)
    for address, credential, at in Trial.objects.filter(
        credential__known_to_all=True, made_at__gt=now - AGAIN
    ).values_list("address", "credential_id", "made_at"):
        recent[address].append((credential, at))
    listens = "" if held.protocol.startswith("snmp") else f" and ports[protocol = tcp and port = {held.port}]"
    for device in known(ids(question(f"address != none{listens}"))):
        address = device.target.address
        asked = recent[address]
        if not held.where.holds(address) or (held.organisation and held.organisation.name != device.organisation):
            continue
        if any(c == held.pk for c, _ in asked) or sum(at > now - DAY for _, at in asked) >= MOST_A_DAY:
            continue
        way = ways.to(address)
        if way.route is None or (held.places and way.place not in held.places):
            continue
        route = _NAMES[id(way.route)]
        made.append(Trial.objects.create(credential=held, address=address, route=route, asked_by=user, made_at=now))
        asked.append((held.pk, now))
    return made


def carry_out(trials: list[int]) -> None:
    """Carry trials of known passwords out, and tell what came of each of the devices."""
    for number in trials:
        carry_out_trial(number)
        _tell(Trial.objects.get(pk=number).address)


def _tell(address: str) -> None:
    """Say of the device at an address whether any password that everybody knows was let in; nothing where none was
    asked for to its end."""
    since = int(time.time()) - AGAIN
    verdicts = [
        verdict
        for trial in Trial.objects.filter(credential__known_to_all=True, address=address, made_at__gt=since)
        if (verdict := _let_in(trial)) is not None
    ]
    assets = ids(question(f"address = {address}"))
    if not verdicts or len(assets) != 1:
        return
    [number] = numbers_of(assets).values()
    readings = [
        make_reading("identity", Identity(tarn=number), "trial", complete=False),
        make_reading("management", Management(given_password=any(verdicts)), "trial", complete=False),
    ]
    with transaction.atomic():
        list(take_in([compose(SOURCE, datetime.now(UTC).replace(microsecond=0), readings)]))


def _let_in(trial: Trial) -> bool | None:
    """Return whether a trial's sign-in was let in; None where it was not come to."""
    verdict = next((s["verdict"] for s in trial.steps if s["step"] == "sign-in"), "")
    refused = verdict == "failed" and any(s["step"] == "answers" and s["verdict"] != "failed" for s in trial.steps)
    return True if verdict == "passed" else False if refused else None
