"""Cards of boards: which hang together, and the days of a line."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from tarn.core.cards import DAY, MOST_POINTS, SHOWN, Card, CardError, checked, days_of


@pytest.mark.parametrize(
    ("said", "field"),
    [
        ({"of": "report", "shown": "line", "report": "late"}, "shown"),
        ({"of": "report", "shown": "list"}, "report"),
        ({"of": "text", "shown": "text", "text": "  "}, "text"),
        ({"shown": "bars"}, "by"),
        ({"shown": "heat", "by": "kind"}, "and_by"),
        ({"shown": "ring"}, "by"),
    ],
)
def test_what_does_not_hang_together_is_named(said, field):
    with pytest.raises(CardError) as refused:
        checked(Card(key="c", **said))
    assert refused.value.field == field


@pytest.mark.parametrize("said", [{"key": "a b"}, {"key": ""}, {"wide": 9}, {"days": 0}, {"colour": "red"}])
def test_what_has_no_shape_of_a_card_is_refused(said):
    with pytest.raises(ValidationError):
        Card.model_validate({"key": "c", **said})


def test_every_way_of_showing_can_be_had():
    whole = {"by": "kind", "and_by": "place", "report": "late", "text": "words"}
    for of, ways in SHOWN.items():
        for shown in ways:
            assert checked(Card(key="c", of=of, shown=shown, **whole)).shown == shown
    assert checked(Card(key="share", shown="ring", filter="kind = laptop", whole="kind = laptop")).by == ""


@given(st.integers(10**9, 2 * 10**9), st.integers(1, 730))
def test_a_line_begins_and_ends_on_its_days_and_goes_forward(until, days):
    told = days_of(until, days)
    assert (told[0], told[-1]) == ((until - days * DAY) // DAY * DAY, until)
    assert all(moment % DAY == 0 for moment in told[:-1])
    assert len(told) == min(MOST_POINTS, days + 1)
    assert told == sorted(set(told))
