"""When what runs by a schedule starts next."""

import time

from django.conf import settings

from tarn.apps.people.actions.refusals import Invalid
from tarn.core.schedule import ScheduleError, next_after


def next_start(schedule: str, field: str = "schedule") -> int | None:
    """Return the next start of a schedule in the company's time. Raises Invalid, naming the field."""
    if not schedule:
        return None
    try:
        return next_after(schedule, int(time.time()), settings.TIME_ZONE)
    except ScheduleError as error:
        raise Invalid(field, str(error)) from None
