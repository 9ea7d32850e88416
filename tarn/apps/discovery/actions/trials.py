"""Trials: a credential tried at one address, step by step."""

import re
import time
from ipaddress import ip_address
from typing import Any

from django.db import transaction
from django.db.models import F

from tarn.apps.discovery.actions.sweeps import forbidden, keep_within
from tarn.apps.discovery.jobs import run_trial
from tarn.apps.discovery.manner import Places
from tarn.apps.discovery.models import AcceptedKey, Credential, Outpost, Trial
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.routes import ROUTES
from tarn.collect.trial import OTHER_KEY


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
        made = Trial.objects.create(
            credential=credential,
            address=address,
            route=route,
            outpost=_outpost(address, outpost, credential.organisation_id),
            asked_by=user,
            made_at=int(time.time()),
        )
        record(user, "tried a credential", credential.name, detail={"address": address})
    if made.outpost is None:
        run_trial(made.pk)
    return made


_KEY = re.compile(r"SHA256:[A-Za-z0-9+/]{43}")


def accept_key(user: Any, trial_id: int) -> str:
    """Accept the host key a trial met, where it is another than before; return its fingerprint.

    Raises Invalid where the trial met none, Trial.DoesNotExist.
    """
    require(user, "credentials")
    with transaction.atomic():
        trial = visible(Trial).get(pk=trial_id)
        met = next((s for s in trial.steps if s.get("code") == OTHER_KEY), None)
        found = _KEY.search(met["says"]) if met else None
        if found is None:
            raise Invalid("trial", "This trial met no other host key than before.")
        AcceptedKey.objects.get_or_create(
            address=trial.address,
            fingerprint=found[0],
            defaults={"accepted_by": user, "accepted_at": int(time.time())},
        )
        record(user, "accepted a host key", trial.address, detail={"fingerprint": found[0]})
    return found[0]


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
