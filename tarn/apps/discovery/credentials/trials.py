"""Trials: a credential tried at one address, step by step."""

import time
from ipaddress import ip_address
from typing import Any

from django.db import transaction
from django.db.models import F

from tarn.apps.discovery.credentials.jobs import run_trial
from tarn.apps.discovery.models import AcceptedKey, Credential, Outpost, Trial
from tarn.apps.discovery.networks.change import forbidden, keep_within
from tarn.apps.discovery.networks.places import Places
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.routes import ROUTES
from tarn.collect.trial import FIRST_KEY, OTHER_KEY


def start_trial(user: Any, credential_id: int, address: str, route: str, outpost: int | None = None) -> Trial:
    """Make a trial and hand it to the workers, or to an outpost: the one named, or one at its post where only outposts
    reach the address.

    Raises Invalid, Credential.DoesNotExist.
    """
    require(user, "sweep")
    try:
        address = str(ip_address(address.strip()))
    except ValueError:
        raise Invalid("address", f"“{address}” is no address.") from None
    if route not in ROUTES:
        raise Invalid("route", f"“{route}” is no route; one of: {', '.join(ROUTES)}.")
    keep_within([address], "address")
    with transaction.atomic():
        credential = visible(Credential).get(pk=credential_id)
        if by := forbidden(address, credential.organisation_id):
            raise Invalid("address", f"{address} lies in {by}, which must never be probed.")
        if not credential.where.holds(address):
            raise Invalid("address", f"“{credential.name}” may not be used at {address}: {_at(credential.reach)}")
        at = _outpost(address, outpost, credential.organisation_id)
        if at is not None and not credential.outposts.filter(pk=at.pk).exists():
            raise Invalid("outpost", f"“{credential.name}” is not made to be handed to the outpost “{at.name}”.")
        made = Trial.objects.create(
            credential=credential,
            address=address,
            route=route,
            outpost=at,
            asked_by=user,
            made_at=int(time.time()),
        )
        record(user, "tried a credential", credential.name, detail={"address": address})
    if made.outpost is None:
        run_trial(made.pk)
    return made


def _at(reach: list[str]) -> str:
    if not reach:
        return "it is for nowhere yet."
    return f"it is for {', '.join(reach[:4])}" + (f" and {len(reach) - 4} more." if len(reach) > 4 else ".")


def accept_key(user: Any, trial_id: int) -> str:
    """Accept the key a trial met, where it is new or another than before; return its fingerprint.

    Raises Invalid where the trial met none, Trial.DoesNotExist.
    """
    require(user, "credentials")
    with transaction.atomic():
        trial = visible(Trial).get(pk=trial_id)
        found = next((s["key"] for s in trial.steps if s.get("code") in (OTHER_KEY, FIRST_KEY)), "")
        if not found:
            raise Invalid("trial", "This trial met no other key than before.")
        AcceptedKey.objects.get_or_create(
            address=trial.address,
            fingerprint=found,
            defaults={"accepted_by": user, "accepted_at": int(time.time())},
        )
        record(user, "accepted a key", trial.address, detail={"fingerprint": found})
    return found


def _outpost(address: str, number: int | None, organisation: int | None) -> Outpost | None:
    network = Places.load(organisation).beyond_reach(address)
    if number is not None:
        named = visible(Outpost).filter(pk=number, withdrawn_at=None).first()
        if named is None:
            raise Invalid("outpost", f"There is no outpost {number} in force.")
        if network is None or not network.outposts.filter(pk=number).exists():
            raise Invalid("outpost", f"{address} lies in no network of the outpost “{named.name}”.")
        return named
    if network is None:
        return None
    return network.outposts.filter(withdrawn_at=None).order_by(F("last_seen").desc(nulls_last=True)).first()
