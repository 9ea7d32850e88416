"""Steps between states: what may be taken from where, what each needs and does, and books that cannot be."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.kinds import STATES
from tarn.core.lifecycle import (
    SHIPPED,
    Given,
    StepError,
    as_rows,
    check_step,
    facts_of,
    read_book,
    step_named,
    steps_from,
)

DAY = date(2026, 11, 2)


def refused(name, said, states=None):
    with pytest.raises(StepError) as error:
        check_step(step_named(SHIPPED, name), said, states or {"in stock": ["salt-nb-01"]}, DAY)
    return error.value


def test_a_book_is_read_back_as_it_was_written():
    assert read_book(as_rows(SHIPPED)) == SHIPPED


def test_every_state_is_led_to_and_from_where_people_may_take_it():
    """`missing` is only ever said by systems; from `disposed` nothing leads on."""
    assert {s.to for s in SHIPPED} == set(STATES) - {"missing"}
    assert {b for s in SHIPPED for b in s.begins if b} == set(STATES) - {"disposed"}


@given(st.sets(st.sampled_from(["", *STATES]), min_size=1, max_size=3))
def test_a_step_open_to_several_states_is_open_to_each(states):
    for step in steps_from(SHIPPED, states):
        assert states <= set(step.begins)
    each = [set(steps_from(SHIPPED, {s})) for s in states]
    assert set(steps_from(SHIPPED, states)) == set.intersection(*each)


def test_lending_needs_a_person_and_a_day_to_come():
    assert refused("lend", Given()).field == "person"
    assert refused("lend", Given(person="Asa Wren")).field == "due"
    assert "2026-11-01 is over" in str(refused("lend", Given(person="Asa Wren", due=date(2026, 11, 1))))
    check_step(step_named(SHIPPED, "lend"), Given(person="Asa Wren", due=DAY), {"in stock": ["a"]}, DAY)


def test_handing_over_needs_one_of_three_receivers():
    assert "a person, a place or a department" in str(refused("hand over", Given()))
    for one in ("person", "place", "department"):
        check_step(step_named(SHIPPED, "hand over"), Given(**{one: "x"}), {"in stock": ["a"]}, DAY)


def test_disposing_needs_a_method_and_an_erasure_record():
    assert refused("dispose of", Given()).field == "method"
    assert refused("dispose of", Given(method="recycler")).field == "erasure"
    assert refused("retire", Given(why="old", proceeds=100)).field == "proceeds"


def test_a_step_from_the_wrong_state_names_the_assets():
    said = str(refused("lend", Given(person="A", due=DAY), {"retired": ["n1", "n2", "n3", "n4", "n5"]}))
    assert "n1, n2, n3 and 2 more are retired" in said
    assert "taken from: in stock, in use" in said


def test_what_a_step_says_of_an_asset():
    lend = facts_of(step_named(SHIPPED, "lend"), Given(person="Asa Wren", due=DAY), 1_793_620_800)
    assert lend == {"state": "on loan", "person": "Asa Wren", "due_back": 1_793_620_800}
    back = facts_of(step_named(SHIPPED, "take back"), Given(condition="scratched", place="Store"), None)
    assert back == {"state": "in stock", "person": "", "due_back": None, "place": "Store"}
    room = facts_of(step_named(SHIPPED, "hand over"), Given(place="Bridge"), None)
    assert room == {"state": "in use", "person": "", "place": "Bridge", "due_back": None}


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": " "}, "needs a name"),
        ({"begins": []}, "from which states"),
        ({"to": "gone"}, "“gone” is no state"),
        ({"needs": ["blood"]}, "can be needed"),
        ({"clears": ["name"]}, "can be taken away"),
        ({"hands": "throws"}, "gives, returns"),
        ({"hands": "gives", "needs": []}, "somebody who gets it"),
        ({"hands": "", "needs": ["due"]}, "until when"),
        ({"name": "order"}, "there twice"),
    ],
)
def test_books_that_cannot_be(change, said):
    rows = as_rows(SHIPPED)
    rows[4] |= change
    with pytest.raises(StepError, match=said):
        read_book(rows)
