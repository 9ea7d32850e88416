"""Stock-taking: every device has one state, samples hold what they promise, clocks that are wrong lose nothing."""

from itertools import combinations
from math import comb

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tarn.core.counting import (
    CountError,
    Expected,
    Met,
    draw,
    figures,
    held_against,
    missing_at_most,
    moment_of,
    near_by,
    sample_size,
)

near = near_by({"Comms room": "Saltholm", "Quay office": "Saltholm", "Rack 2": "Comms room", "Circle": "Circle"})
places = st.sampled_from(["", "Saltholm", "Comms room", "Rack 2", "Port Averne", "Circle"])


@pytest.mark.parametrize(
    ("one", "other", "is_near"),
    [
        ("Saltholm", "rack 2", True),
        ("Rack 2", "Saltholm", True),
        ("Comms room", "Quay office", False),
        ("Circle", "circle", True),
        ("Port Averne", "Saltholm", False),
    ],
)
def test_a_place_is_near_what_lies_within_it(one, other, is_near):
    assert near(one, other) is is_near


@given(st.data())
def test_each_expected_has_one_line_and_what_was_met_is_never_lost(data):
    expected = [Expected(n, data.draw(places)) for n in range(data.draw(st.integers(0, 6)))]
    of = st.none() | st.sampled_from([e.key for e in expected]) if expected else st.none()
    met = [
        Met(n, data.draw(of), data.draw(st.booleans()), data.draw(places), data.draw(st.integers(0, 5)))
        for n in range(data.draw(st.integers(0, 10)))
    ]
    lines = held_against(expected, met, near)
    assert [line.expected for line in lines[: len(expected)]] == [e.key for e in expected]
    told = figures(lines)
    assert told["found"] + told["elsewhere"] + told["missing"] == len(expected)
    assert sum(line.times for line in lines) == len(met)
    assert lines == held_against(expected, reversed(met), near)  # in whatever order phones send them
    by_key = {m.key: m for m in met}
    for line in lines:
        if line.met is not None and line.expected is not None:
            assert by_key[line.met].at == max(m.at for m in met if m.of == line.expected)


def test_what_was_met_last_says_where_it_is():
    expected = [Expected(1, "Comms room")]
    there, away = Met(1, 1, True, "Rack 2", 10), Met(2, 1, True, "Port Averne", 20)
    assert held_against(expected, [there], near)[0].state == "found"
    (line,) = held_against(expected, [away, there], near)
    assert (line.state, line.met, line.times) == ("elsewhere", 2, 2)
    assert held_against(expected, [Met(3, None, False, "", 5)], near)[1].state == "unknown"


@pytest.mark.parametrize(("total", "too_many"), [(100, 6), (500, 26), (20_000, 1_001)])
def test_how_many_to_look_at_of_many(total, too_many):
    """With 95 % and one in twenty, against whole binomials: one fewer would promise too much."""
    size = sample_size(total, 0.95, 0.05)
    assert comb(total - too_many, size) * 20 <= comb(total, size)
    assert comb(total - too_many, size - 1) * 20 > comb(total, size - 1)


def test_few_are_all_looked_at():
    assert [sample_size(n, 0.95, 0.01) for n in (0, 1, 10)] == [0, 1, 10]


@given(st.integers(2, 12), st.sampled_from([0.6, 0.8, 0.9, 0.95]), st.sampled_from([0.1, 0.2, 0.3]))
def test_a_sample_holds_what_it_promises(total, confidence, tolerance):
    """Held against all the samples there are: too many missing are met at least as often as was promised."""
    size = sample_size(total, confidence, tolerance)
    too_many = next(k for k in range(total + 1) if k > total * tolerance + 1e-9)
    gone = set(range(too_many))
    drawn = [set(some) for some in combinations(range(total), size)]
    assert sum(bool(gone & some) for some in drawn) / len(drawn) >= confidence - 1e-9
    if size > 1:
        fewer = [set(some) for some in combinations(range(total), size - 1)]
        assert sum(bool(gone & some) for some in fewer) / len(fewer) < confidence


@given(st.integers(2, 11), st.data(), st.sampled_from([0.6, 0.8, 0.9]))
def test_what_may_be_missing_at_most_is_what_all_samples_allow(total, data, confidence):
    size = data.draw(st.integers(1, total))
    missing = data.draw(st.integers(0, size))
    drawn = [set(some) for some in combinations(range(total), size)]

    def chance(k):
        return sum(len(some & set(range(k))) <= missing for some in drawn) / len(drawn)

    allowed = [k for k in range(missing, total - size + missing + 1) if chance(k) > 1 - confidence + 1e-9]
    assert missing_at_most(total, size, missing, confidence) == (max(allowed) if allowed and size < total else missing)


@pytest.mark.parametrize(("confidence", "tolerance", "field"), [(1.0, 0.05, "confidence"), (0.9, 0.0, "tolerance")])
def test_a_sample_of_no_use_is_refused(confidence, tolerance, field):
    with pytest.raises(CountError) as refused:
        sample_size(100, confidence, tolerance)
    assert refused.value.field == field


def test_a_draw_can_be_drawn_again_and_another_seed_draws_others():
    keys = [f"A-{n:05}" for n in range(200)]
    drawn = draw(keys, 20, "C-0001")
    assert drawn == draw(reversed(keys), 20, "C-0001")
    assert len(set(drawn)) == 20
    assert set(drawn) != set(draw(keys, 20, "C-0002"))


@pytest.mark.parametrize(
    ("said", "sent", "told"),
    [
        (1_000, 2_000, (1_000, 0)),  # met without signal, sent later
        (1_000 + 86_400, 2_000 + 86_400, (1_000, -86_400)),  # a clock a day ahead
        (None, None, (2_000, 0)),
        (50, 2_000, (500, 0)),  # before the count was opened: then at its beginning
        (9_000, 2_010, (2_000, 0)),  # from what is to come: now
    ],
)
def test_a_clock_that_is_wrong_is_put_right_by_what_it_showed_when_it_sent(said, sent, told):
    assert moment_of(said, sent, received=2_000, opened=500) == told
