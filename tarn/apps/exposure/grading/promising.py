"""Promises of findings: by when each is to be ended. The clock stops while it is accepted, and for nothing else."""

import time
from typing import Any

import numpy as np

from tarn.apps.estate.asking.dial import zone
from tarn.apps.exposure.finding.advisories import Known
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.grading.policy import Policy, policy


def promised(grade: Any, rows: Any, known: dict[int, Known], at: int | None, by: Policy | None = None) -> Any:
    """Return by finding when its promise is over, of grades as places in GRADES; 0 where nothing is promised.

    A rule of our own promises from when it was made, and may have days of its own.
    """
    promises = (by or policy(at)).promises
    days, since = promises.of_grades(grade), rows["since"].astype(np.int64)
    for number in np.unique(rows["vulnerability"][rows["vulnerability"] < 0]).tolist():
        own, mine = known[number].own, rows["vulnerability"] == number
        assert own is not None
        since[mine] = np.maximum(since[mine], own.made_at)
        if own.days is not None:
            days[mine] = own.days
    ends = promises.ends(since, days, zone())
    return np.where(ends > 0, ends + accepted.paused(rows, at), 0)


def late(grade: Any, rows: Any, known: dict[int, Known], at: int | None, by: Policy | None = None) -> Any:
    """Return by finding whether its promise was over before a moment."""
    over = promised(grade, rows, known, at, by)
    return (over > 0) & (over < (at or int(time.time())))
