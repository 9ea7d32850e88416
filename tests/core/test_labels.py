"""Labels: where they lie on their sheets, and codes that tell when they are mistyped."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.labels import LENGTH, SHEETS, LabelError, check_character, new_code, places, read_code


@given(st.sampled_from(sorted(SHEETS)), st.integers(1, 200), st.data())
def test_labels_lie_on_their_page_and_on_no_other_label(key, number, data):
    sheet = SHEETS[key]
    begin = data.draw(st.integers(1, sheet.of_page))
    told = list(places(sheet, number, begin))
    assert len(told) == number
    assert told[0].page == 0
    assert told[-1].page == (begin - 1 + number - 1) // sheet.of_page
    met = set()
    for at in told:
        assert at.left >= -0.01
        assert at.top >= -0.01
        assert at.left + sheet.label[0] <= sheet.page[0] + 0.01
        assert at.top + sheet.label[1] <= sheet.page[1] + 0.01
        # Two labels of a page are at least a label apart, in one direction or the other.
        for other in met:
            if other.page == at.page:
                apart = (
                    abs(other.left - at.left) >= sheet.label[0] - 0.01,
                    abs(other.top - at.top) >= sheet.label[1] - 0.01,
                )
                assert any(apart)
        met.add(at)


def test_labels_are_moved_and_begin_where_the_sheet_is_still_whole():
    sheet = SHEETS["a4-24"]
    fourth = list(places(sheet, 5))[3]
    (first, *_) = places(sheet, 1, begin=4, moved=(1.5, -2))
    assert (first.left, first.top) == (fourth.left + 1.5, fourth.top - 2)


@pytest.mark.parametrize(
    ("number", "begin", "moved", "field"),
    [(1, 0, (0, 0), "begin"), (1, 25, (0, 0), "begin"), (0, 1, (0, 0), "filter"), (9999, 1, (0, 0), "filter"), (1, 1, (0, 99), "moved")],
)  # fmt: skip
def test_what_cannot_be_printed_is_named(number, begin, moved, field):
    with pytest.raises(LabelError) as refused:
        list(places(SHEETS["a4-24"], number, begin, moved))
    assert refused.value.field == field


def test_the_check_character_is_that_of_the_standard():
    # The worked example of ISO/IEC 7064, MOD 37,36, as the GRid standard prints it.
    assert check_character("A12425GABC1234002") == "M"


def test_a_code_is_read_however_it_is_written():
    code = new_code()
    assert len(code) == LENGTH
    assert read_code(f" {code[:3].lower()}-{code[3:6]} {code[6:]}") == code
    for wrong in ("", "short", code + "A", code[:-1] + "?"):
        with pytest.raises(LabelError):
            read_code(wrong)


@given(st.integers(0, LENGTH - 1), st.sampled_from("23456789ABCDEFGHJKLMNPQRSTUVWXYZ"))
def test_one_wrong_character_is_always_noticed(place, other):
    code = new_code()
    wrong = code[:place] + other + code[place + 1 :]
    if wrong != code:
        with pytest.raises(LabelError):
            read_code(wrong)


@given(st.integers(0, LENGTH - 2))
def test_two_characters_that_changed_places_are_noticed(place):
    code = new_code()
    wrong = code[:place] + code[place + 1] + code[place] + code[place + 2 :]
    if wrong != code:
        with pytest.raises(LabelError):
            read_code(wrong)
