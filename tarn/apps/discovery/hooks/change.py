"""Hooks: other systems push sightings, or tell that a device changed, in signed messages."""

import hmac
import json
import secrets
import time
from collections.abc import Mapping
from typing import Any

from django.db import transaction

from tarn.apps.discovery.hooks.results import HookTakenOut
from tarn.apps.discovery.models import Hook
from tarn.apps.discovery.sweeps.runs import look_again
from tarn.apps.estate.door.entrance import take_in_batch
from tarn.apps.estate.register.identifiers import addresses_called
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import asking_for, visible
from tarn.apps.people.sealing import seal, unseal
from tarn.collect.sources.finding import whose
from tarn.core.senders import check_sent
from tarn.core.sightings import read_sighting
from tarn.core.signing import new_secret, signature

LATE = 300
"""Seconds a message may be old or its clock ahead: an older one could be someone's recording."""


def make_hook(user: Any, name: str, organisation: int | None = None) -> tuple[Hook, str]:
    """Make a hook; returns it and its secret, which is shown here and never again."""
    require(user, "credentials")
    name = name.strip()[:80]
    if not name:
        raise Invalid("name", "A hook needs a name: it stands beside every value it brings.")
    shown = new_secret()
    with once("name", f"There is a hook “{name}” already."):
        made = Hook.objects.create(
            name=name,
            key=secrets.token_hex(12),
            sealed=seal({"secret": shown}),
            made_by=user,
            made_at=int(time.time()),
            organisation=owner(organisation),
        )
        record(user, "made a hook", made.name)
    return made, shown


def withdraw_hook(user: Any, number: int) -> None:
    """Withdraw a hook: what it sends is refused from now on. Raises Hook.DoesNotExist."""
    require(user, "credentials")
    with transaction.atomic():
        held = visible(Hook).get(pk=number, withdrawn_at=None)
        held.withdrawn_at = int(time.time())
        held.save(update_fields=["withdrawn_at"])
        record(user, "withdrew a hook", held.name)


def take_message(key: str, headers: Mapping[str, str], body: bytes) -> HookTakenOut:
    """Take a signed message in: {"sighting": …} or {"changed": {"address": …} or {"name": …}}.

    Raises NotAllowed where it is not signed as it should be, Invalid and SightingError for what it says.
    """
    hook = Hook.objects.filter(key=key).first()
    if hook is None or hook.withdrawn_at is not None:
        raise NotAllowed("This hook is not known here, or was withdrawn.")
    _check(hook, headers, body)
    Hook.objects.filter(pk=hook.pk).update(used_at=int(time.time()))
    try:
        said = json.loads(body)
    except ValueError as error:
        raise Invalid("body", f"The message is no JSON: {error}.") from None
    if not isinstance(said, dict) or set(said) not in ({"sighting"}, {"changed"}):
        raise Invalid("body", "A message holds either “sighting” or “changed”.")
    with asking_for(hook.organisation):
        return _sighting(hook, said["sighting"]) if "sighting" in said else _changed(hook, said["changed"])


def _check(hook: Hook, headers: Mapping[str, str], body: bytes) -> None:
    message, stamp = headers.get("webhook-id", ""), headers.get("webhook-timestamp", "")
    if not message or not stamp.isdigit() or not headers.get("webhook-signature"):
        raise NotAllowed("The message lacks webhook-id, webhook-timestamp or webhook-signature.")
    if abs(time.time() - int(stamp)) > LATE:
        raise NotAllowed(f"The message's time stamp is more than {LATE} s off; set the sender's clock.")
    expected = signature(unseal(bytes(hook.sealed), hook.name)["secret"], message, stamp, body)
    if not any(hmac.compare_digest(expected, given) for given in headers["webhook-signature"].split()):
        raise NotAllowed("The message's signature is not right.")


def _sighting(hook: Hook, document: Any) -> HookTakenOut:
    sighting = read_sighting(document if isinstance(document, dict) else {})
    if (sighting.source.kind, sighting.source.name) != ("inventory", hook.name):
        raise Invalid("sighting.source", f"This hook speaks for the source inventory “{hook.name}” and no other.")
    check_sent(sighting, int(time.time()))
    readings = list(sighting.readings)
    readings += whose(hook.organisation.name if hook.organisation else "", "hook")
    taken = take_in_batch([sighting.model_copy(update={"readings": readings})])[0]
    return {"verdict": taken.verdict, "asset": taken.asset}


def _changed(hook: Hook, told: Any) -> HookTakenOut:
    if not isinstance(told, dict) or not (told.get("address") or told.get("name")):
        raise Invalid("changed", "Say which device changed: its address, or its name.")
    addresses = [str(told["address"])] if told.get("address") else addresses_called(str(told["name"]))
    if not addresses:
        raise Invalid("changed", f"No device called “{told['name']}” has an address.")
    run = look_again(None, addresses[0])
    record(None, "was told of a change by", hook.name, detail={"address": addresses[0], "run": run.pk})
    return {"verdict": "is read again", "asset": None}
