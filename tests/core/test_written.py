"""Amounts and days as people write them: worked cases, and what may mean two things is never guessed."""

from datetime import UTC, date, datetime
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.written import COMMA, DAY_FIRST, MONTH_FIRST, POINT, Ambiguous, Written, read_amount, read_day, told_by


@pytest.mark.parametrize(
    ("text", "amount", "currency"),
    [
        ("1.249,50", "1249.50", ""),
        ("£1,200.00", "1200.00", "GBP"),
        ("985", "985", ""),
        ("985.5", "985.5", ""),
        ("1 249,50 €", "1249.50", "EUR"),
        ("EUR 12", "12", "EUR"),
        ("1'249.50", "1249.50", ""),
        ("1.234.567", "1234567", ""),
        ("0,125", "0.125", ""),
        ("-12,5", "-12.5", ""),
        ("sek 1.299,-", None, ""),
    ],
)
def test_amounts_that_can_mean_one_thing_only(text, amount, currency):
    if amount is None:
        with pytest.raises(Ambiguous):
            read_amount(text)
        assert read_amount(text, Written(COMMA)) == (Decimal(1299), "SEK")
        return
    assert read_amount(text) == (Decimal(amount), currency)


@pytest.mark.parametrize("text", ["1.200", "1,200", "£12,000"])
def test_a_thousand_or_one_and_a_part_is_asked(text):
    with pytest.raises(Ambiguous) as caught:
        read_amount(text)
    assert caught.value.about == "decimals"
    point, comma = read_amount(text, Written(POINT))[0], read_amount(text, Written(COMMA))[0]
    assert {point, comma} == {point.normalize(), comma.normalize()}
    assert max(point, comma) == 1000 * min(point, comma)


@pytest.mark.parametrize("text", ["plenty", "1.2.3", "12,34,56.7", "1.249,50.1", "--5", ""])
def test_what_is_no_amount_is_refused(text):
    with pytest.raises(ValueError, match="no amount"):
        read_amount(text)


@given(st.integers(0, 10**9), st.integers(0, 99), st.sampled_from([(",", "."), (".", ","), ("'", "."), (" ", ",")]))
def test_what_is_written_with_groups_and_two_decimals_is_read_back(whole, part, signs):
    groups, decimal = signs
    text = f"{whole:,}".replace(",", groups) + f"{decimal}{part:02d}"
    assert read_amount(text)[0] == Decimal(whole) + Decimal(part) / 100


@pytest.mark.parametrize(
    ("text", "day"),
    [
        ("31/12/2026", date(2026, 12, 31)),
        ("12/31/2026", date(2026, 12, 31)),
        ("03.04.2026", date(2026, 4, 3)),
        ("5/5/26", date(2026, 5, 5)),
        ("3 April 2026", date(2026, 4, 3)),
        ("Apr 3, 2026", date(2026, 4, 3)),
    ],
)
def test_days_that_can_mean_one_day_only(text, day):
    assert read_day(text).date() == day


def test_a_day_or_a_month_first_is_asked_and_answered():
    with pytest.raises(Ambiguous) as caught:
        read_day("03/04/2026")
    assert caught.value.about == "dates"
    assert read_day("03/04/2026", Written(dates=DAY_FIRST)).date() == date(2026, 4, 3)
    assert read_day("03/04/2026 7:30", Written(dates=MONTH_FIRST)) == datetime(2026, 3, 4, 7, 30, tzinfo=UTC)
    with pytest.raises(ValueError, match="no day"):
        read_day("31/12/2026", Written(dates=MONTH_FIRST))
    assert read_day("tomorrow") is None


def test_other_values_of_a_column_tell_how_it_is_written_unless_they_disagree():
    assert told_by(["1.200", "1.249,50", "03/04/2026", "25/12/2026"]) == Written(COMMA, DAY_FIRST)
    assert told_by(["1.200", "03/04/2026"]) == Written()
    assert told_by(["1,5", "1.5"]) == Written()
    assert told_by(["1,234,567", "12/25/2026"]) == Written(POINT, MONTH_FIRST)
