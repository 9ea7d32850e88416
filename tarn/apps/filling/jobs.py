"""What the clock asks of fill rules, once a minute."""

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.filling.actions.carry_out import when_changed


@db_periodic_task(crontab(minute="*"))
def fill_each_minute() -> None:
    """Carry the rules out where anything has changed."""
    when_changed()
