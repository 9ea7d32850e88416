"""Capture–recapture: worked cases, simulated populations whose truth is known, and refusals."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tarn.core.coverage import LEAST_OVERLAP, combine, estimate, pattern_counts


def population(total, chances, seed, link=None):
    """Return pattern counts of a population each source sees by chance; `link` makes two sources agree."""
    rng = np.random.default_rng(seed)
    seen = rng.random((total, len(chances))) < np.array(chances)
    if link is not None:
        a, b, strength = link
        copied = rng.random(total) < strength
        seen[copied, b] = seen[copied, a]
    bits = (seen * (1 << np.arange(len(chances)))).sum(axis=1)
    return pattern_counts(bits, len(chances))


def test_chapman_as_worked_by_hand():
    # 60 by the first, 50 by the second, 30 by both: (61 × 51 / 31) − 1 = 99.35; 80 are known.
    found = estimate([0, 30, 20, 30], 2)
    assert found.known == 80
    assert found.total == pytest.approx(99.354, abs=0.001)
    assert found.variance == pytest.approx(61 * 51 * 30 * 20 / (31**2 * 32), rel=1e-9)
    assert found.low < found.unseen < found.high


@pytest.mark.parametrize("seed", range(6))
def test_two_independent_sources_find_the_truth_within_the_interval(seed):
    found = estimate(population(1000, (0.7, 0.6), seed), 2)
    assert found.known + found.low <= 1000 * 1.02
    assert found.known + found.high >= 1000 * 0.98


def test_the_interval_of_three_sources_covers_the_truth_about_nineteen_times_in_twenty():
    covered = 0
    for seed in range(60):
        found = estimate(population(600, (0.6, 0.5, 0.4), seed), 3)
        covered += found.known + found.low <= 600 <= found.known + found.high
    assert covered >= 51


def test_two_sources_that_agree_are_noticed_and_allowed_for():
    counts = population(3000, (0.5, 0.5, 0.5, 0.5), 3, link=(0, 1, 0.7))
    found = estimate(counts, 4)
    assert (0, 1) in found.dependent
    assert found.total == pytest.approx(3000, rel=0.06)
    naive = estimate(counts.reshape(-1)[[0, 1, 2, 3]] * 0 + counts.reshape(4, 4).sum(axis=0), 2)
    assert abs(naive.total - 3000) > abs(found.total - 3000)


@pytest.mark.parametrize(
    ("counts", "sources", "says"),
    [
        ([0, 40, 0, 0], 2, "Only one source"),
        ([0, 400, 400, LEAST_OVERLAP - 1], 2, "in common"),
        ([0, 0, 0, 0], 2, "Only one source"),
        ([0, 4000, 4000, 8], 2, "anywhere"),
    ],
)
def test_it_says_why_in_place_of_a_number(counts, sources, says):
    found = estimate(counts, sources)
    assert says in found.refusal
    assert found.unseen == 0


def test_a_source_that_sees_nobody_is_put_aside():
    few = np.zeros(8)
    few[[1, 2, 3, 4]] = [30, 20, 30, 2]
    assert estimate(few, 3).unseen == pytest.approx(estimate([0, 30, 20, 30], 2).unseen - 2)
    with_third = np.zeros(8)
    with_third[[1, 2, 3]] = [30, 20, 30]
    assert estimate(with_third, 3).total == pytest.approx(estimate([0, 30, 20, 30], 2).total)


@settings(max_examples=60)
@given(
    st.integers(2, 4).flatmap(
        lambda k: st.tuples(st.just(k), st.lists(st.integers(0, 80), min_size=1 << k, max_size=1 << k))
    )
)
def test_any_overlaps_give_a_sound_answer_or_a_reason(case):
    k, counts = case
    found = estimate(counts, k)
    assert found.known == sum(counts[1:])
    if found.refusal:
        assert found.unseen == 0
    else:
        assert 0 <= found.low <= found.unseen <= found.high
        assert np.isfinite(found.high)


def test_strata_add_up_and_refused_ones_count_as_known():
    parts = [estimate([0, 30, 20, 30], 2), estimate([0, 40, 0, 0], 2)]
    whole = combine(parts)
    assert whole.known == 120
    assert whole.unseen == pytest.approx(parts[0].unseen)
    assert combine([parts[1]]).refusal
