"""Spans: never overlapping, rightly closed and re-opened, whatever the order."""

from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from tarn.core.spans import Span, advance, timeline

_readings = st.lists(
    st.tuples(
        st.integers(0, 40),
        st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2), max_size=4),
        st.booleans(),
    ),
    max_size=12,
    unique_by=lambda r: r[0],
)


@given(_readings)
def test_spans_of_one_thing_never_overlap(readings):
    by_key: dict[str, list[Span[str, int]]] = {}
    for span in timeline(readings):
        assert span.end is None or span.start < span.end
        by_key.setdefault(span.key, []).append(span)
    for spans in by_key.values():
        for earlier, later in pairwise(spans):
            assert earlier.end is not None
            assert earlier.end <= later.start


@given(_readings, st.randoms())
def test_out_of_order_gives_the_same_end_state(readings, random):
    shuffled = list(readings)
    random.shuffle(shuffled)
    assert timeline(shuffled) == timeline(readings)


@given(_readings)
def test_what_a_complete_reading_says_holds_at_its_time_and_nothing_else(readings):
    spans = timeline(readings)
    for at, said, complete in readings:
        held = {s.key: s.value for s in spans if s.holds(at)}
        assert said.items() <= held.items()
        if complete:
            assert held == said


@given(
    st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2)),
    st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2)),
)
def test_a_cut_short_reading_closes_nothing_that_it_does_not_contradict(held, said):
    step = advance(held, said, complete=False)
    assert all(k in said and said[k] != held[k] for k in step.closes)


def test_gone_and_back_is_two_spans_and_only_the_first_reading_is_initial():
    spans = timeline([(1, {"a": 1}, True), (2, {}, True), (3, {"a": 1}, True)])
    assert spans == [Span("a", 1, 1, 2, True), Span("a", 1, 3, None, False)]
