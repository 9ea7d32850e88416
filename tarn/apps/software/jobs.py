"""What the clock asks of software: that what is installed lies on disk for all processes, as the data stands."""

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, lock_task

from tarn.apps.estate.software.installs import keep_on_disk


@db_periodic_task(crontab(minute="*/5"))
@lock_task("states")
def keep_states() -> None:
    """Exchange the state of what is installed where anything came since."""
    keep_on_disk()
