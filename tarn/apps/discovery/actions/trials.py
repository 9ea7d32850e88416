"""Trials: a credential tried at one address, step by step."""

import asyncio
import time
from ipaddress import ip_address
from typing import Any

from django.db import close_old_connections, transaction

from tarn.apps.discovery.actions.credentials import Invalid
from tarn.apps.discovery.actions.sweeps import forbidden
from tarn.apps.discovery.models import Credential, Trial
from tarn.apps.discovery.sealing import SealBroken, opened
from tarn.apps.estate.reads.identifiers import presented_keys
from tarn.apps.people.actions.audit import record
from tarn.apps.people.roles import require
from tarn.collect.credentials import account
from tarn.collect.guard import MOST_REFUSALS
from tarn.collect.routes import ROUTES
from tarn.collect.trial import Step, try_credential


def start_trial(user: Any, credential_id: int, address: str, route: str) -> Trial:
    """Make a trial and hand it to the workers. Raises Invalid, Credential.DoesNotExist."""
    require(user, "sweep")
    try:
        address = str(ip_address(address.strip()))
    except ValueError:
        raise Invalid("address", f"“{address}” is no address.") from None
    if route not in ROUTES:
        raise Invalid("route", f"“{route}” is no route; one of: {', '.join(ROUTES)}.")
    if by := forbidden(address):
        raise Invalid("address", f"{address} lies in {by}, which must never be probed.")
    with transaction.atomic():
        credential = Credential.objects.get(pk=credential_id)
        made = Trial.objects.create(
            credential=credential, address=address, route=route, asked_by=user, made_at=int(time.time())
        )
        record(user, "tried a credential", credential.name, detail={"address": address})
    from tarn.apps.discovery.jobs import run_trial

    run_trial(made.pk)
    return made


def carry_out_trial(trial_id: int) -> None:
    """Carry a trial out, noting each step as it is done."""
    trial = Trial.objects.select_related("credential").get(pk=trial_id)
    if trial.state != "waiting":
        return
    Trial.objects.filter(pk=trial_id).update(state="running")
    steps: list[dict[str, Any]] = []
    try:
        credential = opened(trial.credential)
    except SealBroken as broken:
        steps.append(Step("sign-in", "failed", str(broken), "Renew its secret.").as_row())
        Trial.objects.filter(pk=trial_id).update(state="done", steps=steps, ended_at=int(time.time()))
        return

    async def go() -> None:
        known = frozenset(await asyncio.to_thread(presented_keys, trial.address))
        async for step in try_credential(ROUTES[trial.route], trial.address, credential, known):
            steps.append(step.as_row())
            await asyncio.to_thread(_note, trial_id, steps)

    asyncio.run(go())
    with transaction.atomic():
        Trial.objects.filter(pk=trial_id).update(state="done", steps=steps, ended_at=int(time.time()))
        signed_in = next((s["verdict"] for s in steps if s["step"] == "sign-in"), "")
        held = Credential.objects.get(pk=trial.credential_id)
        if signed_in == "passed":
            held.refusals = 0
        elif signed_in == "failed" and account(credential):
            held.refusals = min(held.refusals + 1, MOST_REFUSALS * 10)
        held.save(update_fields=["refusals"])


def _note(trial_id: int, steps: list[dict[str, Any]]) -> None:
    close_old_connections()
    Trial.objects.filter(pk=trial_id).update(steps=steps)
