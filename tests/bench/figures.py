"""What a figure is, how it is timed, how it is printed."""

import gc
import json
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Figure:
    """One measured figure; `holds` where it is at or on the right side of its goal."""

    name: str
    value: float
    unit: str
    goal: str
    note: str = ""

    @property
    def holds(self) -> bool:
        """Whether the value meets the goal, which reads like `<= 1.5` or `>= 0.25`."""
        sign, bound = self.goal.split()
        return self.value <= float(bound) if sign == "<=" else self.value >= float(bound)

    def line(self) -> str:
        """Return the figure as one JSON line."""
        value = round(self.value, 4)
        return json.dumps(
            {
                "name": self.name,
                "value": value,
                "unit": self.unit,
                "goal": self.goal,
                "holds": self.holds,
                "note": self.note,
            }
        )


def timed(work: Callable[[], Any]) -> float:
    """Return how many seconds a piece of work takes once; the bench's own objects are kept from the collector."""
    gc.collect()
    gc.freeze()
    began = time.perf_counter()
    work()
    seconds = time.perf_counter() - began
    gc.unfreeze()
    return seconds


def best(work: Callable[[], Any], times: int = 7) -> float:
    """Return the best of several timings, the first left out: the warm cost."""
    work()
    return min(timed(work) for _ in range(times))
