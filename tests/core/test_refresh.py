"""The refresh plan: when a device is due and why, and how far a quarter's budget reaches."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.refresh import NEVER, Fleet, RefreshError, Settings, plan

NOW = 12 * 56 + 10  # November 2026: its quarter begins in October
QUARTER = NOW - NOW % 3


def fleet(*rows):
    """Rows of kind, month bought, warranty, support, faults, memory, exposed, important."""
    kinds = sorted({r[0] for r in rows})
    at = list(zip(*rows, strict=True))
    return Fleet(
        asset=np.arange(len(rows)),
        kind=np.array([kinds.index(k) for k in at[0]]),
        kinds=kinds,
        month=np.array(at[1]),
        bought=np.array([m >= 0 for m in at[1]]),
        warranty=np.array(at[2]),
        support=np.array(at[3]),
        faults=np.array(at[4]),
        memory=np.array(at[5], dtype=float),
        exposed=np.array(at[6]),
        important=np.array(at[7]),
    )


def one(month=NOW - 40, warranty=-1, support=-1, faults=0, memory=16.0, exposed=False, important=False):
    return ("laptop", month, warranty, support, faults, memory, exposed, important)


WEIGHTS = {"warranty": 6, "faults": 2, "memory": 4, "exposed": 3, "important": 1}


@pytest.mark.parametrize(
    ("row", "due"),
    [
        (one(), NOW - 40 + 48),
        # Over by then: 8 months on less 6 is 2 months on, and the warranty was over long before.
        (one(warranty=NOW - 3), NOW + 2),
        # 6 months earlier would be before its warranty is over: the month after that.
        (one(warranty=NOW + 4), NOW + 5),
        # It ends after the life does: nothing is earlier.
        (one(warranty=NOW + 9), NOW + 8),
        (one(faults=2), NOW + 4),
        (one(memory=4), NOW + 4),
        (one(memory=0), NOW + 8),  # not known is not too little
        (one(exposed=True), NOW + 5),
        (one(important=True), NOW + 7),
        (one(faults=1, memory=4, exposed=True), NOW + 8 - 2 - 4 - 3),
        (one(support=NOW + 1), NOW + 1),
        (one(support=NOW + 30), NOW + 8),
        (one(month=-1), NEVER),
        (one(month=-1, support=NOW + 7), NOW + 7),
    ],
)
def test_when_a_device_is_due(row, due):
    made = plan(fleet(row), Settings(life={"laptop": 48}, memory={"laptop": 8}, earlier=WEIGHTS), NOW)
    assert int(made.due[0]) == due


def test_a_budget_takes_the_longest_due_first_and_passes_over_what_does_not_fit():
    """Due in this order: server 5000, laptop 900, laptop 900, laptop 900. Of 2000 the server is passed over."""
    rows = [("server", NOW - 90, -1, -1, 0, 0, False, False), *[one(month=NOW - 60 + n) for n in range(3)]]
    settings = Settings(
        life={"laptop": 48, "server": 60},
        price={"laptop": 900, "server": 5000},
        budgets=(2000, 2000, 5900),
        quarters=4,
    )
    made = plan(fleet(*rows), settings, NOW)
    assert list(made.quarter) == [2, 0, 0, 1]
    assert made.spent == [1800, 900, 5000, 0]
    assert made.waiting == [2, 1, 0, 0]


def test_without_a_price_it_is_planned_when_due_and_told():
    made = plan(fleet(one(month=NOW - 60)), Settings(life={"laptop": 48}, budgets=(0,)), NOW)
    assert (list(made.quarter), made.spent[0], list(made.unpriced)) == ([0], 0, [True])


rows_ = st.lists(
    st.tuples(
        st.sampled_from(["laptop", "server"]),
        st.integers(NOW - 100, NOW),
        st.integers(-1, NOW + 30),
        st.integers(NOW - 20, NOW + 60),
        st.integers(0, 3),
        st.sampled_from([0.0, 4.0, 32.0]),
        st.booleans(),
        st.booleans(),
    ),
    min_size=1,
    max_size=30,
)


@given(rows_, st.lists(st.integers(0, 4000), min_size=1, max_size=5))
def test_no_quarter_costs_more_than_its_budget_and_nothing_is_planned_before_it_is_due(rows, budgets):
    settings = Settings(price={"laptop": 900, "server": 2500}, earlier=WEIGHTS, budgets=tuple(budgets), quarters=6)
    held = fleet(*rows)
    made = plan(held, settings, NOW)
    for number, spent in enumerate(made.spent):
        assert spent <= settings.budget(number)
        assert spent == int(made.price[made.quarter == number].sum())
        ends = QUARTER + 3 * (number + 1)
        assert (made.due[made.quarter == number] < ends).all()
        # What waits was due, and what was left of the budget does not reach for the cheapest of it.
        waits = (made.due < ends) & ((made.quarter < 0) | (made.quarter > number))
        assert int(waits.sum()) == made.waiting[number]
        assert not waits.any() or settings.budget(number) - spent < int(made.price[waits].min())


@given(rows_)
def test_without_a_limit_nothing_waits(rows):
    made = plan(fleet(*rows), Settings(price={"laptop": 900, "server": 2500}), NOW)
    assert made.waiting == [0] * 8
    assert ((made.quarter >= 0) == (made.due < QUARTER + 24)).all()


@pytest.mark.parametrize(
    ("told", "field"),
    [
        ({"life": {"laptop": 0}}, "life"),
        ({"price": {"laptop": -1}}, "price"),
        ({"earlier": {"moon": 1}}, "earlier"),
        ({"earlier": {"faults": -1}}, "earlier"),
        ({"quarters": 0}, "quarters"),
        ({"budgets": ()}, "budgets"),
        ({"budgets": (-5,)}, "budgets"),
    ],
)
def test_settings_that_cannot_be(told, field):
    with pytest.raises(RefreshError) as error:
        Settings(**told)
    assert error.value.field == field
