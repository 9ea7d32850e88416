"""Changing how findings are graded and by when grades are to be ended, and rehearsing that on what is open."""

import time
from datetime import date
from typing import Any

import numpy as np
from django.db import transaction

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.grading.policy import Policy, as_policy
from tarn.apps.exposure.grading.promising import late
from tarn.apps.exposure.grading.results import MovedGrade, PolicyRehearsed
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import PolicyIn
from tarn.apps.exposure.models import GradingPolicy
from tarn.apps.exposure.overview import open_on
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, Stale
from tarn.apps.people.roles import require
from tarn.core.exposure.grade import GRADES, TreeError, read_tree

MOST_DAYS, MOST_HOLIDAYS = 3_650, 400


def change_policy(user: Any, data: PolicyIn) -> GradingPolicy:
    """Have findings graded and promised otherwise from now on. Raises Invalid, Stale."""
    require(user, "plan")
    made = _checked(data)
    with transaction.atomic():
        newest = GradingPolicy.objects.order_by("-pk").first()
        if (newest.pk if newest else 0) != data.version:
            raise Stale("How findings are graded", {"version": newest.pk if newest else 0})
        made.made_by, made.made_at = user.username, int(time.time())
        made.save()
        changed(raw_connection())
        record(user, "changed how findings are graded", "grades and promises", detail={"days": made.days})
    return made


def rehearse(asked: Question, data: PolicyIn) -> PolicyRehearsed:
    """Return what would be graded otherwise of what is open on a selection, changing nothing. Raises Invalid."""
    policy = as_policy(_checked(data))
    there = open_on(asked)
    rows = there.rows[there.first]
    after = grades(rows, there.known, asked.at, policy.tree)
    moves: list[MovedGrade] = []
    for pair, times in zip(
        *np.unique(there.grade.astype(np.int64) * len(GRADES) + after, return_counts=True), strict=True
    ):
        before, then = divmod(int(pair), len(GRADES))
        if before != then:
            moves.append({"before": GRADES[before], "after": GRADES[then], "findings": int(times)})
    return {
        "before": _counted(there.grade),
        "after": _counted(after),
        "moved": moves,
        "late_before": int(np.count_nonzero(there.late())),
        "late_after": int(np.count_nonzero(_late(there, rows, after, policy))),
    }


def _late(there: Any, rows: Any, grade: Any, policy: Policy) -> Any:
    return late(grade, rows, there.known, there.at, policy)


def _counted(grade: Any) -> dict[str, int]:
    return {g: int(np.count_nonzero(grade == n)) for n, g in enumerate(GRADES)}


def _checked(data: PolicyIn) -> GradingPolicy:
    try:
        read_tree(data.tree)
    except TreeError as wrong:
        raise Invalid("tree", str(wrong)) from None
    if unknown := next((g for g in data.days if g not in GRADES), None):
        raise Invalid("days", f"“{unknown}” is no grade; one of: {', '.join(GRADES)}.")
    for grade, days in data.days.items():
        if days is not None and not 0 <= days <= MOST_DAYS:
            raise Invalid("days", f"{grade}: {days} days are out of bounds, 0 to {MOST_DAYS:,}; none for no promise.")
    if len(data.holidays) > MOST_HOLIDAYS:
        raise Invalid("holidays", f"{len(data.holidays)} days off are too many: {MOST_HOLIDAYS} at the most.")
    try:
        holidays = sorted({date.fromisoformat(d.strip()).isoformat() for d in data.holidays if d.strip()})
    except ValueError:
        raise Invalid("holidays", "A day off is written like 2026-12-25.") from None
    promised = {g: data.days.get(g) for g in GRADES}
    return GradingPolicy(tree=data.tree, days=promised, working=data.working, holidays=holidays)
