"""Terms of contracts by hand."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.finance.contracts import Agreed, standing

YEAR = Agreed(date(2024, 1, 1), date(2024, 12, 31), 12, 60)


@pytest.mark.parametrize(
    ("agreed", "day", "state", "ends", "notice_by", "times"),
    [
        (YEAR, date(2023, 12, 31), "to come", date(2024, 12, 31), date(2024, 11, 1), 0),
        (YEAR, date(2024, 12, 31), "in force", date(2024, 12, 31), date(2024, 11, 1), 0),
        # The day after, the next term runs, to 31 December 2025; 60 days before that is 1 November.
        (YEAR, date(2025, 1, 1), "in force", date(2025, 12, 31), date(2025, 11, 1), 1),
        (YEAR, date(2027, 6, 1), "in force", date(2027, 12, 31), date(2027, 11, 1), 3),
        (Agreed(date(2024, 1, 1), date(2024, 12, 31)), date(2025, 1, 1), "over", date(2024, 12, 31), None, 0),
        (Agreed(date(2024, 1, 1), None), date(2040, 1, 1), "in force", None, None, 0),
        # A month at a time from the end of January: the terms end on the last of each month, leap years too.
        (Agreed(date(2023, 2, 1), date(2024, 1, 31), 1), date(2024, 2, 10), "in force", date(2024, 2, 29), date(2024, 2, 29), 1),
    ],
)  # fmt: skip
def test_how_a_contract_stands(agreed, day, state, ends, notice_by, times):
    found = standing(agreed, day)
    assert (found.state, found.ends, found.notice_by, found.times) == (state, ends, notice_by, times)


@given(st.integers(1, 36), st.integers(0, 4000), st.dates(date(2020, 1, 1), date(2024, 1, 1)))
def test_the_term_in_force_holds_the_day_and_no_shorter_one_does(months, later, ends):
    agreed = Agreed(date(2019, 1, 1), ends, months, 0)
    day = ends + timedelta(days=later)
    found = standing(agreed, day)
    assert found.state == "in force"
    assert found.ends >= day
    before = standing(agreed, found.ends + timedelta(days=1))
    assert before.times == found.times + 1
