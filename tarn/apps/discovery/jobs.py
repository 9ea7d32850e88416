"""Background work: what a person or the clock asked for, as jobs of the queue."""

import time

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.actions.rules import apply_rules
from tarn.apps.discovery.models import FileImport, Run, Sync, Trial
from tarn.apps.discovery.running import STALE, carry_out
from tarn.apps.discovery.syncing import STALE as SYNC_STALE
from tarn.apps.discovery.syncing import carry_out_sync
from tarn.apps.discovery.taking_back import STALE as IMPORT_STALE
from tarn.apps.discovery.taking_back import take_back
from tarn.apps.discovery.trying import carry_out_trial
from tarn.collect.trial import TrialStep


@db_task()
def run_sweep(run_id: int) -> None:
    """Carry out a run."""
    carry_out(run_id)
    apply_rules()


@db_task()
def run_trial(trial_id: int) -> None:
    """Carry out a trial."""
    carry_out_trial(trial_id)


@db_task()
def run_sync(sync_id: int) -> None:
    """Carry out a sync."""
    carry_out_sync(sync_id)
    apply_rules()


@db_task()
def take_import_back(import_id: int, username: str) -> None:
    """Take the rows of an import back."""
    take_back(import_id, username)


LONGEST_TRIAL = 600
"""Seconds after which a trial that has not ended has lost its worker."""


def recover() -> list[int]:
    """Hand over again what nobody is at: runs and syncs whose worker died or whose job was lost; end such trials.

    Returns the runs handed over.
    """
    now = int(time.time())
    lost_syncs = Sync.objects.filter(state="running", beat__lt=now - SYNC_STALE) | Sync.objects.filter(
        state="waiting", made_at__lt=now - SYNC_STALE
    )
    for sync_id in list(lost_syncs.values_list("pk", flat=True)):
        Sync.objects.filter(pk=sync_id).update(state="waiting", beat=now, made_at=now)
        run_sync(sync_id)
    broken_off = FileImport.objects.filter(state="undoing", beat__lt=now - IMPORT_STALE).select_related("asked_by")
    for held in list(broken_off):
        FileImport.objects.filter(pk=held.pk).update(beat=now)
        take_import_back(held.pk, held.asked_by.username if held.asked_by else "tarn")
    for trial in Trial.objects.filter(outpost=None, made_at__lt=now - LONGEST_TRIAL).exclude(state="done"):
        says = "The worker ended while this trial ran."
        steps = [*trial.steps, TrialStep("command", "failed", says, "Try again.").as_row()]
        Trial.objects.filter(pk=trial.pk).update(state="done", steps=steps, ended_at=now)
    lost = Run.objects.filter(state="running", at_work=True, beat__lt=now - STALE) | Run.objects.filter(
        state="waiting", made_at__lt=now - STALE
    )
    found = list(lost.values_list("pk", flat=True))
    for run_id in found:
        run_sweep(run_id)
    return found
