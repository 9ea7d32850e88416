"""Runs as jobs of the queue."""

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.intake.rules import apply_rules
from tarn.apps.discovery.sweeps.running import carry_out


@db_task()
def run_sweep(run_id: int) -> None:
    """Carry out a run."""
    carry_out(run_id)
    apply_rules()
