"""Whether a device is in cover, by all that answers for it."""

from datetime import date

import pytest

from tarn.core.cover import Cover, verdict

DAY = date(2026, 11, 2)


def over(ends, begins=date(2024, 1, 1), **more):
    return Cover("Return to bench", "warranty service Halberd", begins, ends, **more)


@pytest.mark.parametrize(
    ("covers", "in_cover", "days", "says"),
    [
        ([], False, None, "Nothing is known"),
        ([over(date(2026, 11, 2))], True, 0, "today is the last day"),
        ([over(date(2026, 11, 3))], True, 1, "1 day left"),
        ([over(date(2026, 11, 1))], False, 0, "Out of cover since 2026-11-01"),
        ([over(date(2025, 1, 1)), over(date(2026, 1, 1))], False, 0, "since 2026-01-01"),
        ([over(date(2025, 1, 1)), over(date(2027, 11, 2), claim="Call 12")], True, 365, "365 days left. Call 12."),
        ([over(None)], True, None, "without an end"),
        ([over(date(2029, 1, 1), begins=date(2026, 12, 1))], False, None, "has not begun"),
    ],
)
def test_the_verdict(covers, in_cover, days, says):
    told = verdict(covers, DAY)
    assert (told.in_cover, told.days_left) == (in_cover, days)
    assert says in told.says
