"""Schedules: recurrence rules of iCalendar (RFC 5545, section 3.3.10), in the company's time zone."""

import re
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from dateutil.rrule import rrulestr

_EACH = {"MINUTELY": "minute", "HOURLY": "hour", "DAILY": "day", "WEEKLY": "week", "MONTHLY": "month", "YEARLY": "year"}
_DAYS = {
    "MO": "Monday",
    "TU": "Tuesday",
    "WE": "Wednesday",
    "TH": "Thursday",
    "FR": "Friday",
    "SA": "Saturday",
    "SU": "Sunday",
}
SHORTEST = 300
"""Seconds between two starts at the least: more often is a slip of the pen."""


class ScheduleError(ValueError):
    """A rule that cannot be read; the message says what is wrong with it."""


def next_after(rule: str, after: int, zone: str) -> int | None:
    """Return the first start after a moment (seconds since 1970), or None where the rule has ended.

    Hours and days are those of `zone`; a time that the clocks skip is taken an hour later (RFC 5545, 3.3.10).
    Raises ScheduleError.
    """
    here, parsed = ZoneInfo(zone), _parsed(rule)
    now = datetime.fromtimestamp(after, here).replace(tzinfo=None)
    first = parsed.after(now)
    if first is None:
        return None
    second = parsed.after(first)
    if second is not None and (second - first).total_seconds() < SHORTEST:
        raise ScheduleError(f"“{rule}” would start every {(second - first).total_seconds():.0f} s; leave five minutes.")
    return int(first.replace(tzinfo=here).timestamp())


def _parsed(rule: str) -> Any:
    if "DTSTART" in rule.upper():
        raise ScheduleError("Give the rule alone, such as FREQ=DAILY;BYHOUR=1;BYMINUTE=30: it begins when it is saved.")
    if "FREQ=" not in rule.upper().replace(" ", ""):
        raise ScheduleError(
            f"“{rule}” is no recurrence rule (RFC 5545): write FREQ=WEEKLY;BYDAY=MO;BYHOUR=1;BYMINUTE=30 for every "
            "Monday at 01:30, FREQ=DAILY;BYHOUR=1 for every day at one."
        )
    try:
        return rrulestr(rule.removeprefix("RRULE:"), dtstart=datetime(2024, 1, 1))
    except (ValueError, KeyError, TypeError) as error:
        raise ScheduleError(f"“{rule}” is no recurrence rule: {error}.") from None


def window_ends(rule: str, minutes: int, at: int, zone: str) -> int | None:
    """Return when the window a moment falls into ends (seconds since 1970), or None where it falls into none.

    A window begins as the rule says, in the time of `zone`, and lasts so many minutes. Raises ScheduleError.
    """
    here, parsed = ZoneInfo(zone), _parsed(rule)
    # In an hour that comes twice the clock may say less than when the window began: it is looked for from later on.
    latest = datetime.fromtimestamp(at, here).replace(tzinfo=None) + timedelta(hours=2)
    began = parsed.before(latest, inc=True)
    while began is not None and began.replace(tzinfo=here).timestamp() > at:
        began = parsed.before(began)
    if began is None:
        return None
    ends = int(began.replace(tzinfo=here).timestamp()) + minutes * 60
    return ends if ends > at else None


def in_words(rule: str) -> str:
    """Return a rule as one would say it: "every day at 01:30", or the rule itself where it is out of the ordinary."""
    parts = dict(re.findall(r"([A-Z]+)=([^;]+)", rule.upper()))
    every, times = _EACH.get(parts.pop("FREQ", "")), parts.pop("INTERVAL", "1")
    hours, minutes, days = parts.pop("BYHOUR", ""), parts.pop("BYMINUTE", "0"), parts.pop("BYDAY", "")
    parts.pop("BYSECOND", None)
    if every is None or parts or (not (hours + minutes).replace(",", "").isdigit() and hours):
        return rule
    named = [_DAYS.get(d, d) for d in days.split(",") if d]
    if days == "MO,TU,WE,TH,FR":
        said = "on weekdays"
    elif named:
        said = "every " + " and ".join(named)
    else:
        said = f"every {times} {every}s" if times != "1" else f"every {every}"
    if hours:
        said += " at " + " and ".join(f"{int(h):02d}:{int(minutes.split(',')[0]):02d}" for h in hours.split(","))
    return said
