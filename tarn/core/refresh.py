"""The refresh plan: which devices are to be replaced when, why then, and what each quarter's budget reaches for.

A device is due when its kind's life is over; some months earlier for each thing that speaks for it (warranty over,
faults, too little memory, what is exposed, how much hangs on it), and never after support for its system ends. From
quarter to quarter what is due is taken in order, the longest due first, as far as the budget reaches; what it does not
reach waits for the next.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

Whole = NDArray[np.int64]

LIFE = 60
"""Months of life of a kind nothing is said of."""
MOST_QUARTERS = 20
NEVER = 1 << 40
FACTORS: dict[str, str] = {
    "warranty": "months earlier once its warranty is over",
    "faults": "months earlier for each open ticket and each repair",
    "memory": "months earlier where it has less memory than its kind should have",
    "exposed": "months earlier where barred software is on it",
    "important": "months earlier where much hangs on it, as people say or by services that stand on it",
}
"""What makes a device due earlier, in words."""


class RefreshError(ValueError):
    """Settings that cannot be; `field` says which."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True)
class Settings:
    """What a plan is made by: life in months and price in minor units by kind, memory each should have in GB, months
    by factor, quarters planned, and what each quarter may cost (None: without limit; the last holds for the rest)."""

    life: Mapping[str, int] = field(default_factory=dict)
    price: Mapping[str, int] = field(default_factory=dict)
    memory: Mapping[str, float] = field(default_factory=dict)
    earlier: Mapping[str, int] = field(default_factory=dict)
    budgets: tuple[int | None, ...] = (None,)
    quarters: int = 8

    def __post_init__(self) -> None:
        for kind, months in self.life.items():
            if not 1 <= months <= 1_200:
                raise RefreshError("life", f"The life of a {kind} is 1 to 1200 months, not {months}.")
        for kind, price in self.price.items():
            if price < 0:
                raise RefreshError("price", f"The price of a {kind} is not less than nothing.")
        for name, months in self.earlier.items():
            if name not in FACTORS:
                raise RefreshError("earlier", f"“{name}” makes nothing due earlier; one of: {', '.join(FACTORS)}.")
            if not 0 <= months <= 120:
                raise RefreshError("earlier", f"What {name} counts is 0 to 120 months, not {months}.")
        if not 1 <= self.quarters <= MOST_QUARTERS:
            raise RefreshError("quarters", f"A plan is of 1 to {MOST_QUARTERS} quarters, not {self.quarters}.")
        if not self.budgets or any(b is not None and b < 0 for b in self.budgets):
            raise RefreshError("budgets", "A budget is not less than nothing.")

    def budget(self, quarter: int) -> int | None:
        """Return what a quarter, counted from 0, may cost."""
        return self.budgets[min(quarter, len(self.budgets) - 1)]


@dataclass(frozen=True)
class Fleet:
    """Devices as columns of one length. Months are counted from January 1970, -1 stands for not known; `memory` in GB,
    0 for not known; `bought`: False where the month is that in which it was first seen."""

    asset: Whole
    kind: Whole
    kinds: Sequence[str]
    month: Whole
    bought: NDArray[np.bool_]
    warranty: Whole
    support: Whole
    faults: Whole
    memory: NDArray[np.float64]
    exposed: NDArray[np.bool_]
    important: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.asset)


@dataclass(frozen=True)
class Planned:
    """By device: the month it is due, that before anything made it earlier, the quarter it is planned for (-1: none),
    its price; by factor how many months earlier it made each. `spent` and `waiting` by quarter."""

    due: Whole
    by_age: Whole
    quarter: Whole
    price: Whole
    earlier: dict[str, Whole]
    supported: NDArray[np.bool_]
    spent: list[int]
    waiting: list[int]
    unpriced: NDArray[np.bool_]


def plan(fleet: Fleet, settings: Settings, now: int) -> Planned:
    """Plan the replacement of devices from the quarter of the month `now` on.

    What has no price is planned when it is due and costs nothing in the sums; `unpriced` tells of which that is.
    """
    life = np.array([settings.life.get(k, LIFE) for k in fleet.kinds] or [LIFE], dtype=np.int64)
    price = np.array([settings.price.get(k, -1) for k in fleet.kinds] or [-1], dtype=np.int64)
    wanted = np.array([settings.memory.get(k, 0.0) for k in fleet.kinds] or [0.0])
    by_age = np.where(fleet.month < 0, NEVER, fleet.month + life[fleet.kind])
    weight = {name: int(settings.earlier.get(name, 0)) for name in FACTORS}
    # A warranty makes a device due earlier only from the month on in which it ends.
    due = by_age - weight["faults"] * fleet.faults
    less = (fleet.memory > 0) & (fleet.memory < wanted[fleet.kind])
    due = due - np.where(less, weight["memory"], 0) - np.where(fleet.exposed, weight["exposed"], 0)
    due = due - np.where(fleet.important, weight["important"], 0)
    with_warranty = np.maximum(due - weight["warranty"], fleet.warranty + 1)
    by_warranty = np.where((fleet.warranty >= 0) & (with_warranty < due), due - with_warranty, 0)
    due = due - by_warranty
    supported = (fleet.support >= 0) & (fleet.support < due)
    due = np.where(supported, fleet.support, due)
    due = np.where(by_age == NEVER, np.where(supported, fleet.support, NEVER), due)
    costs = price[fleet.kind]
    quarter, spent, waiting = _filled(due, np.maximum(costs, 0), settings, now)
    return Planned(
        due=due,
        by_age=by_age,
        quarter=quarter,
        price=np.maximum(costs, 0),
        earlier={
            "warranty": by_warranty,
            "faults": weight["faults"] * fleet.faults,
            "memory": np.where(less, weight["memory"], 0),
            "exposed": np.where(fleet.exposed, weight["exposed"], 0),
            "important": np.where(fleet.important, weight["important"], 0),
        },
        supported=supported,
        spent=spent,
        waiting=waiting,
        unpriced=costs < 0,
    )


def _filled(due: Whole, price: Whole, settings: Settings, now: int) -> tuple[Whole, list[int], list[int]]:
    """Return the quarter of each device, what each quarter costs, and how many due by its end still wait."""
    begins = now - now % 3
    out = np.full(len(due), -1, dtype=np.int64)
    order = np.argsort(due, kind="stable")
    # Not sorted further than the plan reaches: most of an estate is due later.
    order = order[: int(np.searchsorted(due[order], begins + 3 * settings.quarters))]
    ends = np.searchsorted(due[order], begins + 3 * np.arange(1, settings.quarters + 1))
    held: Any = np.zeros(0, dtype=np.int64)
    spent, waiting, reached = [], [], 0
    for number in range(settings.quarters):
        held = np.concatenate([held, order[reached : int(ends[number])]])
        reached = int(ends[number])
        taken = _reached(price[held], settings.budget(number))
        out[held[taken]] = number
        spent.append(int(price[held[taken]].sum()))
        held = held[~taken]
        waiting.append(len(held))
    return out, spent, waiting


def _reached(price: Whole, budget: int | None) -> NDArray[np.bool_]:
    """Return which of a queue a budget reaches: in order, what fits; what does not is passed over for what does."""
    if budget is None:
        return np.ones(len(price), dtype=bool)
    out = np.zeros(len(price), dtype=bool)
    left, at = budget, 0
    least = int(price.min()) if len(price) else 0
    while at < len(price) and left >= least:
        # All that fit one after another are taken at once; the one that does not is passed over.
        sums = np.cumsum(price[at:])
        fit = int(np.searchsorted(sums, left, side="right"))
        out[at : at + fit] = True
        left -= int(sums[fit - 1]) if fit else 0
        at += fit + 1
    return out
