"""How many devices has nobody seen: capture–recapture from the overlaps of sources.

Two sources: Chapman's estimator (Chapman 1951; variance of Seber 1970). Three or more: log-linear models of the
overlap counts (Fienberg 1972) with pairwise dependence chosen step by step by Akaike's criterion. Intervals are
log-normal above what is known (Burnham et al. 1987), since there cannot be fewer than were seen.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from typing import Any

import numpy as np

Z = 1.959964
"""Standard normal quantile of nineteen times in twenty."""
LEAST_OVERLAP = 7
"""Devices that two sources must have in common: below that the estimate's bias is no longer small (Seber 1982)."""
MOST_SOURCES = 8
LEAST_SHARE = 0.1
"""Share of the known devices a source must see to count as one that could see them."""
_ITERATIONS, _TOLERANCE = 60, 1e-6
_WIDEST = 5.0
"""An interval that reaches beyond so many times what is known tells nothing."""


@dataclass(frozen=True, slots=True)
class Estimate:
    """How many there are: `unseen` with its interval, or `refusal`, why no number is given. `method` in words;
    `dependent`: pairs of sources that tend to agree, or to avoid each other, which the model allows for."""

    known: int
    unseen: float = 0.0
    low: float = 0.0
    high: float = 0.0
    method: str = ""
    refusal: str = ""
    dependent: tuple[tuple[int, int], ...] = ()
    variance: float = 0.0

    @property
    def total(self) -> float:
        """Return how many there are in all."""
        return self.known + self.unseen


def pattern_counts(bits: Any, sources: int) -> Any:
    """Return how many devices each combination of sources sees: an array of 2**sources, by bit mask."""
    return np.bincount(bits, minlength=1 << sources)


def estimate(counts: Any, sources: int) -> Estimate:
    """Estimate from pattern counts; devices that no source sees (mask 0) are left out of account.

    Sources that see hardly any of them (less than LEAST_SHARE) are put aside, for they cannot see most of this sort;
    what only they know counts as known all the same. Refuses in words where fewer than two sources remain, where
    overlaps are too small, or where the answer would be too wide to mean anything.
    """
    counts = np.asarray(counts, dtype=np.float64)
    masks = np.arange(1 << sources)
    known = int(counts[1:].sum())
    share = [counts[(masks >> s) & 1 == 1].sum() / max(known, 1) for s in range(sources)]
    useful = [s for s in range(sources) if share[s] >= LEAST_SHARE]
    if len(useful) < 2:
        return Estimate(
            known, refusal="Only one source sees any of them; with nothing to compare there is no estimate."
        )
    if len(useful) > MOST_SOURCES:
        useful = sorted(useful, key=lambda s: -counts[(masks >> s) & 1 == 1].sum())[:MOST_SOURCES]
    cells = _collapse(counts, masks, useful)
    k = len(useful)
    overlaps = {
        (a, b): cells[(np.arange(1 << k) >> a & 1 == 1) & (np.arange(1 << k) >> b & 1 == 1)].sum()
        for a, b in combinations(range(k), 2)
    }
    if max(overlaps.values()) < LEAST_OVERLAP:
        most = int(max(overlaps.values()))
        says = f"No two sources have more than {most} devices in common; {LEAST_OVERLAP} are needed."
        return Estimate(known, refusal=says)
    found = _chapman(cells, known) if k == 2 else _log_linear(cells, k, known)
    if not found.refusal and found.high > _WIDEST * max(known, 1):
        return Estimate(known, refusal="The sources overlap too little: the answer would lie anywhere.")
    pairs = tuple((useful[a], useful[b]) for a, b in found.dependent)
    return Estimate(known, found.unseen, found.low, found.high, found.method, found.refusal, pairs, found.variance)


def _collapse(counts: Any, masks: Any, useful: list[int]) -> Any:
    """Return counts over the useful sources only; what only others see goes to cell 0, which is not used."""
    small = np.zeros(len(masks), dtype=np.int64)
    for place, source in enumerate(useful):
        small |= ((masks >> source) & 1) << place
    return np.bincount(small, weights=counts, minlength=1 << len(useful))


def _interval(known: int, unseen: float, variance: float) -> tuple[float, float]:
    if unseen <= 0:
        return 0.0, 0.0
    spread = math.exp(Z * math.sqrt(math.log(1 + variance / unseen**2)))
    return unseen / spread, unseen * spread


def _chapman(cells: Any, known: int) -> Estimate:
    first, second, both = cells[1] + cells[3], cells[2] + cells[3], cells[3]
    total = (first + 1) * (second + 1) / (both + 1) - 1
    variance = (first + 1) * (second + 1) * (first - both) * (second - both) / ((both + 1) ** 2 * (both + 2))
    unseen = max(0.0, total - known)  # what sources put aside know is not unseen
    low, high = _interval(known, unseen, variance)
    return Estimate(known, unseen, low, high, "Chapman's estimator for two sources", variance=float(variance))


@dataclass(slots=True)
class _Fit:
    deviance_aic: float
    intercept: float
    variance: float
    pairs: tuple[tuple[int, int], ...]
    mean: Any


@lru_cache(maxsize=4096)
def _design(k: int, pairs: tuple[tuple[int, int], ...]) -> Any:
    masks = np.arange(1, 1 << k)
    single = (masks[:, None] >> np.arange(k)) & 1
    columns = [np.ones(len(masks)), *single.T, *(single[:, a] * single[:, b] for a, b in pairs)]
    return np.stack(columns, axis=1).astype(np.float64)


def _fit(cells: Any, k: int, pairs: tuple[tuple[int, int], ...], start: Any = None) -> _Fit | None:
    """Fit a Poisson log-linear model to all cells but the unseen one, by iteratively re-weighted least squares;
    `start`: the means of a model near it, from which fewer steps lead."""
    design = _design(k, pairs)
    y = cells[1:]
    mean = y + 0.5 if start is None else start
    beta = np.zeros(design.shape[1])
    before = math.inf
    for _ in range(_ITERATIONS):
        eta = np.log(mean)
        weighted = design * mean[:, None]
        information = design.T @ weighted
        try:
            beta = np.linalg.solve(information, weighted.T @ (eta + (y - mean) / mean))
        except np.linalg.LinAlgError:
            return None
        mean = np.exp(np.clip(design @ beta, -20, 25))
        likelihood = float((y * np.log(mean) - mean).sum())
        if abs(likelihood - before) < _TOLERANCE * (abs(likelihood) + 1):
            break
        before = likelihood
    try:
        covariance = np.linalg.inv(design.T @ (design * mean[:, None]))
    except np.linalg.LinAlgError:
        return None
    if not np.isfinite(beta).all() or covariance[0, 0] < 0:
        return None
    return _Fit(2 * design.shape[1] - 2 * likelihood, float(beta[0]), float(covariance[0, 0]), pairs, mean)


def _log_linear(cells: Any, k: int, known: int) -> Estimate:
    best = _fit(cells, k, ())
    if best is None:
        return Estimate(known, refusal="The overlaps do not fit any model: too many combinations are empty.")
    free = set(combinations(range(k), 2))
    most = min(len(free), (1 << k) - 2 - k)  # no more terms than cells can tell apart
    while free and len(best.pairs) < most:
        tries = [f for p in sorted(free) if (f := _fit(cells, k, (*best.pairs, p), best.mean)) is not None]
        tries = [f for f in tries if f.variance < 4.0]  # a term that leaves the unseen cell untold is no gain
        step = min(tries, key=lambda f: f.deviance_aic, default=None)
        if step is None or step.deviance_aic >= best.deviance_aic - 2:
            break
        free.discard(step.pairs[-1])
        best = step
    missed = math.exp(min(best.intercept, 25))
    variance = missed**2 * best.variance + missed
    unseen = max(0.0, missed - (known - cells[1:].sum()))  # what sources put aside know is not unseen
    low, high = _interval(known, unseen, variance)
    method = f"a log-linear model of {k} sources, allowing for {len(best.pairs)} pairs that depend on each other"
    return Estimate(known, unseen, low, high, method, dependent=best.pairs, variance=variance)


def combine(parts: list[Estimate]) -> Estimate:
    """Add up estimates of strata: those that were refused count as known only, and are said in the refusal."""
    known = sum(p.known for p in parts)
    sound = [p for p in parts if not p.refusal]
    if not sound:
        return Estimate(known, refusal=parts[0].refusal if len(parts) == 1 else "No part of it can be estimated.")
    if len(parts) == 1:
        return sound[0]
    unseen, variance = sum(p.unseen for p in sound), sum(p.variance for p in sound)
    low, high = _interval(known, unseen, variance)
    return Estimate(
        known, unseen, low, high, f"the sum of {len(sound)} estimates, one a kind and platform", variance=variance
    )
