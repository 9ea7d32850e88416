"""What becomes of services: k of n, single points, and the same by counting plainly."""

from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.filters.check import Clock, Context, check
from tarn.core.filters.parse import parse
from tarn.core.standing.edge import Edge
from tarn.core.standing.falling import singles, stops
from tarn.core.standing.graph import graph_of, standing_on
from tarn.core.standing.questions import QUESTIONS
from tarn.core.standing.services import Part, Watching, fate_of
from tests.core.edges import edges as edges_between

WEB = Part("web", frozenset({1, 2}), 1)
DATA = Part("data", frozenset({3}), 1)
RING = Part("ring", frozenset({4, 5, 6}), 2)
ALL = Part("all", frozenset({7, 8}), 0)


def test_a_pair_is_weakened_and_what_stands_alone_stops():
    assert fate_of(1, [WEB, DATA], {1}).fate == "weakened"
    assert fate_of(1, [WEB, DATA], {1, 2}).fate == "stops"
    fate = fate_of(1, [WEB, DATA], {1, 3})
    assert (fate.fate, [(p.part, p.fate) for p in fate.parts]) == ("stops", [("data", "stops"), ("web", "weakened")])


def test_two_of_three_and_all_of_two():
    assert [fate_of(1, [RING], down).fate for down in ({4}, {4, 5})] == ["weakened", "stops"]
    assert fate_of(1, [ALL], {7}).fate == "stops"
    assert (RING.spare, ALL.spare, Part("short", frozenset({1}), 2).spare) == (1, 0, -1)


def test_a_part_that_has_too_few_already_goes_on_as_it_is_until_it_loses_one():
    short = Part("short", frozenset({1}), 2)
    assert [fate_of(1, [short], down).fate for down in (set(), {9}, {1})] == ["carries on", "carries on", "stops"]


def test_a_member_that_is_weakened_weakens_its_service():
    assert fate_of(1, [WEB], set(), {2}).fate == "weakened"


def test_a_single_point_is_weighed_by_the_services_that_stop_with_it():
    """A host (10) carries the only database (3) of a service, a switch (11) carries four devices of none."""
    edges = [Edge(3, 10, "guest of"), *(Edge(n, 11, "plugged into") for n in (20, 21, 22, 23))]
    found = singles(graph_of(edges), services=Watching({1: [WEB, DATA]}))
    assert [(s.asset, s.stops, s.services) for s in found] == [(10, 1, (1,)), (3, 0, (1,)), (11, 4, ())]


SERVICES = st.dictionaries(
    st.integers(1, 4),
    st.lists(
        st.builds(Part, st.sampled_from("abc"), st.frozensets(st.integers(1, 8), max_size=4), st.integers(0, 3)),
        max_size=3,
    ),
    max_size=4,
)
EDGES = edges_between(st.integers(1, 8), st.integers(1, 8), ["guest of", "plugged into"], most=12)


@given(SERVICES, EDGES, st.sets(st.integers(1, 8), max_size=3))
def test_fates_are_those_of_counting_every_part_of_every_service(services, edges, gone):
    graph = graph_of(edges)
    fallen = stops(graph, gone)
    down = gone | {f.asset for f in fallen if f.fate == "stops"}
    weak = {f.asset for f in fallen}

    def plainly(parts):
        worst = "carries on"
        for part in parts:
            left = part.members - down
            need = len(part.members) if part.needs == 0 else min(part.needs, len(part.members))
            if part.members & down:
                worst = "stops" if len(left) < need else worst if worst == "stops" else "weakened"
            elif part.members & weak and worst == "carries on":
                worst = "weakened"
        return worst

    told = {f.service: f.fate for f in Watching(services).fates(down, weak)}
    expected = {s: fate for s, parts in services.items() if (fate := plainly(parts)) != "carries on"}
    assert told == expected
    assert set(Watching(services).stopped(down)) == {s for s, fate in expected.items() if fate == "stops"}


@pytest.mark.parametrize("shipped", QUESTIONS, ids=lambda q: q.name)
def test_questions_that_ship_can_be_asked_and_say_why(shipped):
    check(parse(shipped.filter), Context(Clock(1_790_000_000, ZoneInfo("UTC")), {}, {}.__getitem__))
    assert shipped.why


@given(EDGES, st.sets(st.integers(1, 8), min_size=1, max_size=2))
def test_what_something_stands_on_is_all_whose_going_can_reach_it(edges, start):
    graph, reach = graph_of(edges), set(start)
    while more := {e.on for e in graph.edges if e.stands in reach} - reach:
        reach |= more
    assert standing_on(graph, start) == reach
