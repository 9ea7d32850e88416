"""What to do first: the changes that end what is open on a selection, in their order, and the best for a budget."""

from collections import Counter, defaultdict
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.exposure import things
from tarn.apps.exposure.cures import cures, distinct, highest
from tarn.apps.exposure.findings import Knowledge
from tarn.apps.exposure.grading import promised
from tarn.apps.exposure.overview import Open, open_on
from tarn.apps.exposure.results import BudgetOut, CuredRelease, ProposedChange, WhatToDoFirst
from tarn.core.exposure.changes import FindingClass, best, in_order
from tarn.core.exposure.grade import GRADES
from tarn.core.filters.tree import Compare, Plain, Presence, to_text

SHOWN = 12
"""Advisories of a change that are named."""


@dataclass
class _Change:
    """An update of a product to the releases that carry all cures it is to bring; by system these may differ."""

    product: str
    cures: dict[str, set[str]] = field(default_factory=lambda: defaultdict(set))
    orders: dict[str, str] = field(default_factory=dict)

    def needs(self, under: str, order: str, version: str) -> None:
        """Note that a cure is needed under a system."""
        self.cures[under].add(version)
        self.orders[under] = order

    @property
    def targets(self) -> list[CuredRelease]:
        """The release to update to, by system."""
        return [{"under": u, "target": highest(self.orders[u], self.cures[u])} for u in sorted(self.cures)]


@dataclass(frozen=True)
class _Plan:
    there: Open
    changes: list[_Change]
    classes: list[FindingClass]
    of: Any
    """By finding in part (a release of a device open to something) which change it needs; -1 for none."""


def _plan(asked: Question, knowledge: Knowledge) -> _Plan:
    there = open_on(asked, knowledge)
    rows = there.rows
    pairs, where = distinct(rows)
    cure, row_of = cures(rows), things.some(sorted({t for t, _ in pairs}))
    keys: dict[str, _Change] = {}
    needed: list[str | None] = []
    for thing, statement in pairs:
        row, version = row_of[thing], cure[thing, statement]
        needed.append(row.product if version else None)
        if version:
            keys.setdefault(row.product, _Change(row.product)).needs(things.under(row), row.order, version)
    ordered = sorted(keys)
    place: dict[str | None, int] = {None: -1, **{k: n for n, k in enumerate(ordered)}}
    of = np.array([place[k] for k in needed], dtype=np.int32)[where] if pairs else np.empty(0, dtype=np.int32)
    return _Plan(there, [keys[k] for k in ordered], _classes(there, of), of)


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
    """Return the changes in the order of what each ends, what stays open after each, and what nothing ends."""
    plan = _plan(asked, knowledge)
    steps = in_order(plan.classes, range(len(plan.changes)))
    told = _told(plan)
    whole = sum(c.number for c in plan.classes)
    rows: list[ProposedChange] = []
    for step in steps:
        row = told[step.change]
        row["ends"] = dict(zip(GRADES, step.ended, strict=True))
        row["left"] = step.left
        rows.append(row)
    stays = sum(c.number for c in plan.classes if not c.needs)
    return {"open": whole, "stays": stays, "changes": rows}


def budgeted(asked: Question, changes: int, knowledge: Knowledge = "then") -> BudgetOut:
    """Return the best so many changes, proved; with what the plain order would end with as many."""
    plan = _plan(asked, knowledge)
    chosen = best(plan.classes, dict.fromkeys(range(len(plan.changes)), 1), changes)
    return {
        "keys": [plan.changes[c].product for c in chosen.chosen],
        "ends": dict(zip(GRADES, chosen.ended, strict=True)),
        "in_order": dict(zip(GRADES, chosen.greedy, strict=True)),
        "open": sum(c.number for c in plan.classes),
    }


def _told(plan: _Plan) -> dict[int, ProposedChange]:
    """Return by change where it is to be made, and which advisories it has to do with."""
    there, out = plan.there, dict[int, ProposedChange]()
    rows = there.rows
    parts = np.diff(np.concatenate((there.first, [len(rows)])))
    grade_of_row = np.repeat(there.grade, parts) if len(rows) else there.grade
    advisories: dict[int, set[int]] = defaultdict(set)
    for pair in np.unique(plan.of.astype(np.int64) << 32 | rows["vulnerability"]).tolist():
        advisories[pair >> 32].add(pair & 0xFFFFFFFF)
    for number, change in enumerate(plan.changes):
        mine = plan.of == number
        told = sorted((there.known[v] for v in advisories[number]), key=lambda k: (k.used is None, k.name))
        scores = [k.score.base for k in told if k.score]
        chances = [k.chance for k in told if k.chance is not None]
        over = promised(grade_of_row[mine], rows["since"][mine])
        ends = over[over > 0]
        product = Compare("product", "=", Plain(change.product, True))
        inner = [to_text(product), to_text(Presence("cure", True)), "accepted = no"]
        targets = change.targets
        out[number] = {
            "key": change.product,
            "product": change.product,
            "target": targets[0]["target"] if len({t["target"] for t in targets}) == 1 else "",
            "targets": targets,
            "devices": len(np.unique(rows["asset"][mine])),
            "advisories": len(told),
            "names": [k.name for k in told[:SHOWN]],
            "used": sum(k.used is not None for k in told),
            "score": max(scores, default=None),
            "chance": max(chances, default=None),
            "due": iso(int(ends.min())) if len(ends) else None,
            "filter": f"vulnerability[{' and '.join(inner)}]",
            "ends": {},
            "left": 0,
        }
    return out
