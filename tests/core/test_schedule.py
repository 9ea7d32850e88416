"""Schedules: the next start in the company's time, the words, and rules that cannot stand."""

from datetime import UTC, datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.schedule import SHORTEST, ScheduleError, in_words, next_after

ZONE = "Europe/London"
NIGHTLY = "FREQ=DAILY;BYHOUR=1;BYMINUTE=30;BYSECOND=0"


def at(*parts: int) -> int:
    return int(datetime(*parts, tzinfo=UTC).timestamp())  # type: ignore[misc]


@given(st.integers(at(2025, 1, 1), at(2030, 1, 1)))
def test_the_next_night_is_within_a_day_and_at_half_past_one_by_the_wall(moment):
    found = next_after(NIGHTLY, moment, ZONE)
    assert found is not None
    assert moment < found + 3600
    assert found - moment <= 25 * 3600
    local = datetime.fromtimestamp(found, ZoneInfo(ZONE))
    assert (local.hour, local.minute) in ((1, 30), (2, 30))


def test_it_follows_the_clock_changes():
    assert next_after(NIGHTLY, at(2026, 7, 1, 12), ZONE) == at(2026, 7, 2, 0, 30)
    assert next_after(NIGHTLY, at(2026, 12, 1, 12), ZONE) == at(2026, 12, 2, 1, 30)


def test_a_rule_that_ends_has_no_next_start():
    assert next_after("FREQ=DAILY;UNTIL=20250101T000000", at(2026, 1, 1), ZONE) is None


@pytest.mark.parametrize(
    "rule", ["every night", "FREQ=SOMETIMES", "FREQ=MINUTELY", "DTSTART:20260101\nRRULE:FREQ=DAILY", ""]
)
def test_what_is_no_rule_or_too_often_is_refused(rule):
    with pytest.raises(ScheduleError):
        next_after(rule, at(2026, 1, 1), ZONE)
    assert SHORTEST == 300


@pytest.mark.parametrize(
    ("rule", "words"),
    [
        (NIGHTLY, "every day at 01:30"),
        ("FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR;BYHOUR=6;BYMINUTE=0", "on weekdays at 06:00"),
        ("FREQ=HOURLY;INTERVAL=4", "every 4 hours"),
        ("FREQ=MONTHLY;BYSETPOS=-1;BYDAY=FR", "FREQ=MONTHLY;BYSETPOS=-1;BYDAY=FR"),
    ],
)
def test_rules_in_words(rule, words):
    assert in_words(rule) == words
