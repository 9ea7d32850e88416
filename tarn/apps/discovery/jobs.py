"""Background work: what a person or the clock asked for, as jobs of the queue."""

import time

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.actions.rules import apply_rules
from tarn.apps.discovery.models import Run
from tarn.apps.discovery.running import STALE, carry_out
from tarn.apps.discovery.syncing import carry_out_sync
from tarn.apps.discovery.trying import carry_out_trial


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


def recover() -> list[int]:
    """Hand runs over again that nobody is at: those whose worker died, and those whose job was lost."""
    now = int(time.time())
    lost = Run.objects.filter(state="running", at_work=True, beat__lt=now - STALE) | Run.objects.filter(
        state="waiting", made_at__lt=now - STALE
    )
    found = list(lost.values_list("pk", flat=True))
    for run_id in found:
        run_sweep(run_id)
    return found
