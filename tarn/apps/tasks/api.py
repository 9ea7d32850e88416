"""Tasks over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema, Status

from tarn.apps.people.answers import or_404
from tarn.apps.tasks import reads
from tarn.apps.tasks.actions import scripts as script_actions
from tarn.apps.tasks.actions import tasks as actions
from tarn.apps.tasks.inputs import ScriptIn, TaskIn
from tarn.apps.tasks.models import Script, Task
from tarn.apps.tasks.results import (
    ScriptOut,
    TaskOut,
    TaskPlanOut,
    TaskRowOut,
)

router = Router(tags=["tasks"])


class VersionIn(Schema):
    version: int


class ApprovalIn(Schema):
    approve: bool


@router.get("/tasks", response=list[TaskRowOut])
def tasks(request: HttpRequest) -> list[TaskRowOut]:
    """Return the newest two hundred tasks."""
    return reads.tasks(request.user)


@router.post("/tasks/plan", response=TaskPlanOut)
def plan(request: HttpRequest, data: TaskIn) -> TaskPlanOut:
    """Return what a task would run where, and where not and why; runs nothing."""
    return reads.planned(actions.plan(request.user, data))


@router.post("/tasks", response=TaskOut)
def ask(request: HttpRequest, data: TaskIn) -> TaskOut:
    """Ask for a task; for many devices it waits until a second person approves it. It cannot be undone."""
    return reads.one(request.user, actions.ask(request.user, data).pk)


@router.get("/tasks/{number}", response=TaskOut)
def task(request: HttpRequest, number: int) -> TaskOut:
    """Return a task: how each device fared, and what the next reading says of it."""
    return or_404(Task, lambda n: reads.one(request.user, n), number)


@router.post("/tasks/{number}/approval", response=TaskOut)
def settle(request: HttpRequest, number: int, data: ApprovalIn) -> TaskOut:
    """Approve or refuse a task that waits for a second person."""
    or_404(Task, lambda n: actions.settle_approval(request.user, n, approve=data.approve), number)
    return reads.one(request.user, number)


@router.post("/tasks/{number}/stop", response=TaskOut)
def stop(request: HttpRequest, number: int) -> TaskOut:
    """Stop a task; what was done stays done."""
    or_404(Task, lambda n: actions.stop(request.user, n), number)
    return reads.one(request.user, number)


@router.get("/scripts", response=list[ScriptOut])
def scripts(request: HttpRequest) -> Any:
    """Return the list of scripts."""
    return reads.scripts()


@router.post("/scripts", response=ScriptOut)
def write_script(request: HttpRequest, data: ScriptIn) -> Any:
    """Put a script on the list; another administrator reviews it before it can run."""
    return script_actions.write_script(request.user, data)


@router.put("/scripts/{number}", response=ScriptOut)
def change_script(request: HttpRequest, number: int, data: ScriptIn) -> Any:
    """Change a script; it is to be reviewed anew."""
    change = script_actions.change_script
    return or_404(Script, lambda n: change(request.user, n, data.version, data), number)


@router.post("/scripts/{number}/review", response=ScriptOut)
def review_script(request: HttpRequest, number: int, data: VersionIn) -> Any:
    """Pass a script for use."""
    return or_404(Script, lambda n: script_actions.review_script(request.user, n, data.version), number)


@router.delete("/scripts/{number}", response={204: None})
def drop_script(request: HttpRequest, number: int) -> Status[None]:
    """Take a script off the list."""
    or_404(Script, lambda n: script_actions.drop_script(request.user, n), number)
    return Status(204, None)
