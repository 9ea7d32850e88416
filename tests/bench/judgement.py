"""Identity over a generated estate, and the cross-check with its estimate, at size."""

import time
from itertools import pairwise

import numpy as np

from tarn.core.coverage import combine, estimate, pattern_counts
from tests.bench.figures import Figure, best
from tests.generated import Register, parsed, score, sightings

KINDS = 20


def identity_score() -> list[Figure]:
    """Return how well 10,000 generated devices of five sources are joined, and how quickly."""
    seen = sightings(10_000)
    found = parsed(seen)
    register = Register()
    began = time.perf_counter()
    taken = [register.take(s, f) for s, f in zip(seen, found, strict=True)]
    seconds = time.perf_counter() - began
    scored = score(seen, [register.finally_of(a) for a in taken])
    note = f"{scored.wrongly_joined} pairs wrongly joined, {scored.kept_apart} kept apart of {scored.right + scored.kept_apart}"
    return [
        Figure("identity_f1", scored.f1, "pairwise F1", ">= 0.999", note),
        Figure("identity_joined", scored.wrong_in_sound, "assets of two sound devices", "<= 0"),
        Figure(
            "identity_rate",
            len(seen) / seconds / 1000,
            "thousand sightings a second",
            ">= 20",
            f"{len(seen):,} sightings",
        ),
    ]


def crosscheck() -> Figure:
    """Return what overlaps and estimates over 100,000 devices and six sources cost, kind by kind."""
    chance = np.random.default_rng(1)
    bits = (chance.random((100_000, 6)) < np.array([0.9, 0.7, 0.6, 0.5, 0.4, 0.3])) @ (1 << np.arange(6))
    strata = chance.integers(0, KINDS, 100_000)

    def work() -> None:
        pattern_counts(bits, 6)
        order = np.argsort(strata, kind="stable")
        edges = np.searchsorted(strata[order], np.arange(KINDS + 1))
        combine([estimate(pattern_counts(bits[order[a:b]], 6), 6) for a, b in pairwise(edges)])

    return Figure("crosscheck", best(work, 3) * 1000, "ms", "<= 150", f"100,000 devices, 6 sources, {KINDS} kinds")
