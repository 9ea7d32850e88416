"""What stands on what: worked cases, and the answers held against a plain reckoning of any graph."""

import igraph
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.standing import falling
from tarn.core.standing.edge import KINDS, Edge
from tarn.core.standing.falling import mends, singles, stops
from tarn.core.standing.graph import distances, graph_of, order_of_return, reached, related
from tarn.core.standing.layers import LAYERS, laid_out
from tarn.core.standing.mounts import exported
from tests.core.edges import edges as edges_between

edges = edges_between(st.integers(1, 9), st.integers(1, 9), KINDS, ("", "5432", "80"))


def talks(caller: int, called: int, over: str = "5432") -> Edge:
    return Edge(caller, called, "talks to", over)


def fates(graph, *gone: int) -> dict[int, str]:
    return {f.asset: f.fate for f in stops(graph, gone)}


def test_a_pair_carries_on_until_both_are_gone():
    # 1 is called by a user (9) and calls the pair 2 and 3; 4 is a guest of 3.
    graph = graph_of([talks(9, 1, "80"), talks(1, 2), talks(1, 3), Edge(2, 4, "guest of")])
    assert fates(graph, 2) == {1: "weakened"}
    (weak,) = stops(graph, [2])
    assert (weak.left, [e.on for e in weak.because], weak.hops) == ((3,), [2], 1)
    assert fates(graph, 2, 3) == {1: "stops", 9: "weakened"}
    assert fates(graph, 3, 4) == {2: "stops", 1: "stops", 9: "weakened"}


def test_another_port_is_another_end_and_two_plugs_are_one():
    graph = graph_of([talks(9, 1, "80"), talks(1, 2, "389"), talks(1, 3, "5432")])
    assert fates(graph, 2)[1] == "stops"
    plugs = graph_of([Edge(1, 2, "plugged into", "port1"), Edge(1, 3, "plugged into", "port7")])
    assert fates(plugs, 2) == {1: "weakened"}
    assert fates(plugs, 2, 3) == {1: "stops"}


def test_the_worst_single_point_comes_first_and_what_stops_nothing_is_left_out():
    graph = graph_of([Edge(n, 1, "plugged into") for n in (2, 3, 4)] + [Edge(5, 2, "guest of"), talks(6, 7)])
    assert [(s.asset, s.stops) for s in singles(graph)] == [(1, 4), (2, 1)]


def test_what_is_brought_back_waits_for_what_it_stands_on_and_circles_come_back_together():
    # 1 and 2 wait for each other, and 1 for the circle of 3 and 4, which wait for 5.
    pairs = [(1, 2), (2, 1), (1, 3), (3, 4), (4, 3), (4, 5)]
    assert order_of_return(graph_of(talks(a, b) for a, b in pairs), range(1, 6)) == [[5], [3, 4], [1, 2]]


def test_relations_take_one_step_or_any_number():
    graph = graph_of([talks(1, 2, "80"), talks(2, 3), Edge(3, 4, "guest of"), Edge(4, 5, "plugged into"), talks(3, 2)])
    for relation, others, expected in (
        ("talks to", {3}, {2}),
        ("called by", {1, 2}, {2, 3}),
        ("guest of", {4, 5}, {3}),
        ("plugged into", {5}, {4}),
        ("depends on", {4}, {1, 2, 3}),
        ("needed by", {2}, {2, 3, 4, 5}),
        ("depends on", {1, 9}, set()),
    ):
        assert related(graph, relation, others) == expected, relation
    with pytest.raises(KeyError):
        related(graph, "married to", {1})


def test_steps_to_the_nearest_start():
    beside = {1: {2}, 2: {1, 3, 4}, 3: {2}, 4: {2, 5}, 5: {4}, 8: {9}, 9: {8}}
    assert distances(beside, {1, 5}) == {1: 0, 5: 0, 2: 1, 4: 1, 3: 2}


def test_one_more_of_something_mends_what_hung_on_it_alone():
    # 2 and 3 are fed by 1 alone, 4 by 1 and 5; 2 is called by 6, which 7 calls; 8 is plugged into 1 as well.
    graph = graph_of(
        [*(Edge(n, 1, "powered by") for n in (2, 3, 4)), Edge(4, 5, "powered by"), Edge(8, 1, "plugged into"),
         talks(6, 2), talks(7, 6)]
    )  # fmt: skip
    power, way = mends(graph, 1)
    assert (power.kind, power.wanting, power.saved) == ("powered by", (2, 3), 3), "2, 3, and 6 that stood on 2"
    assert (way.kind, way.wanting, way.saved) == ("plugged into", (8,), 1)


@given(edges, st.integers(1, 9))
def test_a_mend_is_as_good_as_the_edge_it_asks_for(told, asset):
    graph = graph_of(told)
    stopped = {f.asset for f in stops(graph, [asset]) if f.fate == "stops"}
    for mend in mends(graph, asset):
        more = graph_of([*told, *(Edge(a, 99, mend.kind, mend.over) for a in mend.wanting)])
        after = {f.asset for f in stops(more, [asset]) if f.fate == "stops"}
        assert mend.saved == len(stopped) - len(after)


@given(edges, st.sets(st.integers(1, 9), min_size=1, max_size=3))
def test_what_stops_is_what_a_plain_reckoning_says(told, gone):
    graph = graph_of(told)
    asked = ("talks to", "mounts", "falls back on")
    alike = {"falls back on": "talks to"}
    serves = {e.on for e in graph.edges if e.kind in asked}
    down, before = set(gone), None
    while down != before:
        before = set(down)
        for asset in range(1, 10):
            ends = {}
            for e in graph.edges:
                if e.stands == asset:
                    ends.setdefault((alike.get(e.kind, e.kind), e.over if e.kind in asked else ""), set()).add(e.on)
            if any(on <= before and (kind not in asked or asset in serves) for (kind, _), on in ends.items()):
                down.add(asset)
    weak = {e.stands for e in graph.edges if e.on in down} - down
    assert fates(graph, *gone) == dict.fromkeys(down - gone, "stops") | dict.fromkeys(weak, "weakened")
    for f in stops(graph, gone):
        assert f.because
        assert {e.on for e in f.because} <= down


@given(edges, st.sets(st.integers(1, 9), min_size=1, max_size=3), st.data())
def test_counted_over_columns_falls_what_falls_counted_one_by_one(told, gone, data):
    graph = graph_of(told)
    places = range(len(graph.means.of))
    spared = data.draw(st.sets(st.sampled_from(places))) if places else set()
    assert falling._many(graph, gone, spared) == falling._few(graph, gone, spared)


@given(edges)
def test_single_points_are_all_whose_going_stops_another(told):
    graph = graph_of(told)
    fates_of = {a: list(fates(graph, a).values()) for a in range(1, 10)}
    assert {(s.asset, s.stops, s.weakened) for s in singles(graph)} == {
        (a, of.count("stops"), of.count("weakened")) for a, of in fates_of.items() if "stops" in of
    }


@given(edges)
def test_edges_are_as_columns_what_they_were(told):
    graph = graph_of(told)
    kept = sorted(e for e in told if e.stands != e.on)
    assert sorted(graph.edges) == kept
    assert [graph.edges[n] for n in range(len(kept))] == list(graph.edges)
    for n in range(1, 10):
        assert (list(graph.on.get(n)), list(graph.under.get(n))) == (
            [e for e in kept if e.stands == n], [e for e in kept if e.on == n]
        )  # fmt: skip
    few = {1, 2, 3}
    assert sorted(graph.edges.touching(few)) == [e for e in kept if few & {e.stands, e.on}]
    assert sorted(graph.edges.within(few)) == [e for e in kept if few >= {e.stands, e.on}]
    assert sorted(graph.edges.of_kind("mounts")) == [e for e in kept if e.kind == "mounts"]


@given(edges)
def test_everything_comes_back_once_and_never_before_what_it_stands_on(told):
    graph = graph_of(told)
    every = {a for e in graph.edges for a in (e.stands, e.on)}
    back = order_of_return(graph, every)
    assert sorted(a for step in back for a in step) == sorted(every)
    step_of = {a: n for n, step in enumerate(back) for a in step}
    for e in graph.edges:
        around = {x.on for _, x in reached(graph, e.on, 9, under=False)}
        assert step_of[e.on] < step_of[e.stands] or (e.stands in around and step_of[e.on] == step_of[e.stands])


@given(edges, st.integers(1, 9))
def test_what_is_reached_from_one_side_reaches_back(told, start):
    graph = graph_of(told)
    for hops in (1, 3):
        for _, edge in reached(graph, start, hops, under=True):
            assert edge.on == start or start in {e.on for _, e in reached(graph, edge.on, hops, under=False)}


def test_layers_rest_on_each_other_and_what_is_alike_is_one_box():
    # Three tills and a desk call a pair of servers; these call data, a guest of a host; all in one switch under another.
    told = [talks(caller, web, "80") for caller in (1, 2, 3, 4) for web in (5, 6)]
    told += [talks(5, 7), talks(6, 7), Edge(7, 8, "guest of")]
    told += [Edge(n, 10 if n == 2 else 9, "plugged into") for n in range(1, 9)] + [Edge(9, 10, "plugged into")]
    boxes, lines = laid_out(graph_of(told), range(1, 11), lambda a: "desk" if a == 4 else "")
    assert [(b.layer, b.row, sorted(b.assets)) for b in sorted(boxes, key=lambda b: (b.row, b.assets))] == [
        ("callers", 0, [1, 2, 3]),
        ("callers", 0, [4]),
        ("computers", 1, [5]),
        ("computers", 1, [6]),
        ("computers", 2, [7]),
        ("virtual hosts", 3, [8]),
        ("network", 4, [9]),
        ("network", 5, [10]),
    ]
    apart, _ = laid_out(graph_of(told), range(1, 11), lambda a: "desk" if a == 4 else "", {2})
    assert [b.assets for b in apart if b.layer == "callers"] == [(1,), (2,), (3,), (4,)]
    tills, data = (next(n for n, b in enumerate(boxes) if b.assets[0] == a) for a in (1, 7))
    assert {(boxes[k.above].assets[0], k.edges) for k in lines if k.below == data} == {(5, 1), (6, 1)}
    assert sorted(k.edges for k in lines if k.above == tills) == [1, 2, 3, 3]


@given(edges, st.sets(st.integers(1, 9), min_size=1))
def test_every_asset_is_in_one_box_and_every_edge_between_boxes_in_one_line(told, assets):
    graph = graph_of(told)
    boxes, lines = laid_out(graph, assets, lambda a: a % 2)
    assert sorted(a for b in boxes for a in b.assets) == sorted(assets)
    assert [b.row for b in boxes] == sorted(b.row for b in boxes)
    assert [b.layer for b in boxes] == sorted((b.layer for b in boxes), key=LAYERS.index)
    at = {a: n for n, b in enumerate(boxes) for a in b.assets}
    between = [e for e in graph.edges if {e.stands, e.on} <= assets and at[e.stands] != at[e.on]]
    assert sum(k.edges for k in lines) == len(between)
    assert {(k.above, k.below) for k in lines} == {(at[e.stands], at[e.on]) for e in between}
    assert (boxes, lines) == laid_out(graph_of(reversed(told)), assets, lambda a: a % 2)


@pytest.mark.parametrize(
    ("device", "told"),
    [
        ("salt-file-01:/srv/files", ("salt-file-01", "/srv/files")),
        ("10.60.4.27:/", ("10.60.4.27", "/")),
        ("[2001:db8::7]:/srv", ("2001:db8::7", "/srv")),
        ("//salt-file-01/files", ("salt-file-01", "/files")),
        ("/dev/sda1", ("", "")),
        ("/dev/disk/by-path/pci-0:/x", ("", "")),
        ("//only", ("", "")),
        ("C:", ("", "")),
        ("", ("", "")),
    ],
)
def test_where_a_mounted_file_system_comes_from(device, told):
    assert exported(device) == told


LINES = st.dictionaries(st.integers(0, 30), st.integers(0, 30), max_size=30)


@given(LINES, st.sampled_from(["guest of", "plugged into"]), st.integers(0, 30))
def test_where_nothing_stands_in_for_anything_what_stops_is_what_igraph_reaches(lines, kind, gone):
    """Against igraph, which nobody here wrote: each stands on one other, so all that leads there falls with it."""
    pairs = [(a, b) for a, b in lines.items() if a != b]
    bare = igraph.Graph(n=31, edges=pairs, directed=True)
    there = graph_of(Edge(a, b, kind) for a, b in pairs)
    assert {f.asset for f in stops(there, [gone])} == set(bare.subcomponent(gone, mode="in")) - {gone}
    assert related(there, "depends on", [gone]) - {gone} == set(bare.subcomponent(gone, mode="in")) - {gone}
    assert related(there, "needed by", [gone]) - {gone} == set(bare.subcomponent(gone, mode="out")) - {gone}
