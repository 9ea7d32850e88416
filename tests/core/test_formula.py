"""Formulas: the same as arithmetic says, unknown where something is not known, and never more than arithmetic."""

import math
from datetime import date, timedelta

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tarn.core.formula import TODAY, Formula, FormulaError

NAMES = ("memory", "asset.cores", 'field("Berth")')
KEYS = {"memory": "memory", "asset.cores": "asset.cores", 'field("Berth")': "field:Berth"}
leaves = st.one_of(
    st.integers(0, 1_000).map(str),
    st.floats(0, 100, allow_nan=False).map(lambda x: f"{x:.3f}"),
    st.sampled_from(NAMES),
)
arithmetic = st.recursive(
    leaves,
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
        inner.map(lambda t: f"-{t}"),
    ),
    max_leaves=8,
)
rows = st.fixed_dictionaries({key: st.none() | st.integers(-50, 50) for key in KEYS.values()})


def by_hand(text, row):
    """What Python says of the same arithmetic; None where something is unknown or divided by nothing."""
    for name, key in KEYS.items():
        if name in text:
            if row[key] is None:
                return None
            text = text.replace(name, f"({row[key]})")
    try:
        return eval(text, {"__builtins__": {}})  # noqa: S307  (numbers and signs made above, nothing else)
    except ZeroDivisionError:
        return None


@given(arithmetic, rows)
def test_it_is_reckoned_as_arithmetic_is(text, row):
    expected, got = by_hand(text, row), Formula(text, "cost").value(row)
    if expected is None:
        assert got is None
    else:
        assume(math.isfinite(expected))
        assert got == pytest.approx(expected, abs=1e-5, rel=1e-9)


@given(arithmetic)
def test_it_says_which_columns_it_needs(text):
    assert Formula(text, "cost").names == {KEYS[name] for name in NAMES if name in text}


@given(st.dates(date(1970, 1, 1), date(2099, 1, 1)), st.integers(0, 20_000))
def test_one_day_from_another_is_days(begins, days):
    row = {"bought": begins.isoformat(), TODAY: (begins + timedelta(days)).isoformat()}
    assert Formula("today - bought", "age", ["bought"]).value(row) == days
    assert Formula("(today - bought) / 365", "age", ["bought"]).value(row) == pytest.approx(days / 365, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("memory +", "breaks off at character"),
        ("__import__('os')", "is no arithmetic"),
        ("memory.__class__", "is no arithmetic"),
        ("memory ** 2", "is no arithmetic"),
        ("[memory]", "is no arithmetic"),
        ("memory if cores else 1", "is no arithmetic"),
        ("'text'", "is no arithmetic"),
        ("True", "is no arithmetic"),
        ("lambda: 1", "is no arithmetic"),
        ('field("a", "b")', "is no arithmetic"),
        ("today", "the result is a day"),
        ("today + bought", "only taken from another day"),
        ("today * 2", "only taken from another day"),
        ("-today", "a day has no opposite"),
    ],
)
def test_what_is_no_arithmetic_is_refused_at_its_place(text, says):
    if text == "memory.__class__":
        # A name with dots is a column's name, and nothing is looked up in it.
        assert Formula(text, "cost").value({"memory": 4}) is None
        return
    with pytest.raises(FormulaError, match=f"cost: .*{says}"):
        Formula(text, "cost", ["bought"])


@pytest.mark.parametrize("value", [None, "many", True, "2026-13-01", [], {}])
def test_what_is_no_number_is_not_known(value):
    assert Formula("memory + 1", "cost").value({"memory": value}) is None
