"""Address ranges as people write them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.ranges import RangeError, address_key, expand, parse_range, parse_ranges


@pytest.mark.parametrize(
    ("text", "number"),
    [("10.60.4.0/24", 256), ("10.60.4.5", 1), ("10.60.4.5-10.60.4.9", 5), ("10.60.4.5 - 9", 5), ("fd00::/126", 4)],
)
def test_ranges_are_read(text, number):
    assert sum(r.size for r in parse_ranges([text])) == number


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("10.60.4.1/24", "did you mean 10.60.4.0/24"),
        ("10.60.4.9-10.60.4.5", "lower address first"),
        ("10.60.4", "not an address range"),
        ("10.60.4.300", "not an address range"),
        ("10.0.0.1-fd00::1", "mixes"),
        ("salt-tix-01", "“salt-tix-01”"),
    ],
)
def test_bad_ranges_are_named(text, says):
    with pytest.raises(RangeError, match=says):
        parse_range(text)


def test_millions_of_addresses_are_refused_before_they_are_listed():
    with pytest.raises(RangeError, match=r"16,777,216 addresses.*“10.0.0.0/8”"):
        parse_ranges(["10.0.0.0/8"])


def test_exclusions_always_win_and_say_which():
    probe, left = expand(parse_ranges(["10.60.4.0/29", "10.60.4.3"]), parse_ranges(["10.60.4.3-5"]))
    assert probe == ["10.60.4.1", "10.60.4.2", "10.60.4.6"]
    assert left == {
        "10.60.4.0": "",
        "10.60.4.3": "10.60.4.3-5",
        "10.60.4.4": "10.60.4.3-5",
        "10.60.4.5": "10.60.4.3-5",
        "10.60.4.7": "",
    }


@given(st.ip_addresses(v=4), st.ip_addresses(v=4))
def test_keys_sort_as_addresses_do(one, other):
    assert (address_key(str(one)) < address_key(str(other))) == (int(one) < int(other))
