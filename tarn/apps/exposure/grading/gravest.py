"""What each device is open to, in one word and one number: the gravest grade, and how many findings."""

import time

import numpy as np

from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, LISTED
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.ground import ADVISORIES, CARRIED, OWN
from tarn.apps.exposure.shown import touching
from tarn.core.exposure.grade import GRADES

Told = tuple[dict[int, str], dict[int, int]]
_told: Remembered[Told] = Remembered("what devices are open to", EVIDENCE, LISTED, ADVISORIES, OWN, CARRIED, most=4)


def gravest(at: int | None) -> dict[int, str]:
    """Return the gravest grade of what is open and not accepted, by asset."""
    return _of(at)[0]


def number_open(at: int | None) -> dict[int, int]:
    """Return how many advisories and rules of our own each asset is open to, those with any."""
    return _of(at)[1]


def _of(at: int | None) -> Told:
    minute = int(time.time()) // 60 if at is None else 0  # what is accepted ends by the clock
    return _told.get((at, minute), lambda: _read(at))


def _read(at: int | None) -> Told:
    rows = findings().at(at)
    rows = rows[~accepted.mask(rows, at)]
    if not len(rows):
        return {}, {}
    grade = grades(rows, touching(at), at)
    order = np.lexsort((rows["vulnerability"], rows["asset"]))
    assets, first = np.unique(rows["asset"][order], return_index=True)
    least = np.minimum.reduceat(grade[order], first)
    pairs = np.unique(np.stack((rows["asset"].astype(np.int64), rows["vulnerability"].astype(np.int64))), axis=1)
    named, times = np.unique(pairs[0], return_counts=True)
    words = {a: GRADES[g] for a, g in zip(assets.tolist(), least.tolist(), strict=True)}
    return words, dict(zip(named.tolist(), times.tolist(), strict=True))
