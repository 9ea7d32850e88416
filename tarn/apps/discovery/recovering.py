"""What nobody is at any more is taken up again: runs, syncs, undos and trials whose worker died."""

import time

from tarn.apps.discovery.imports.jobs import take_import_back
from tarn.apps.discovery.imports.taking_back import STALE as IMPORT_STALE
from tarn.apps.discovery.models import FileImport, Run, Sync, Trial
from tarn.apps.discovery.sources.jobs import run_sync
from tarn.apps.discovery.sources.syncing import STALE as SYNC_STALE
from tarn.apps.discovery.sweeps.jobs import run_sweep
from tarn.apps.discovery.sweeps.running import STALE
from tarn.collect.trial import TrialStep

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
    for file_import in list(broken_off):
        FileImport.objects.filter(pk=file_import.pk).update(beat=now)
        take_import_back(file_import.pk, file_import.asked_by.username if file_import.asked_by else "tarn")
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
