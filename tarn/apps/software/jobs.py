"""What the clock asks of software: that what is counted over lies on disk for all processes, as the data stands."""

from huey import crontab
from huey.contrib.djhuey import db_periodic_task, lock_task

from tarn.apps.estate.software import first_sights, installs


@db_periodic_task(crontab(minute="*/5"))
@lock_task("states")
def keep_states() -> None:
    """Exchange the states of what is installed, and was first seen when, where anything came since."""
    installs.keep_on_disk()
    first_sights.keep_on_disk()
