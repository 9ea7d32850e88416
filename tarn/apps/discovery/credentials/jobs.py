"""Trials as jobs of the queue."""

from huey.contrib.djhuey import db_task

from tarn.apps.discovery.credentials.trying import carry_out_trial


@db_task()
def run_trial(trial_id: int) -> None:
    """Carry out a trial."""
    carry_out_trial(trial_id)
