"""Background work: sweeps, and a look each minute for runs whose worker died."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, db_task

from tarn.apps.discovery.actions.rules import apply_rules
from tarn.apps.discovery.actions.runs import start_due
from tarn.apps.discovery.actions.sources import start_due_syncs
from tarn.apps.discovery.actions.trials import carry_out_trial
from tarn.apps.discovery.models import Run
from tarn.apps.discovery.running import STALE, carry_out
from tarn.apps.discovery.syncing import carry_out_sync


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
    lost = Run.objects.filter(state="running", beat__lt=now - STALE) | Run.objects.filter(
        state="waiting", made_at__lt=now - STALE
    )
    found = list(lost.values_list("pk", flat=True))
    for run_id in found:
        run_sweep(run_id)
    return found


@db_periodic_task(crontab(minute="*"))
def each_minute() -> None:
    """Once a minute: what is due by its schedule, and runs whose worker died."""
    start_due(int(time.time()))
    start_due_syncs(int(time.time()))
    apply_rules()
    recover()
