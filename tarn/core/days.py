"""Days as evidence holds them."""

from datetime import UTC, date, datetime


def noon(day: date) -> int:
    """Return noon of a day in seconds since 1970, which lies on that day in every time zone of a company."""
    return int(datetime(day.year, day.month, day.day, 12, tzinfo=UTC).timestamp())
