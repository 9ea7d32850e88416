"""What is out of the ordinary, ranked by the stated rule; and when a disk fills."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.inquiring import DAY, SORTS, Fact, filling, telling, weighed

NOW = 1_790_000_000


def test_worked_weights():
    fresh = Fact("quiet", 1, "quiet", NOW - 3_600)
    assert weighed(fresh, NOW)[0] == 88
    later = Fact("quiet", 1, "quiet", NOW - 15 * DAY)
    assert weighed(later, NOW)[0] == pytest.approx(44)
    assert weighed(Fact("quiet", 1, "quiet", NOW - 400 * DAY), NOW)[0] == 22
    common = Fact("in use", 1, "open", None, share=0.5)
    assert weighed(common, NOW) == (31, "it is open to what attackers use (62), so of 50% of all devices (× 0.50)")


def test_what_several_share_is_one_fact_and_weighs_more():
    facts = [Fact("changed alike", n, "web 1 to 2", NOW, same="web 1 to 2") for n in (1, 2, 3)]
    (found,) = telling(facts, NOW)
    assert (len(found.facts), found.weight) == (3, 75 * 1.5)
    assert "of 3 of these (× 1.50)" in found.why


FACTS = st.lists(
    st.builds(
        Fact,
        st.sampled_from(sorted(SORTS)),
        st.integers(1, 4),
        st.sampled_from("abc"),
        st.one_of(st.none(), st.integers(NOW - 90 * DAY, NOW)),
        st.floats(0, 1),
        st.sampled_from(["", "x"]),
    ),
    max_size=12,
)


@given(FACTS, st.integers(1, 5))
def test_the_heaviest_come_first_none_twice_whatever_the_order(facts, most):
    found = telling(facts, NOW, most)
    assert [t.weight for t in found] == sorted((t.weight for t in found), reverse=True)
    assert len(found) <= most
    assert [(t.weight, t.first) for t in telling(list(reversed(facts)), NOW, most)] == [
        (t.weight, t.first) for t in found
    ]
    whole = telling(facts, NOW, 100)
    assert sum(len(t.facts) for t in whole) == len(facts)
    assert whole[:most] == found


@given(st.sampled_from(sorted(SORTS)), st.integers(0, 90), st.integers(0, 90), st.floats(0, 1), st.floats(0, 1))
def test_older_and_commoner_never_weigh_more(sort, age, older, share, commoner):
    one = weighed(Fact(sort, 1, "x", NOW - min(age, older) * DAY, min(share, commoner)), NOW)[0]
    other = weighed(Fact(sort, 1, "x", NOW - max(age, older) * DAY, max(share, commoner)), NOW)[0]
    assert one >= other


def test_a_disk_that_grows_five_percent_a_week_is_full_in_its_time():
    points = [(NOW - n * 7 * DAY, 80 - 5 * n) for n in (4, 3, 2, 1, 0)]
    found = filling(points, NOW)
    assert found.rate == pytest.approx(5 / 7, rel=0.15)
    assert found.full_at is not None
    assert 24 < (found.full_at - NOW) / DAY < 34


@pytest.mark.parametrize("points", [[], [(NOW - DAY, 50)], [(NOW - n * DAY, 50) for n in (30, 20, 10)],
                                    [(NOW - 30 * DAY, 80), (NOW - 20 * DAY, 60), (NOW - DAY, 40)]])  # fmt: skip
def test_what_does_not_grow_or_is_hardly_known_is_never_said_to_fill(points):
    assert filling(points, NOW).full_at is None


@given(st.lists(st.tuples(st.integers(0, 120), st.integers(0, 100)), max_size=20))
def test_the_day_it_fills_is_never_past(points):
    found = filling(sorted((NOW - d * DAY, p) for d, p in points), NOW)
    assert found.full_at is None or found.full_at >= NOW
    assert found.rate >= 0
