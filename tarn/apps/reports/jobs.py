"""What the clock asks of watches, once a minute."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.reports.actions.watches import ask_due
from tarn.apps.reports.sending import send_due


@db_periodic_task(crontab(minute="*"))
def watch_each_minute() -> None:
    """Ask the watches that are due, and send what is to be sent."""
    now = int(time.time())
    ask_due(now)
    send_due(now)
