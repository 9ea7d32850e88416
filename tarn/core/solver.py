"""Integer programs solved to proved optimality by HiGHS, one aim after the other (lexicographic optimisation)."""

import os
import sys
import threading
from collections.abc import Iterable
from typing import Any

import highspy
import numpy as np


class NotSolvedError(RuntimeError):
    """The solver found no proved optimum: nothing is told rather than something that may be wrong."""


_silenced = threading.Lock()
_greeted = False


def _solver() -> highspy.Highs:
    """Return a solver. The first one made in a process prints whose it is before it can be told to be silent."""
    global _greeted
    with _silenced:
        if _greeted:
            return highspy.Highs()  # type: ignore[no-untyped-call]
        sys.stdout.flush()
        kept, nowhere = os.dup(1), os.open(os.devnull, os.O_WRONLY)
        try:
            os.dup2(nowhere, 1)
            made = highspy.Highs()  # type: ignore[no-untyped-call]
        finally:
            os.dup2(kept, 1)
            os.close(kept)
            os.close(nowhere)
        _greeted = True
        return made


def by_aims(model: highspy.HighsLp, aims: Iterable[Any]) -> list[int]:
    """Return whole values of the columns, each aim (costs by column) at its least while those before it are kept so.

    Raises NotSolvedError.
    """
    solver = _solver()
    for option, setting in (("output_flag", False), ("threads", 1), ("mip_rel_gap", 0.0), ("mip_abs_gap", 0.5)):
        solver.setOptionValue(option, setting)
    solver.passModel(model)
    width = int(model.num_col_)
    columns, values = np.arange(width, dtype=np.int32), np.zeros(width)
    for costs in aims:
        if not costs.any():
            continue
        scale = max(1.0, float(np.abs(costs).max()) / 1e6)
        solver.changeColsCost(width, columns, costs / scale)
        solver.run()
        if solver.getModelStatus() != highspy.HighsModelStatus.kOptimal:
            raise NotSolvedError(f"the solver stopped with {solver.modelStatusToString(solver.getModelStatus())}")
        values = np.rint(np.array(solver.getSolution().col_value))
        best = float(costs @ values)
        told = np.flatnonzero(costs)
        solver.addRow(-highspy.kHighsInf, (best + 0.5) / scale, len(told), told.astype(np.int32), costs[told] / scale)
    return [int(v) for v in values]
