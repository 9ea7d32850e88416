"""What the clock asks for, once a minute."""

import time

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.discovery.intake.rules import apply_rules
from tarn.apps.discovery.outposts.leasing import tend
from tarn.apps.discovery.recovering import recover
from tarn.apps.discovery.sources.change import start_due_syncs
from tarn.apps.discovery.sweeps.runs import start_due
from tarn.apps.people.room import room


@db_periodic_task(crontab(minute="*"))
def each_minute() -> None:
    """What is due by its schedule, runs whose worker died, and outposts that stay away."""
    if room().enough:
        start_due(int(time.time()))
        start_due_syncs(int(time.time()))
    tend(int(time.time()))
    apply_rules()
    recover()
