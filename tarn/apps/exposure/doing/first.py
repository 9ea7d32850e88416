"""What to do first: the changes that end what is open on a selection, in their order, and the best for a budget."""

from collections import Counter, defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.exposure.doing.ending_it import Aims, Change, aims, disturbs, filter_of, restarts
from tarn.apps.exposure.doing.results import BudgetOut, ProposedChange, WhatToDoFirst
from tarn.apps.exposure.finding.findings import Knowledge
from tarn.apps.exposure.grading.promising import promised
from tarn.apps.exposure.models import ChangeWord
from tarn.apps.exposure.overview import Open, open_on
from tarn.core.exposure.changes import FindingClass, best, in_order
from tarn.core.exposure.grade import GRADES

SHOWN = 12
"""Advisories of a change that are named."""
PIN, REFUSE = "pin", "refuse"


@dataclass(frozen=True)
class _Plan:
    there: Open
    aims: Aims
    classes: list[FindingClass]
    pinned: list[int]
    refused: list[int]
    knowledge: Knowledge


def _plan(asked: Question, knowledge: Knowledge) -> _Plan:
    there = open_on(asked, knowledge)
    found = aims(there.rows, there.known, asked.at)
    place = {c.key: n for n, c in enumerate(found.changes)}
    words = ChangeWord.objects.filter(ended_at=None).order_by("made_at", "pk").values_list("key", "word")
    pinned = [place[k] for k, word in words if word == PIN and k in place]
    refused = [place[k] for k, word in words if word == REFUSE and k in place]
    return _Plan(there, found, _classes(there, found.of), pinned, refused, knowledge)


def _classes(there: Open, of: Any) -> list[FindingClass]:
    """Return the findings that need the same changes and have one grade, as classes."""
    if not len(of):
        return []
    least, most = np.minimum.reduceat(of, there.first), np.maximum.reduceat(of, there.first)
    number: Counter[tuple[frozenset[int], int]] = Counter()
    alike = least == most
    for change, grade, times in _tallied(least[alike], there.grade[alike]):
        number[frozenset() if change < 0 else frozenset({change}), grade] += times
    ends = np.concatenate((there.first[1:], [len(of)]))
    for n in np.flatnonzero(~alike).tolist():
        needs = frozenset(of[there.first[n] : ends[n]].tolist())
        number[frozenset() if -1 in needs else needs, int(there.grade[n])] += 1
    return [FindingClass(needs, grade, times) for (needs, grade), times in number.items()]


def _tallied(changes: Any, grades: Any) -> list[tuple[int, int, int]]:
    found, times = np.unique(changes.astype(np.int64) << 8 | grades.astype(np.int64), return_counts=True)
    return [(k >> 8, k & 255, n) for k, n in zip(found.tolist(), times.tolist(), strict=True)]


def first(asked: Question, knowledge: Knowledge = "then") -> WhatToDoFirst:
    """Return the changes in the order of what each ends, what stays open after each, and what nothing ends; those that
    people pinned go first, and those they refused come last and end nothing."""
    plan = _plan(asked, knowledge)
    steps = in_order(plan.classes, range(len(plan.aims.changes)), plan.pinned, plan.refused)
    told = _told(plan)
    whole = sum(c.number for c in plan.classes)
    rows: list[ProposedChange] = []
    left = whole
    for step in steps:
        row, left = told[step.change], step.left
        row["ends"] = dict(zip(GRADES, step.ended, strict=True))
        row["left"] = left
        row["word"] = PIN if step.change in plan.pinned else ""
        rows.append(row)
    for change in plan.refused:
        told[change]["left"], told[change]["word"] = left, REFUSE
        rows.append(told[change])
    stays = sum(c.number for c in plan.classes if not c.needs)
    return {"open": whole, "stays": stays, "changes": rows}


def budgeted(asked: Question, changes: int, knowledge: Knowledge = "then") -> BudgetOut:
    """Return the best so many changes, proved; with what the plain order would end with as many."""
    plan = _plan(asked, knowledge)
    costs = dict.fromkeys(range(len(plan.aims.changes)), 1)
    chosen = best(plan.classes, costs, changes, plan.pinned, plan.refused)
    return {
        "keys": [plan.aims.changes[c].key for c in chosen.chosen],
        "ends": dict(zip(GRADES, chosen.ended, strict=True)),
        "in_order": dict(zip(GRADES, chosen.greedy, strict=True)),
        "open": sum(c.number for c in plan.classes),
    }


def _told(plan: _Plan) -> dict[int, ProposedChange]:
    """Return by change where it is to be made, and which advisories it has to do with."""
    there, of, out = plan.there, plan.aims.of, dict[int, ProposedChange]()
    rows = there.rows
    parts = np.diff(np.concatenate((there.first, [len(rows)])))
    grade_of_row = np.repeat(there.grade, parts) if len(rows) else there.grade
    over = promised(grade_of_row, rows, there.known, there.at)
    advisories: dict[int, set[int]] = defaultdict(set)
    for pair in np.unique((of.astype(np.int64) << 32) + (rows["vulnerability"].astype(np.int64) & 0xFFFFFFFF)).tolist():
        number = pair & 0xFFFFFFFF
        advisories[pair >> 32].add(number if number < 1 << 31 else number - (1 << 32))
    changing: dict[str, set[str]] = defaultdict(set)
    for change in plan.aims.changes:
        for product in {p for p, _ in change.pairs} if change.verb != "take measures" else ():
            changing[product].add(change.key)
    again = restarts(np.unique(rows["vulnerability"]).tolist())
    for number, change in enumerate(plan.aims.changes):
        mine = of == number
        about = sorted(advisories[number])
        told = sorted((there.known[v] for v in about if v > 0), key=lambda k: (k.used is None, k.name))
        scores = [k.score.base for k in told if k.score]
        chances = [k.chance for k in told if k.chance is not None]
        ends = over[mine & (over > 0)]
        alone = changing[change.what] <= {change.key}
        targets = change.targets
        out[number] = {
            "key": change.key,
            "verb": change.verb,
            "product": change.what,
            "todo": change.own.own.todo if change.own and change.own.own else "",
            "rule": change.own.name if change.own else "",
            "target": targets[0]["target"] if len({t["target"] for t in targets}) == 1 else "",
            "targets": targets,
            "devices": len(np.unique(rows["asset"][mine])),
            "advisories": len(told),
            "names": [k.name for k in told[:SHOWN]],
            "used": sum(k.used is not None for k in told),
            "score": max(scores, default=None),
            "chance": max(chances, default=None),
            "due": iso(int(ends.min())) if len(ends) else None,
            "disturbs": disturbs(change, again, about),
            "filter": filter_of(change, plan.knowledge, alone=alone),
            "ends": dict.fromkeys(GRADES, 0),
            "left": 0,
            "word": "",
        }
    return out


def change_named(asked: Question, key: str, knowledge: Knowledge = "then") -> tuple[Change, ProposedChange] | None:
    """Return one change of those proposed on a selection; None where it ends nothing by now."""
    plan = _plan(asked, knowledge)
    at = next((n for n, c in enumerate(plan.aims.changes) if c.key == key), None)
    return None if at is None else (plan.aims.changes[at], _told(plan)[at])
