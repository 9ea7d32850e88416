"""Days and moments as the company counts them: its zone, today, and the day the dial is turned to."""

import time
from datetime import UTC, date, datetime, timedelta
from typing import overload
from zoneinfo import ZoneInfo

from django.conf import settings

from tarn.core.days import OutsideCalendar, within_calendar
from tarn.core.filters.values import day_start


def zone() -> ZoneInfo:
    """Return the company's time zone, in which its days begin."""
    return ZoneInfo(settings.TIME_ZONE)


class DialError(ValueError):
    """A date the dial cannot be turned to."""


def read_dial(text: str | None) -> int | None:
    """Return the moment a date stands for: the end of that day, or the time given; None for now.

    Raises DialError for what is no date. A date of today or later is now.
    """
    if not text or text == "now":
        return None
    try:
        if len(text) == 10:
            day = within_calendar(date.fromisoformat(text))
            moment = day_start(day + timedelta(days=1), zone()) - 1
        else:
            read = datetime.fromisoformat(text)
            within_calendar(read.date())
            moment = int((read if read.tzinfo else read.replace(tzinfo=zone())).timestamp())
    except OutsideCalendar as error:
        raise DialError(str(error)) from None
    except ValueError:
        raise DialError(f"“{text}” is no date: write it as 2026-08-03, or 2026-08-03T10:00.") from None
    return None if moment >= time.time() else moment


def day_of(at: int | None) -> date:
    """Return the day a moment lies in, in the company's time zone; None: today."""
    return datetime.fromtimestamp(at if at is not None else time.time(), zone()).date()


@overload
def iso(second: int) -> str: ...
@overload
def iso(second: None) -> None: ...
@overload
def iso(second: int | None) -> str | None: ...
def iso(second: int | None) -> str | None:
    """Return a moment as ISO 8601 in UTC."""
    return None if second is None else datetime.fromtimestamp(second, UTC).isoformat()[:19] + "Z"
