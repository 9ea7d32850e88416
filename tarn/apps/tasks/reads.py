"""Tasks and scripts as they are shown."""

from typing import Any, cast

from django.db.models import Count, Q

from tarn.apps.people.roles import may
from tarn.apps.people.scope import visible
from tarn.apps.tasks.actions.tasks import Plan, may_approve
from tarn.apps.tasks.models import Script, Task
from tarn.apps.tasks.results import PlannedDeviceOut, TaskCountsOut, TaskDeviceOut, TaskOut, TaskPlanOut, TaskRowOut
from tarn.core.tasks import KINDS


def planned(plan: Plan) -> TaskPlanOut:
    """Return what a task would do, what it would not do on its end."""
    rows: list[PlannedDeviceOut] = [
        {
            "asset": p.device.asset,
            "number": p.device.number,
            "name": p.device.name,
            "address": p.device.target.address,
            "shown": p.order.shown,
            "refused": p.order.refused,
        }
        for p in plan.devices
    ]
    rows.sort(key=lambda r: bool(r["refused"]))
    return {"thing": plan.thing, "runs": plan.runs, "needs_approval": plan.needs_approval, "devices": rows}


def _counts(task: Task) -> TaskCountsOut:
    found = task.devices.aggregate(
        refused=Count("pk", filter=Q(state="refused")),
        waiting=Count("pk", filter=Q(state__in=("waiting", "running"))),
        worked=Count("pk", filter=Q(state="worked")),
        failed=Count("pk", filter=Q(state="failed")),
        stopped=Count("pk", filter=Q(state="stopped")),
        seen=Count("pk", filter=Q(proof="seen")),
        unseen=Count("pk", filter=Q(proof="not seen")),
    )
    return cast("TaskCountsOut", found)  # of the names counted above


def row(user: Any, task: Task) -> TaskRowOut:
    """Return a task in a list."""
    return {
        "id": task.pk,
        "kind": task.kind,
        "title": f"{KINDS[task.kind].capitalize()} {task.thing}".strip(),
        "filter": task.filter,
        "why": task.why,
        "state": task.state,
        "asked_by": task.asked_by.username if task.asked_by else "",
        "asked_at": task.asked_at,
        "decided_by": task.decided_by.username if task.decided_by else "",
        "ended_at": task.ended_at,
        "may_approve": may_approve(user, task),
        "counts": _counts(task),
    }


def tasks(user: Any) -> list[TaskRowOut]:
    """Return the tasks, the newest first."""
    return [row(user, t) for t in visible(Task).select_related("asked_by", "decided_by")[:200]]


def one(user: Any, number: int) -> TaskOut:
    """Return a task and how each device fares. Raises Task.DoesNotExist."""
    task = visible(Task).select_related("asked_by", "decided_by").get(pk=number)
    fields = ("asset_id", "number", "name", "address", "shown", "state", "words", "said", "code", "credential")
    rows = task.devices.order_by("pk").values(*fields, "began", "ended", "proof", "proof_words")
    # Output of a device may hold what not everyone should read; whoever may run tasks may.
    shows = may(user, "tasks")
    devices = [cast("TaskDeviceOut", {**r, "said": r["said"] if shows else ""}) for r in rows]
    return {**row(user, task), "script": task.script, "devices": devices}


def latest_of(filter: str, most: int = 5) -> list[Task]:
    """Return the latest tasks asked for with a filter."""
    return list(visible(Task).filter(filter=filter).order_by("-pk")[:most])


def scripts() -> list[Script]:
    """Return the list of scripts, by name."""
    return list(Script.objects.order_by("name"))
