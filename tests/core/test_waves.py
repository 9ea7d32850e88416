"""Waves of one change, and renamings among the paired changes."""

from hypothesis import given
from hypothesis import strategies as st

from tarn.core.history import Change, Edge, pair
from tarn.core.waves import looks_like, waves

DAY = 86_400


def change(asset, verb="updated", before="1.0", after="1.1", at=0, thing="Quill"):
    return Change(asset, thing, verb, before, after, at)


def test_a_product_that_goes_on_under_another_name_is_renamed():
    edges = [
        Edge(1, "Galleykeeper", "5.2", 10, False, "tillmaster"),
        Edge(1, "Galleykeeper", "5.2", 10, True, "galleykeeper-till"),
    ]
    assert pair(edges) == [Change(1, "Galleykeeper", "renamed", "tillmaster", "galleykeeper-till", 10)]


def test_one_line_a_change_and_the_releases_left_the_commonest_first():
    (wave,) = waves([change(1), change(2, before="0.9"), change(3), change(3, at=5)])
    assert (wave.after, wave.befores, wave.at) == ("1.1", ["1.0", "0.9"], {1: 0, 2: 0, 3: 5})
    gone = waves([change(1, "removed", after=None), change(2, "removed", before="2", after=None)])
    assert [w.befores for w in gone] == [["1.0"], ["2"]], "what went is told apart by its release"


def test_what_it_looks_like():
    names = {n: f"pc-{n}" for n in range(20)}
    groups = {n: "Ticketing" if n < 5 else "Catering" for n in range(20)}

    def said(times):
        return looks_like(waves([change(n, at=at) for n, at in enumerate(times)])[0], names, groups)

    assert said([0, DAY]) == "pc-0, pc-1"
    assert said([7, 7, 7]) == "pc-0 and 2 more, at once"
    assert said([0, 60, 1800, 90]) == "pc-0 and 3 more, within an hour"
    assert said([n * DAY // 4 for n in range(12)]) == "wave over 3 days, Ticketing first"
    assert said([(19 - n) * DAY // 6 for n in range(20)]) == "wave over 4 days, Catering first"
    assert said([n * DAY for n in (0, 9, 3, 3, 3, 0, 9)]) == "wave over 10 days"


def test_days_end_with_the_moment_asked():
    (wave,) = waves([change(1, at=10 * DAY), change(2, at=10 * DAY - 1), change(3, at=8 * DAY), change(4, at=DAY)])
    assert wave.by_day(10 * DAY + 5, 4) == [0, 1, 0, 2], "days of 24 hours, counted back from the moment"


_CHANGES = st.lists(
    st.builds(
        Change,
        st.integers(1, 5),
        st.sampled_from("ab"),
        st.sampled_from(["updated", "removed"]),
        st.sampled_from("12"),
        st.sampled_from(["3", None]),
        st.integers(0, 9),
    )
)


@given(_CHANGES)
def test_folding_loses_no_device(changes):
    folded = waves(changes)
    assert {(w.thing, w.verb, a) for w in folded for a in w.at} == {(c.thing, c.verb, c.asset) for c in changes}
    assert [len(w.at) for w in folded] == sorted((len(w.at) for w in folded), reverse=True)
