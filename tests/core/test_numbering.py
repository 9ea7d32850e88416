"""Check digits: published examples, and every slip of one figure found."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.numbering import CHECKS, Scheme, SchemeError, checked_scheme, luhn, mod_11_10


def test_published_examples():
    assert mod_11_10("0794") == "5"  # ISO/IEC 7064, the standard's own example
    assert luhn("7992739871") == "3"  # the customary example of ISO/IEC 7812-1


@pytest.mark.parametrize("check", [c for c in CHECKS if c != "none"])
@given(running=st.integers(0, 99_999), place=st.integers(0, 4), other=st.integers(1, 9))
def test_a_figure_that_is_mistyped_is_found(check, running, place, other):
    scheme = Scheme("SF-", 5, check)
    said = scheme.number(running)
    assert scheme.holds(said.lower())
    at = len("SF-") + place
    wrong = said[:at] + str((int(said[at]) + other) % 10) + said[at + 1 :]
    assert not scheme.holds(wrong)


@pytest.mark.parametrize(
    ("prefix", "digits", "check", "field"),
    [
        ("X", 0, "none", "digits"),
        ("X", 5, "sums", "check"),
        ("a b", 5, "none", "prefix"),
        ("Ö-", 5, "mod 37,36", "prefix"),
    ],
)
def test_a_scheme_that_cannot_be_is_refused(prefix, digits, check, field):
    with pytest.raises(SchemeError) as refused:
        checked_scheme(prefix, digits, check)
    assert refused.value.field == field


def test_a_scheme_that_is_used_up_says_so():
    with pytest.raises(SchemeError, match="used up"):
        Scheme("L", 2).number(100)
