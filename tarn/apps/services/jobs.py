"""What the clock asks of services, once a minute."""

from huey import crontab
from huey.contrib.djhuey import db_periodic_task

from tarn.apps.people.room import room
from tarn.apps.services.kept.catching_up import catch_up


@db_periodic_task(crontab(minute="*"))
def note_members_each_minute() -> None:
    """Who came to a part of a service and who went."""
    if room().enough:
        catch_up()
