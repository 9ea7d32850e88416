"""What to do first: changes in the order in which they end the most, and the best few for a budget.

A finding (a device open to an advisory) ends once all changes it needs are made; those that need the same changes and
ask for the same are one class. What ends more of the gravest grade goes first, then more of the next, and so on: no
grade is worth a number of another.
"""

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush

import highspy
import numpy as np

from tarn.core.exposure.grade import GRADES
from tarn.core.solver import by_aims

Ended = tuple[int, ...]
"""Findings ended, by grade in the order of GRADES."""


@dataclass(frozen=True, slots=True)
class FindingClass:
    """Findings alike: the changes that all must be made for them to end (none: nothing ends them), their grade (its
    place in GRADES) and how many they are."""

    needs: frozenset[int]
    grade: int
    number: int


@dataclass(frozen=True, slots=True)
class ChangeStep:
    """A change in its place: what it ends given those before it, and how many findings are open after it."""

    change: int
    ended: Ended
    left: int


def in_order(
    classes: Sequence[FindingClass],
    changes: Collection[int],
    pinned: Sequence[int] = (),
    refused: Collection[int] = (),
) -> list[ChangeStep]:
    """Return the changes in the order of what each ends, the gravest first; of equals the one with the lower number.

    `pinned` go first, in their order; `refused` are left out. One that ends something only together with another is
    counted with what it completes; what ends nothing at its turn comes last.
    """
    waiting = {c: set(found.needs) - set(refused) for c, found in enumerate(classes) if found.needs.isdisjoint(refused)}
    of: dict[int, list[int]] = {}
    for number in waiting:
        for change in classes[number].needs:
            of.setdefault(change, []).append(number)
    left = sum(c.number for c in classes)
    rest = sorted(set(changes) - set(refused))
    first = [c for c in pinned if c in rest]
    out: list[ChangeStep] = []
    gains = {c: _gain(c, of, waiting, classes) for c in rest}
    open_ = set(rest)
    heap = [(_order(gains[c]), c) for c in rest]
    heapify(heap)
    while open_:
        change = first.pop(0) if first else _best(heap, gains, open_)
        open_.remove(change)
        ended = gains[change][: len(GRADES)]
        left -= sum(ended)
        out.append(ChangeStep(change, ended, left))
        for number in of.get(change, ()):
            waiting[number].discard(change)
            for other in waiting[number]:
                if other in open_:
                    gains[other] = _gain(other, of, waiting, classes)
                    heappush(heap, (_order(gains[other]), other))
    return out


def _order(gain: Ended) -> Ended:
    return tuple(-n for n in gain)


def _best(heap: list[tuple[Ended, int]], gains: dict[int, Ended], open_: set[int]) -> int:
    """Return the change that ends the most now; entries of the heap that a later gain outdid are passed over."""
    while True:
        order, change = heappop(heap)
        if change in open_ and order == _order(gains[change]):
            return change


def _gain(
    change: int, of: dict[int, list[int]], waiting: dict[int, set[int]], classes: Sequence[FindingClass]
) -> Ended:
    """Return what a change would end at once by grade, and after that what it brings nearer, as a last number."""
    ended = [0] * len(GRADES)
    nearer = 0
    for number in of.get(change, ()):
        if waiting[number] == {change}:
            ended[classes[number].grade] += classes[number].number
        elif change in waiting[number]:
            nearer += classes[number].number
    return (*ended, nearer)


@dataclass(frozen=True, slots=True)
class Budgeted:
    """The best changes for a budget: which, what they end by grade, and what the greedy order ends with as many."""

    chosen: tuple[int, ...]
    ended: Ended
    greedy: Ended


def best(
    classes: Sequence[FindingClass],
    costs: dict[int, int],
    budget: int,
    pinned: Iterable[int] = (),
    refused: Collection[int] = (),
) -> Budgeted:
    """Return the changes within a budget that end the most, exactly: first of the gravest grade, then of the next.

    `costs`: by change, in whole units of the budget (one each for “k changes”, or minutes). Raises NotSolvedError.
    """
    pins = [c for c in pinned if c in costs and c not in refused]
    offered = sorted(c for c in costs if c not in refused)
    place = {c: n for n, c in enumerate(offered)}
    useful = [c for c in classes if c.needs and c.needs <= place.keys()]
    greedy = ended_by(classes, _within(in_order(classes, offered, pins, refused), costs, budget))
    if not offered:
        return Budgeted((), (0,) * len(GRADES), greedy)
    model = _model(useful, place, [costs[c] for c in offered], budget, [place[c] for c in pins])
    width = len(offered) + len(useful)
    aims = []
    for grade in range(len(GRADES)):
        row = np.zeros(width)
        for n, found in enumerate(useful):
            if found.grade == grade:
                row[len(offered) + n] = -float(found.number)
        aims.append(row)
    fewest = np.zeros(width)
    fewest[: len(offered)] = [float(costs[c]) for c in offered]
    values = by_aims(model, [*aims, fewest])
    chosen = tuple(c for c in offered if values[place[c]])
    return Budgeted(chosen, ended_by(useful, chosen), greedy)


def _within(steps: Sequence[ChangeStep], costs: dict[int, int], budget: int) -> frozenset[int]:
    """Return what of an order fits into a budget, one after the other."""
    chosen, spent = set(), 0
    for step in steps:
        if spent + costs[step.change] <= budget:
            spent += costs[step.change]
            chosen.add(step.change)
    return frozenset(chosen)


def ended_by(classes: Iterable[FindingClass], chosen: Collection[int]) -> Ended:
    """Return what changes end together, by grade."""
    ended, made = [0] * len(GRADES), set(chosen)
    for found in classes:
        if found.needs and found.needs <= made:
            ended[found.grade] += found.number
    return tuple(ended)


def _model(
    useful: Sequence[FindingClass], place: dict[int, int], costs: Sequence[int], budget: int, pinned: Sequence[int]
) -> highspy.HighsLp:
    """One column a change (made or not) and one a class (ended or not): a class ends only with all it needs."""
    index, value = list(range(len(costs))), [float(c) for c in costs]
    starts = [0, len(index)]
    lower, upper = [-highspy.kHighsInf], [float(budget)]
    for n, found in enumerate(useful):
        for change in sorted(found.needs):
            index += [len(costs) + n, place[change]]
            value += [1.0, -1.0]
            starts.append(len(index))
            lower.append(-highspy.kHighsInf)
            upper.append(0.0)
    model = highspy.HighsLp()
    width = len(costs) + len(useful)
    model.num_col_, model.num_row_ = width, len(lower)
    model.col_cost_ = np.zeros(width)
    least = np.zeros(width)
    least[list(pinned)] = 1.0
    model.col_lower_, model.col_upper_ = least, np.ones(width)
    model.row_lower_, model.row_upper_ = np.array(lower), np.array(upper)
    model.a_matrix_.format_ = highspy.MatrixFormat.kRowwise
    model.a_matrix_.start_ = np.array(starts, dtype=np.int32)
    model.a_matrix_.index_ = np.array(index, dtype=np.int32)
    model.a_matrix_.value_ = np.array(value)
    model.integrality_ = [highspy.HighsVarType.kInteger] * width
    return model
