"""What the clock asks for Tarn itself: backups, and how full its disk is."""

import time
from pathlib import Path

from django.conf import settings
from huey import crontab
from huey.contrib.djhuey import db_periodic_task, lock_task

from tarn.apps.upkeep.noting import mark_disk
from tarn.site.backups import back_up, due


@db_periodic_task(crontab(minute="*"))
@lock_task("backup")
def back_up_when_due() -> None:
    """Write a backup when its time has come."""
    now = time.time()
    if due(now):
        back_up(Path(settings.TARN_BACKUPS), now)


@db_periodic_task(crontab(minute="7"))
def mark() -> None:
    """Note how full the disk is."""
    mark_disk(time.time())
