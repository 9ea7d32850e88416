"""Asking for a task, approving or refusing it, stopping it."""

import time
from dataclasses import asdict, dataclass
from typing import Any

from django.conf import settings
from django.db import transaction

from tarn.apps.discovery.credentials.acting_access import Ways
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.targets import TaskCandidate, known, product_name
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import may, require
from tarn.apps.people.scope import visible
from tarn.apps.tasks import jobs
from tarn.apps.tasks.inputs import TaskIn
from tarn.apps.tasks.models import Script, Task, TaskDevice
from tarn.core.tasks import KINDS, TaskOrder, order_for
from tarn.core.tasks import Script as Reviewed

OF_A_PRODUCT = ("uninstall", "update")
MOST = 2_000
"""Devices of one task."""


@dataclass(frozen=True)
class Planned:
    """What a task would do on one device."""

    device: TaskCandidate
    place: str
    order: TaskOrder


@dataclass(frozen=True)
class Plan:
    """What a task would do: of what kind, about which thing, on which devices."""

    kind: str
    thing: str
    product: int | None
    script: str
    devices: list[Planned]

    @property
    def runs(self) -> int:
        """On how many devices something would be run."""
        return sum(not p.order.refused for p in self.devices)

    @property
    def needs_approval(self) -> bool:
        """Whether it is for so many devices that a second person has to approve."""
        return self.runs > settings.TARN_TASKS_ALONE


def plan(user: Any, data: TaskIn) -> Plan:
    """Return what a task would do, device by device, doing nothing. Raises Invalid, FilterError."""
    require(user, "tasks")
    kind = data.kind
    assets = data.assets or ids(question(data.filter, None))
    if data.assets:
        allowed = set(ids(question("", None)))
        assets = [a for a in assets if a in allowed]
    if not assets:
        raise Invalid("filter", "No device of the register answers this.")
    if len(assets) > MOST:
        raise Invalid(
            "filter", f"{len(assets):,} devices are too many for one task: at most {MOST:,}. Narrow the selection."
        )
    product, thing, script = data.product, "", None
    if kind in OF_A_PRODUCT:
        thing = product_name(product or 0)
        if not thing:
            raise Invalid("product", f"Say which product the task is to {KINDS[kind]}.")
    if kind == "script":
        held = Script.objects.filter(pk=data.script or 0).first()
        if held is None:
            raise Invalid("script", "Choose a script of the list.")
        if not held.reviewed_at:
            raise Invalid("script", f"“{held.name}” has not been reviewed yet.")
        thing, script = held.name, Reviewed(held.name, held.platform, held.text)
    ways, planned = Ways(), []
    for device in known(assets, product if kind in OF_A_PRODUCT else None):
        order, place = order_for(kind, device.target, script), ""
        if not order.refused:
            way = ways.to(device.target.address)
            place = way.place
            order = TaskOrder(refused=way.refused) if way.refused else order
        planned.append(Planned(device, place, order))
    return Plan(kind, thing, product if kind in OF_A_PRODUCT else None, script.text if script else "", planned)


def ask(user: Any, data: TaskIn) -> Task:
    """Ask for a task. It runs at once, or waits for a second person where it is for many devices.

    `data`: as for `plan`, with `why`, and `expected`: on how many devices it was shown to run. Raises Invalid.
    """
    planned = plan(user, data)
    if not planned.runs:
        raise Invalid("filter", "It would run on none of these devices; the list says why.")
    if data.expected is not None and planned.runs != data.expected:
        raise Invalid("filter", f"It was shown for {data.expected} devices and would run on {planned.runs} by now.")
    why = data.why.strip()
    if not why:
        raise Invalid("why", "Say why: it stands in the audit trail of every device.")
    now, later = int(time.time()), planned.needs_approval
    with transaction.atomic():
        made = Task.objects.create(
            kind=planned.kind,
            thing=planned.thing,
            product=planned.product,
            script=planned.script,
            filter=data.filter,
            why=why[:500],
            state="to approve" if later else "waiting",
            asked_by=user,
            asked_at=now,
            organisation=owner(None),
        )
        TaskDevice.objects.bulk_create([_row(made, p) for p in planned.devices], batch_size=500)
        verb = "asked for approval to " if later else "began to "
        record(
            user, verb + KINDS[made.kind], made.thing or f"{planned.runs} devices", detail=_detail(made, planned.runs)
        )
    if not later:
        jobs.run_task(made.pk)
    return made


def _row(task: Task, planned: Planned) -> TaskDevice:
    device, order = planned.device, planned.order
    return TaskDevice(
        task=task,
        asset_id=device.asset,
        number=device.number,
        name=device.name,
        address=device.target.address,
        place=planned.place,
        organisation=device.organisation,
        target=asdict(device.target),
        way=order.way,
        shown=order.shown,
        state="refused" if order.refused else "waiting",
        words=order.refused,
    )


def _detail(task: Task, devices: int) -> dict[str, Any]:
    return {"task": task.pk, "devices": devices, "filter": task.filter, "why": task.why, "script": task.script}


def settle_approval(user: Any, number: int, *, approve: bool) -> Task:
    """Approve or refuse a task that waits for a second person. Raises Invalid, Task.DoesNotExist."""
    require(user, "tasks")
    with transaction.atomic():
        held = visible(Task).get(pk=number)
        if held.state != "to approve":
            raise Invalid("task", f"It does not wait for approval: it is {held.state}.")
        if approve and held.asked_by_id == user.pk:
            raise Invalid("task", "Another person than the one who asked approves a task.")
        held.state, held.decided_by, held.decided_at = ("waiting" if approve else "refused"), user, int(time.time())
        held.save(update_fields=["state", "decided_by", "decided_at"])
        runs = held.devices.filter(state="waiting").count()
        record(user, "approved to " if approve else "refused to ", held.thing, detail=_detail(held, runs))
    if approve:
        jobs.run_task(held.pk)
    return held


def stop(user: Any, number: int) -> Task:
    """Stop a task: what has not begun is not begun; what was done stays done. Raises Invalid, Task.DoesNotExist."""
    require(user, "tasks")
    with transaction.atomic():
        held = visible(Task).get(pk=number)
        if held.state not in ("waiting", "running", "to approve"):
            raise Invalid("task", f"It cannot be stopped any more: it is {held.state}.")
        if held.state == "running":
            held.wish = "stop"
        else:
            held.state, held.ended_at = "stopped", int(time.time())
            held.devices.filter(state="waiting").update(
                state="stopped", words="It was stopped before it was begun here."
            )
        held.save()
        record(user, "stopped a task", f"{KINDS[held.kind]} {held.thing}".strip(), detail={"task": held.pk})
    return held


def may_approve(user: Any, task: Task) -> bool:
    """Whether a person may approve a task that waits."""
    return task.state == "to approve" and task.asked_by_id != user.pk and may(user, "tasks")
