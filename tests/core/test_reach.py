"""Where a credential may be used: what an entry means, and what widens it."""

from ipaddress import ip_address, ip_network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.reach import ReachError, read_reach, written

ADDRESS = st.integers(0, 2**32 - 1).map(lambda n: str(ip_address(n)))
NETWORK = st.builds(
    lambda n, bits: str(ip_network((n, bits), strict=False)), st.integers(0, 2**32 - 1), st.integers(8, 32)
)


@given(st.lists(NETWORK, min_size=1, max_size=4), ADDRESS)
def test_a_reach_holds_what_the_standard_library_says_its_networks_hold(networks, address):
    assert read_reach(tuple(networks)).holds(address) == any(ip_address(address) in ip_network(n) for n in networks)


@given(st.lists(NETWORK, max_size=3), st.lists(NETWORK, max_size=3))
def test_within_is_inclusion_network_by_network(some, more):
    mine, wider = read_reach(tuple(some)), read_reach((*some, *more))
    assert mine.within(wider)
    assert wider.within(mine) == all(any(ip_network(m).subnet_of(ip_network(s)) for s in some) for m in more)


def test_names_are_compared_as_names_and_never_by_what_they_lead_to():
    found = read_reach(written(["Devices.Skerrivane.example., 10.60.4.1-10.60.4.9", "fd00::/64"]))
    assert found.holds("devices.skerrivane.EXAMPLE")
    assert not found.holds("skerrivane.example")
    assert not found.holds("evil.devices.skerrivane.example")
    assert found.holds("10.60.4.9")
    assert not found.holds("10.60.4.10")
    assert found.holds("[fd00::7]")
    assert not found.holds("fd01::7")
    assert read_reach(("10.60.4.9",)).wide == ""
    assert found.wide == "10.60.4.1-10.60.4.9"


@pytest.mark.parametrize(
    "entry", ["10.60.4.300", "10.60.4.9/24", "https://x.example", "a b*", "10.60.4.9-10.60.4.1", "-x"]
)
def test_what_names_no_place_is_refused_and_named(entry):
    with pytest.raises(ReachError, match="“"):
        read_reach((entry,))
