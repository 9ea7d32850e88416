"""Carrying a trial out, and noting its steps, whoever tries: a worker or an outpost."""

import asyncio
import time
from typing import Any

from django.db import close_old_connections, transaction

from tarn.apps.discovery.credentials.expected_keys import expected_in
from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Credential, Trial
from tarn.apps.people.sealing import SealBroken
from tarn.collect.credentials import account
from tarn.collect.guard import MOST_REFUSALS
from tarn.collect.routes import ROUTES
from tarn.collect.trial import TrialStep, try_credential


def carry_out_trial(trial_id: int) -> None:
    """Carry a trial out, noting each step as it is done."""
    trial = Trial.objects.select_related("credential").get(pk=trial_id)
    if trial.state != "waiting":
        return
    Trial.objects.filter(pk=trial_id).update(state="running")
    try:
        credential = opened(trial.credential)
    except SealBroken as broken:
        steps = [TrialStep("sign-in", "failed", str(broken), "Renew its secret.").as_row()]
        Trial.objects.filter(pk=trial_id).update(state="done", steps=steps, ended_at=int(time.time()))
        return
    steps = []

    async def go() -> None:
        expected = await asyncio.to_thread(expected_in, trial)
        async for step in try_credential(ROUTES[trial.route], trial.address, credential, expected):
            steps.append(step.as_row())
            await asyncio.to_thread(_note, trial, steps)

    asyncio.run(go())
    note_trial(trial, steps, done=True)


def _note(trial: Trial, steps: list[dict[str, Any]]) -> None:
    close_old_connections()
    note_trial(trial, steps, done=False)


def note_trial(trial: Trial, steps: list[dict[str, Any]], *, done: bool) -> None:
    """Note a trial's steps so far; at its end count what it came to for its account."""
    trials = Trial.objects.filter(pk=trial.pk).exclude(state="done")
    if not done:
        trials.update(steps=steps)
        return
    with transaction.atomic():
        if not trials.update(state="done", steps=steps, ended_at=int(time.time())):
            return  # told before
        signed_in = next((s["verdict"] for s in steps if s["step"] == "sign-in"), "")
        credential = Credential.objects.get(pk=trial.credential_id)
        if signed_in == "passed":
            credential.refusals = 0
        elif signed_in == "failed" and account(opened(credential)):
            credential.refusals = min(credential.refusals + 1, MOST_REFUSALS * 10)
        credential.save(update_fields=["refusals"])
