"""Watches: what is worth writing about, and when it may be sent."""

from datetime import datetime
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.watching import RETRIES, WatchError, next_try, quiet_hours, sendable, weigh

ZONE = "Europe/Lisbon"


def moment(text):
    return int(datetime.fromisoformat(text).replace(tzinfo=ZoneInfo(ZONE)).timestamp())


@pytest.mark.parametrize(
    ("condition", "number", "before", "now", "fires", "new", "gone"),
    [
        ("any", 0, None, [], False, [], []),
        ("any", 0, None, ["a"], True, [], []),
        ("new", 0, None, ["a"], False, [], []),
        ("new", 0, [], ["a"], True, ["a"], []),
        ("new", 0, ["a", "b"], ["b", "c", "c"], True, ["c"], ["a"]),
        ("gone", 0, ["a"], ["a"], False, [], []),
        ("gone", 0, ["a"], [], True, [], ["a"]),
        ("changed", 0, None, ["a"], False, [], []),
        ("changed", 0, ["a"], ["a"], False, [], []),
        ("changed", 0, ["a"], ["a", "b"], True, ["b"], []),
        ("changed", 0, ["a"], [], True, [], ["a"]),
        ("over", 2, ["a"], ["a", "b", "b"], False, ["b"], []),
        ("over", 1, ["a"], ["a", "b"], True, ["b"], []),
        ("under", 1, None, [], True, [], []),
    ],
)
def test_an_answer_is_weighed_against_the_last(condition, number, before, now, fires, new, gone):
    found = weigh(condition, number, before, now)
    assert (found.fires, found.new, found.gone) == (fires, new, gone)


@pytest.mark.parametrize(
    ("at", "quiet", "sent"),
    [
        ("2026-11-23T21:59", "22-6", "2026-11-23T21:59"),
        ("2026-11-23T22:00", "22-6", "2026-11-24T06:00"),
        ("2026-11-24T05:59", "22-6", "2026-11-24T06:00"),
        ("2026-11-24T06:00", "22-6", "2026-11-24T06:00"),
        ("2026-11-24T12:30", "12-14", "2026-11-24T14:00"),
        ("2026-11-24T12:30", "", "2026-11-24T12:30"),
    ],
)
def test_nothing_is_sent_in_quiet_hours(at, quiet, sent):
    assert sendable(moment(at), quiet_hours(quiet), ZONE) == moment(sent)


@pytest.mark.parametrize("text", ["night", "22", "25-6", "6-6"])
def test_what_are_no_hours_is_refused(text):
    with pytest.raises(WatchError, match="22-6"):
        quiet_hours(text)


@given(st.integers(0, 2**31), st.integers(0, 23), st.integers(0, 23))
def test_waiting_ends_outside_of_the_quiet_and_within_a_day(at, begins, ends):
    if begins == ends:
        return
    then = sendable(at, (begins, ends), ZONE)
    assert at <= then <= at + 86_400 + 3_600
    assert sendable(then, (begins, ends), ZONE) == then


def test_failed_sending_is_tried_again_and_given_up_at_last():
    assert [next_try(n, 0) for n in range(1, len(RETRIES) + 2)] == [*RETRIES, None]
