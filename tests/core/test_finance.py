"""Money: worked examples with their arithmetic, and what holds of any terms."""

from datetime import date, timedelta
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.finance.depreciation import (
    CONVENTIONS,
    METHODS,
    DepreciationError,
    Plan,
    Revision,
    Terms,
    accumulated,
    book_value,
    by_fiscal_year,
    disposal,
    schedule,
    yearly,
)
from tarn.core.finance.many import accumulated_by_month, columns
from tarn.core.finance.money import MoneyError, from_minor, rates_of, read_rates, to_minor
from tarn.core.finance.payments import EVERY, Due, calendar_of, last_notice, notices_due, payments, same_day

JANUARY = date(2024, 1, 1)

terms_ = st.builds(
    lambda cost, share, *rest: Terms(cost, cost * share // 100, *rest),
    st.integers(0, 10**9),
    st.integers(0, 100),
    st.integers(1, 180),
    st.dates(date(2015, 1, 1), date(2027, 12, 31)),
    st.sampled_from(METHODS),
    st.sampled_from(CONVENTIONS),
    st.integers(100, 400),
)


@pytest.mark.parametrize(
    ("method", "amounts"),
    [
        # 1,000 less 100 over 5 years: 900 / 5 = 180 each.
        ("straight line", [180_00] * 5),
        # Twice a fifth, 40 %, of the book value: 1000 × .4, 600 × .4, 360 × .4, 216 × .4 = 86.40 (more than
        # (216 − 100) / 2 = 58); then 129.60 − 100 = 29.60, all that is left: straight line over one year.
        ("declining balance", [400_00, 240_00, 144_00, 86_40, 29_60]),
        # 5 + 4 + 3 + 2 + 1 = 15: 900 × 5/15, 4/15 …
        ("sum of years' digits", [300_00, 240_00, 180_00, 120_00, 60_00]),
    ],
)
def test_textbook_years(method, amounts):
    """Cost 1,000, residual 100, five years: the example textbooks carry for all three."""
    assert yearly(Terms(1_000_00, 100_00, 60, JANUARY, method)) == amounts


def test_declining_balance_changes_to_straight_line_in_the_year_that_is_more():
    """10,000 over 5 years to nothing, rate 40 %: 4,000; 2,400; 1,440; then 2,160 is left: 40 % is 864, straight line
    over two years 1,080 — so 1,080 and 1,080."""
    assert yearly(Terms(10_000_00, 0, 60, JANUARY, "declining balance")) == [
        4_000_00,
        2_400_00,
        1_440_00,
        1_080_00,
        1_080_00,
    ]


def test_years_digits_of_a_life_of_two_years_and_a_half():
    """Months left 30, 18, 6; together 54: 540 × 30/54 = 300, 180, 60, the last over half a year."""
    assert yearly(Terms(540_00, 0, 30, JANUARY, "sum of years' digits")) == [300_00, 180_00, 60_00]


def test_mid_month_as_the_published_table_has_it():
    """27½ years, in service in January: 3.485 % the first year, 3.636 % the second (IRS Publication 946, table A-6)."""
    lines = schedule(Plan(Terms(100_000_00, 0, 330, date(2024, 1, 20), convention="mid-month")), JANUARY, 24)
    assert {y: one.charge for y, one in by_fiscal_year(lines).items()} == {2024: 3_484_85, 2025: 3_636_36}


def test_by_day_a_leap_year_is_spread_over_its_days():
    """366.00 over 12 months from 1 March 2023: 366 days, 1.00 a day; 31 + 30 days by the end of April."""
    plan = Plan(Terms(366_00, 0, 12, date(2023, 3, 1), convention="by day"))
    assert [line.charge for line in schedule(plan, date(2023, 2, 1), 3)] == [0, 31_00, 30_00]
    assert book_value(plan, date(2024, 2, 29)) == 0


def test_fiscal_years_begin_where_the_company_says():
    """1,200 over a year from October 2024, 100 a month: nine months of it in the year that begins in July."""
    lines = schedule(Plan(Terms(1_200_00, 0, 12, date(2024, 10, 9))), date(2024, 10, 1), 12)
    assert {y: one.charge for y, one in by_fiscal_year(lines, 7).items()} == {2025: 900_00, 2026: 300_00}


def test_a_longer_life_spreads_what_is_left():
    """3,600 over 36 months; after 12 (2,400 left) 48 more are expected: 50 a month from then on."""
    plan = Plan(Terms(3_600_00, 0, 36, JANUARY), (Revision(date(2025, 1, 15), 48, 0),))
    assert [line.charge for line in schedule(plan, date(2024, 12, 1), 3)] == [100_00, 50_00, 50_00]
    assert book_value(plan, date(2028, 12, 31)) == 0


def test_what_comes_of_parting_with_it():
    """3,600 over 36 months, sold in month 13 for 2,500: 2,400 stood in the books, 100 gained; 50 of costs halve it."""
    plan = Plan(Terms(3_600_00, 0, 36, JANUARY))
    assert disposal(plan, date(2025, 1, 20), 2_500_00).gain == 100_00
    assert disposal(plan, date(2025, 1, 20), 2_500_00, 50_00).gain == 50_00
    half = Plan(Terms(3_600_00, 0, 36, JANUARY, convention="mid-month"))
    # Half of the first month, eleven whole ones, half of the thirteenth: 12 × 100.
    assert disposal(half, date(2025, 1, 20), 0).book == 2_400_00
    gone = Plan(plan.terms, disposed=date(2025, 1, 20))
    assert book_value(gone, date(2025, 1, 20)) == 0
    month, after = schedule(gone, date(2025, 1, 1), 2)
    assert (month.charge, month.derecognised, after.charge, after.derecognised) == (0, 2_400_00, 0, 0)
    later = Plan(plan.terms, disposed=date(2025, 4, 20))
    # Three months of 2025 are written down, 2,100 leave the books with it: two figures, not one.
    assert by_fiscal_year(schedule(later, JANUARY, 24))[2025] == (300_00, 2_100_00)


@given(terms_)
@settings(max_examples=200)
def test_all_of_it_goes_and_never_backwards(terms):
    lines = schedule(Plan(terms), terms.start, terms.months + 1)
    assert sum(line.charge for line in lines) == terms.cost - terms.residual
    assert all(line.charge >= 0 for line in lines)
    assert accumulated(Plan(terms), terms.start - timedelta(days=1)) == 0
    assert sum(yearly(terms)) == terms.cost - terms.residual


@given(st.lists(terms_, min_size=1, max_size=12))
@settings(max_examples=100)
def test_many_at_once_say_the_same_to_the_cent(some):
    table = accumulated_by_month(columns(some), "2019-06", 150)
    one_by_one = [[line.accumulated for line in schedule(Plan(t), date(2019, 6, 1), 150)] for t in some]
    assert np.array_equal(table.T, np.array(one_by_one))


@pytest.mark.parametrize(
    ("field", "change"),
    [
        ("months", {"months": 0}),
        ("residual", {"residual": 1_001}),
        ("cost", {"cost": -1, "residual": -1}),
        ("factor", {"method": "declining balance", "factor": 20}),
        ("method", {"method": "by guess"}),
        ("convention", {"convention": "by moon"}),
    ],
)
def test_terms_that_cannot_be(field, change):
    with pytest.raises(DepreciationError) as wrong:
        Terms(**{"cost": 1_000, "residual": 0, "months": 36, "start": JANUARY, **change})
    assert wrong.value.field == field


def test_a_change_before_the_start_is_refused():
    with pytest.raises(DepreciationError, match="does not come after"):
        book_value(Plan(Terms(100, 0, 12, JANUARY), (Revision(JANUARY, 24, 0),)), JANUARY)


def test_amounts_are_exact_and_as_fine_as_their_currency():
    assert to_minor("1250.05", "EUR") == 125005
    assert to_minor("1250", "JPY") == 1250
    assert from_minor(125005, "EUR") == Decimal("1250.05")
    for amount, currency in (("0.005", "EUR"), ("1.5", "JPY"), ("much", "EUR"), ("1", "EURO"), ("Infinity", "EUR")):
        with pytest.raises(MoneyError):
            to_minor(amount, currency)


def test_a_rate_is_that_of_the_day_or_the_last_before_it():
    rates = rates_of("EUR", read_rates("date;currency;rate\n2026-01-02;NOK;11.5\n2026-02-01;nok;11.8\n", "EUR"))
    assert rates.at("NOK", date(2026, 1, 31)) == Decimal("11.5")
    assert rates.convert(115_00, "NOK", "EUR", date(2026, 1, 31)) == 10_00
    assert rates.convert(10_00, "EUR", "NOK", date(2026, 6, 1)) == 118_00
    with pytest.raises(MoneyError, match="the first known is of 2026-01-02"):
        rates.at("NOK", date(2026, 1, 1))
    with pytest.raises(MoneyError, match="no rate of SEK"):
        rates.convert(1, "SEK", "EUR", date(2026, 6, 1))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("date,rate\n", "line 1: no column “currency”"),
        ("date,currency,rate\n2026-01-01,NOK,\n", "line 2"),
        ("date,currency,rate\n2026-01-01,NOK,-1\n", "line 2: a rate is more than nothing"),
        ("date,currency,rate\n2026-01-01,EUR,2\n", "its rate is 1"),
        ("date,currency,rate\n2026-01-01,NOK,NaN\n", "line 2"),
        (" ", "empty"),
    ],
)
def test_a_file_of_rates_that_cannot_be_read_says_where(text, says):
    with pytest.raises(MoneyError, match=says):
        read_rates(text, "EUR")


def test_payments_of_a_quarter_keep_the_last_of_the_month_and_stop_at_the_end():
    due = Due("printers", 400_00, "EUR", date(2025, 11, 30), "quarter", end=date(2026, 8, 30))
    told = payments(due, date(2026, 1, 1), date(2027, 12, 31))
    assert [p.day for p in told] == [date(2026, 2, 28), date(2026, 5, 30), date(2026, 8, 30)]
    assert not any(p.renewal for p in told)
    renewed = payments(Due("printers", 400_00, "EUR", date(2025, 11, 30), "quarter", date(2026, 8, 30), True),
                       date(2026, 8, 1), date(2026, 12, 31))  # fmt: skip
    assert [(p.day, p.renewal) for p in renewed] == [(date(2026, 8, 30), False), (date(2026, 11, 30), True)]


def test_the_calendar_keeps_currencies_apart_and_empty_months():
    dues = [Due("a", 5, "EUR", date(2026, 1, 31), "month"), Due("b", 7, "NOK", date(2026, 2, 1), "once")]
    assert calendar_of(dues, date(2026, 1, 15), 3) == {
        (2026, 1): {"EUR": 5},
        (2026, 2): {"EUR": 5, "NOK": 7},
        (2026, 3): {"EUR": 5},
    }
    assert calendar_of([], date(2026, 12, 1), 2) == {(2026, 12): {}, (2027, 1): {}}


@given(
    st.lists(
        st.builds(
            lambda first, every, length, renews: Due(
                "d", 7, "EUR", first, every, length and first + timedelta(length), renews
            ),
            st.dates(date(2023, 1, 1), date(2028, 12, 31)),
            st.sampled_from(EVERY),
            st.none() | st.integers(1, 900),
            st.booleans(),
        ),
        max_size=5,
    ),
    st.dates(date(2025, 1, 1), date(2026, 12, 31)),
)
@settings(max_examples=150)
def test_the_calendar_sums_what_the_payments_are(dues, since):
    begins, until = since.replace(day=1), date.fromordinal(same_day(since.replace(day=1), 24).toordinal() - 1)
    told = [p for due in dues for p in payments(due, begins, until)]
    for (year, month), sums in calendar_of(dues, since, 24).items():
        assert sums.get("EUR", 0) == sum(p.amount for p in told if (p.day.year, p.day.month) == (year, month))


def test_each_notice_is_told_once_also_after_a_day_when_nothing_ran():
    end, told, was = date(2026, 12, 31), [], date(2026, 9, 1)
    assert last_notice(end, 90) == date(2026, 10, 2)
    for today in (date(2026, 10, 1), date(2026, 10, 2), date(2026, 11, 18), date(2026, 12, 16), date(2026, 12, 31)):
        told.append(notices_due(end, (14, 90, 45), was, today))
        was = today
    assert told == [[], [90], [45], [], [14]]
    assert notices_due(end, (90,), date(2026, 9, 1), date(2027, 1, 1)) == []
