"""What the clock asks of exposure, once a minute."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.exposure.feeds.change import start_due
from tarn.apps.exposure.finding.catching_up import catch_up
from tarn.apps.exposure.own import deriving as own
from tarn.apps.people.room import room


@db_periodic_task(crontab(minute="*"))
def expose_each_minute() -> None:
    """Feeds whose time has come, and statuses of what new evidence brought."""
    if room().enough:
        start_due(int(time.time()))
        catch_up()
        own.catch_up()
