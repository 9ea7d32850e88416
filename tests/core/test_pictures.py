"""What pictures are reckoned by: two days held against each other, networks within networks, the order of ports."""

from ipaddress import ip_address, ip_network

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.standing.between import differences
from tarn.core.standing.edge import Edge
from tarn.core.standing.ports import spoken, unmanaged
from tarn.core.standing.subnets import within


def test_what_takes_the_place_of_another_has_moved():
    before = [Edge(1, 8, "guest of"), Edge(2, 9, "plugged into", "port3"), Edge(3, 4, "talks to", "80")]
    after = [Edge(1, 7, "guest of"), Edge(2, 9, "plugged into", "port5"), Edge(3, 4, "talks to", "443")]
    found = {(d.what, d.edge.stands, d.edge.kind, d.edge.over, d.led) for d in differences(before, after)}
    assert found == {
        ("moved", 1, "guest of", "", (8,)),
        ("moved", 2, "plugged into", "port5", (9,)),
        ("went", 3, "talks to", "80", ()),
        ("came", 3, "talks to", "443", ()),
    }


EDGES = st.lists(
    st.builds(
        Edge,
        st.integers(1, 4),
        st.integers(5, 8),
        st.sampled_from(["guest of", "plugged into", "talks to"]),
        st.sampled_from(["", "1", "2"]),
        st.sampled_from(["", "web"]),
        st.integers(0, 9),
    ),
    max_size=15,
)


@given(EDGES, EDGES)
def test_differences_lead_from_the_one_day_to_the_other_and_back(before, after):
    def keys(edges):
        return {(e.stands, e.on, e.kind, e.over) for e in edges}

    there = differences(before, after)
    left = keys(before) - keys([d.edge for d in there if d.what == "went"] + [d.before for d in there if d.before])
    assert left | keys([d.edge for d in there if d.what != "went"]) == keys(after)
    back = differences(after, before)
    assert sum(d.what == "moved" for d in back) == sum(d.what == "moved" for d in there)
    assert differences(after, after) == []


NETWORKS = st.lists(
    st.tuples(st.integers(0, 2**32 - 1), st.integers(4, 30)).map(lambda n: ip_network((n[0], n[1]), strict=False)),
    max_size=12,
)


@given(NETWORKS, st.integers(0, 2**32 - 1))
def test_an_address_is_in_the_narrowest_of_the_networks_it_lies_in(networks, number):
    address = ip_address(number)
    lies = [n for n in networks if address in n]
    expected = max(lies, key=lambda n: n.prefixlen, default=None)
    assert within(networks)(address) == expected


def test_networks_of_both_versions_are_kept_apart():
    find = within([ip_network("0.0.0.0/1"), ip_network("2001:db8::/32")])
    assert find(ip_address("2001:db8::7")) == ip_network("2001:db8::/32")
    assert find(ip_address("::7")) is None


@pytest.mark.parametrize(
    "ports",
    [
        ["port1", "port2", "port10", "port20"],
        ["Gi1/0/2", "Gi1/0/10", "Gi2/0/1"],
        ["ge-0/0/9", "ge-0/0/10", "ge-0/1/0"],
        ["1", "2", "10", "A1", "A2"],
    ],
)
def test_ports_come_in_the_order_people_count_them_in(ports):
    mixed = [*ports[1::2], *ports[::2]]
    assert sorted(mixed, key=spoken) == ports


def test_a_switch_nobody_reads_is_guessed_only_where_nothing_else_explains_it():
    assert unmanaged(6, explained=False) == "an unmanaged switch, guessed: 6 addresses at one port"
    assert [unmanaged(6, explained=True), unmanaged(2, explained=False), unmanaged(1, explained=False)] == [""] * 3
