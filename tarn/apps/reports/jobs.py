"""What the clock asks of watches, once a minute."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.reports.actions.watches import ask_due
from tarn.apps.reports.sending import send_due


@db_periodic_task(crontab(minute="*"))
def watch_each_minute() -> None:
    """Ask the watches that are due."""
    ask_due(int(time.time()))


@db_periodic_task(crontab(minute="*"))
def send_each_minute() -> None:
    """Send what is to be sent, whatever becomes of the asking."""
    send_due(int(time.time()))
