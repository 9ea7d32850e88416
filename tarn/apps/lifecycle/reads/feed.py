"""What ends when as a calendar (iCalendar, RFC 5545)."""

from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event

from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.lifecycle.reads.ending import Ending, endings

MONTHS_AHEAD, DAYS_BACK = 36, 31
_WHAT = {
    "warranties": "warranty ends",
    "contracts": "ends",
    "licence terms": "term ends",
    "maintenance": "maintenance ends",
    "support": "support ends",
    "loans": "is due back",
}


def calendar(base: str) -> bytes:
    """Return what ends from a month back to three years on, and the last days to give notice, as one calendar."""
    made = Calendar()
    made.add("prodid", "-//Tarn//What ends when//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", "Tarn: what ends when")
    day = today()
    for ending in endings(None, day - timedelta(days=DAYS_BACK), day + timedelta(days=MONTHS_AHEAD * 31)):
        made.add_component(_event(ending, base, ending.day, f"{ending.name}: {_WHAT[ending.stream]}", "end"))
        if ending.notice_by and not ending.decided:
            made.add_component(
                _event(ending, base, ending.notice_by, f"{ending.name}: last day to give notice", "notice")
            )
    return bytes(made.to_ical())


def _event(ending: Ending, base: str, day: object, summary: str, what: str) -> Event:
    event = Event()
    event.add(
        "uid", f"{ending.path.strip('/').replace('/', '-')}-{ending.stream.replace(' ', '-')}-{what}-{ending.day}@tarn"
    )
    event.add("dtstamp", datetime.now(UTC).replace(microsecond=0))
    event.add("dtstart", day)
    event.add("summary", summary)
    event.add("url", f"{base}{ending.path}")
    told = [ending.provider and f"With {ending.provider}.", ending.count and f"{ending.count} devices.", ending.decided]
    event.add("description", " ".join(str(t) for t in told if t))
    event.add("transp", "TRANSPARENT")
    return event
