"""Trials as jobs of the queue."""

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, db_task

from tarn.apps.discovery.credentials.given_passwords import carry_out, try_what_is_due
from tarn.apps.discovery.credentials.trying import carry_out_trial


@db_task()
def run_known_passwords(trials: list[int]) -> None:
    """Carry out trials of passwords that everybody knows."""
    carry_out(trials)


@db_periodic_task(crontab(hour="3", minute="40"))
def try_known_passwords() -> None:
    """Try the passwords that everybody knows on the devices that are due."""
    carry_out([t.pk for t in try_what_is_due()])


@db_task()
def run_trial(trial_id: int) -> None:
    """Carry out a trial."""
    carry_out_trial(trial_id)
