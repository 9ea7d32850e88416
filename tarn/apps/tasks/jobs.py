"""Background work of tasks: thin."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, db_task

from tarn.apps.tasks.models import Task
from tarn.apps.tasks.working import STALE, carry_out_task, prove

ASKS_AGAIN = 3
"""Seconds between two looks for a task's effect."""


@db_task()
def run_task(number: int) -> None:
    """Carry a task out, then look for its effect."""
    if carry_out_task(number):
        prove_task.schedule((number,), delay=ASKS_AGAIN)


@db_task()
def prove_task(number: int) -> None:
    """Look for a task's effect, again and again until every device was read or given up."""
    if prove(number):
        prove_task.schedule((number,), delay=ASKS_AGAIN)


@db_periodic_task(crontab(minute="*"))
def tasks_each_minute() -> None:
    """Take up again what a worker that ended has left behind, and what no worker ever got."""
    now = int(time.time())
    left = Task.objects.filter(state="running", beat__lt=now - STALE)
    lost = Task.objects.filter(state="waiting", asked_at__lt=now - STALE)
    for number in (left | lost).values_list("pk", flat=True):
        run_task(number)
    for number in Task.objects.filter(state="proving").values_list("pk", flat=True):
        prove(number)
