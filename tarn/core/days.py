"""Days as evidence holds them, and the calendar within which anything is reckoned."""

from datetime import UTC, date, datetime

FIRST, LAST = date(1970, 1, 1), date(2199, 12, 31)
"""The days anything can be of. Beyond them is a slip of the pen: nobody's device was bought in the year 9999."""


class OutsideCalendar(ValueError):
    """A day before or after all that can be meant; the message names it."""


def noon(day: date) -> int:
    """Return noon of a day in seconds since 1970, which lies on that day in every time zone of a company."""
    return int(datetime(day.year, day.month, day.day, 12, tzinfo=UTC).timestamp())


def within_calendar(day: date) -> date:
    """Return a day that lies within the calendar. Raises OutsideCalendar."""
    if not FIRST <= day <= LAST:
        raise OutsideCalendar(f"{day.isoformat()} is outside the calendar: {FIRST.year} to {LAST.year}.")
    return day
