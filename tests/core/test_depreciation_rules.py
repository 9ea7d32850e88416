"""Rules of depreciation: changes of a class in mid-course by hand, and many assets at once as one by one."""

from datetime import date, timedelta
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.finance.depreciation import CONVENTIONS, METHODS, DepreciationError, book_value, schedule
from tarn.core.finance.many import books, charges
from tarn.core.finance.rules import DepreciationRule, RuleChange, plan_for, residual_of


def test_a_longer_life_spreads_what_is_left():
    """1,200 over 36 months is 33.33 a month. After 12 months 800 are left; with 48 in all 36 are left: 22.22 a month.

    The year's 266.67 ends its months at 22.22 (22.2225), 44.45 (44.445), 66.67 (66.6675).
    """
    rule = DepreciationRule("Laptops", 36, changes=(RuleChange(date(2025, 1, 10), 48, 0),))
    plan = plan_for(rule, 1_200_00, date(2024, 1, 5))
    assert book_value(plan, date(2024, 12, 31)) == 800_00
    assert [m.charge for m in schedule(plan, date(2025, 1, 1), 3)] == [22_22, 22_23, 22_22]
    assert book_value(plan, date(2027, 12, 31)) == 0
    assert book_value(plan, date(2026, 12, 31)) == 800_00 - 2 * 266_67 + 1


def test_what_begins_after_a_change_has_its_terms_from_the_start():
    rule = DepreciationRule("Laptops", 36, changes=(RuleChange(date(2025, 1, 10), 48, 1_000),))
    plan = plan_for(rule, 1_000_00, date(2025, 2, 1))
    assert (plan.terms.months, plan.terms.residual, plan.revisions) == (48, 100_00, ())


def test_a_shorter_life_that_is_over_already_is_written_down_in_one_month():
    rule = DepreciationRule("Laptops", 36, changes=(RuleChange(date(2025, 1, 1), 6, 0),))
    plan = plan_for(rule, 1_200_00, date(2024, 1, 1))
    assert schedule(plan, date(2025, 1, 1), 2)[0].charge == 800_00
    assert book_value(plan, date(2025, 1, 31)) == 0


def test_a_change_after_the_life_is_over_changes_nothing():
    rule = DepreciationRule("Laptops", 12, changes=(RuleChange(date(2026, 1, 1), 48, 0),))
    assert plan_for(rule, 1_200_00, date(2024, 1, 1)).revisions == ()


def test_of_two_changes_within_a_month_the_later_holds():
    """1,200 over 12 months from January; by the end of June 600 is left, over 24 months in all: 18 more of 33.33."""
    changes = (RuleChange(date(2025, 7, 1), 13, 1_000), RuleChange(date(2025, 7, 20), 24, 0))
    plan = plan_for(DepreciationRule("Laptops", 12, changes=changes), 1_200_00, date(2025, 1, 1))
    assert [(r.day, r.months_left, r.residual) for r in plan.revisions] == [(date(2025, 7, 20), 18, 0)]
    assert book_value(plan, date(2025, 7, 31)) == 566_67


def test_residual_values_are_shares_rounded_half_up():
    assert residual_of(333_33, 1_000) == 33_33
    assert residual_of(5, 5_000) == 3  # 2.5


@pytest.mark.parametrize(
    ("told", "field"),
    [
        ({"months": 0}, "months"),
        ({"months": 36, "residual": 10_001}, "residual"),
        ({"months": 36, "method": "guess"}, "method"),
        ({"months": 36, "changes": (RuleChange(date(2025, 1, 1), 0, 0),)}, "months"),
        ({"months": 36, "changes": (RuleChange(date(2025, 1, 1), 9, 0),) * 2}, "changes"),
    ],
)
def test_rules_that_cannot_be(told, field):
    with pytest.raises(DepreciationError) as error:
        DepreciationRule("x", **told)
    assert error.value.field == field


plans_ = st.builds(
    lambda cost, share, months, start, method, convention, changes, disposed: plan_for(
        DepreciationRule("x", months, share, method, convention, 200, changes),
        cost,
        start,
        None if disposed is None else start + timedelta(days=disposed),
    ),
    st.integers(0, 10**7),
    st.integers(0, 10_000),
    st.integers(1, 120),
    st.dates(date(2019, 1, 1), date(2026, 12, 31)),
    st.sampled_from(METHODS),
    st.sampled_from(CONVENTIONS),
    st.lists(
        st.builds(
            RuleChange, st.dates(date(2019, 1, 1), date(2028, 1, 1)), st.integers(1, 120), st.integers(0, 10_000)
        ),
        max_size=2,
        unique_by=lambda c: c.day,
    ).map(lambda some: tuple(sorted(some, key=lambda c: c.day))),
    st.one_of(st.none(), st.integers(0, 2_000)),
)


@settings(max_examples=200)
@given(st.lists(plans_, min_size=1, max_size=6), st.dates(date(2019, 1, 1), date(2030, 12, 31)))
def test_many_at_once_are_as_one_by_one(plans, day):
    assert books(plans, day) == [book_value(p, day) for p in plans]
    assert charges(plans, day) == [schedule(p, day.replace(day=1), 1)[0].charge for p in plans]


@settings(max_examples=200)
@given(plans_)
def test_whatever_changes_nothing_is_lost(plan):
    """Book values only fall, from the cost to what is left in the end, and never below nothing."""
    lines = schedule(plan, plan.terms.start, 12 * 24)
    books_ = [line.book for line in lines]
    assert all(a >= b for a, b in pairwise(books_))
    assert min(books_) >= 0
    assert sum(line.charge + line.derecognised for line in lines) == plan.terms.cost - books_[-1]
