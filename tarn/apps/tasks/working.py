"""Carrying a task out on its devices, and afterwards asking the next reading whether it worked."""

import asyncio
import logging
import time
from typing import Any

from django.db import close_old_connections, transaction

from tarn.apps.discovery.credentials.acting_access import Hand, Ways, hands_for, was_let_in, was_refused
from tarn.apps.discovery.credentials.expected_keys import of_the_device_at
from tarn.apps.discovery.sweeps.runs import read_afresh
from tarn.apps.estate.register.targets import booted, known, read_since
from tarn.apps.people.sealing import SealBroken
from tarn.apps.tasks.models import Task, TaskDevice
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.tasks import Done, carry_out, wake
from tarn.core.tasks import SETTLES, Entry, Script, Target, TaskOrder, exit_in_words, order_for

log = logging.getLogger("tarn.tasks")
STALE = 120
"""Seconds without a sign of life after which a task counts as abandoned by its worker."""
MOST_TRIES = 5
"""How often a device is read anew before it is told as not seen."""
BETWEEN_TRIES = 60
"""Seconds between two of those readings."""


def claim(number: int) -> Task | None:
    """Take a task on, unless it is over or another worker is at it."""
    with transaction.atomic():
        task = Task.objects.filter(pk=number).first()
        now = int(time.time())
        if task is None or task.state not in ("waiting", "running"):
            return None
        if task.state == "running" and now - task.beat < STALE:
            return None
        task.state, task.beat, task.started_at = "running", now, task.started_at or now
        task.save()
        # Whether a device that was begun and not ended was acted on is not known: it is not begun a second time.
        task.devices.filter(state="running").update(
            state="failed",
            words="The worker ended while this ran; whether it worked, the next reading tells.",
            ended=now,
        )
        return task


def carry_out_task(number: int) -> bool:
    """Carry a task out; return whether its effect is to be looked for."""
    task = claim(number)
    if task is None:
        return False
    rows = list(task.devices.filter(state="waiting"))
    asyncio.run(_all(task, rows))
    with transaction.atomic():
        held = Task.objects.get(pk=number)
        held.devices.filter(state="waiting").update(state="stopped", words="It was stopped before it was begun here.")
        acted = held.devices.exclude(began=None).exists()
        held.state = "proving" if acted else "stopped" if held.wish == "stop" else "done"
        held.ended_at = int(time.time())
        held.save(update_fields=["state", "ended_at"])
    log.info("task %d: %s", number, held.state)
    return acted


async def _all(task: Task, rows: list[TaskDevice]) -> None:
    gate, ways = asyncio.Semaphore(task.at_once), await asyncio.to_thread(Ways)
    script = Script(task.thing, "", task.script) if task.kind == "script" else None

    async def one(row: TaskDevice) -> None:
        async with gate:
            if await asyncio.to_thread(_begin, row):
                done = await _one(task.kind, row, ways, script)
                await asyncio.to_thread(_note, row, *done)

    async def beat() -> None:
        # One device may take long; whoever looks for abandoned tasks sees that this one is not.
        while True:
            await asyncio.sleep(STALE / 6)
            await asyncio.to_thread(_beat, task.pk)

    beating = asyncio.create_task(beat())
    try:
        await asyncio.gather(*(one(row) for row in rows))
    finally:
        beating.cancel()


def _beat(number: int) -> None:
    close_old_connections()
    Task.objects.filter(pk=number, state="running").update(beat=int(time.time()))


def _begin(row: TaskDevice) -> bool:
    """Note that a device is begun, unless someone stopped the task."""
    close_old_connections()
    with transaction.atomic():
        task = Task.objects.get(pk=row.task_id)
        task.beat = int(time.time())
        task.save(update_fields=["beat"])
        if task.wish == "stop":
            return False
        return bool(
            TaskDevice.objects.filter(pk=row.pk, state="waiting").update(state="running", began=int(time.time()))
        )


async def _one(kind: str, row: TaskDevice, ways: Ways, script: Script | None) -> tuple[str, str, Done | None, str]:
    """Return state, words, how it ended, and the credential's name."""
    target = target_of(row.target)
    reviewed = Script(script.name, target.platform, script.text) if script else None
    order = order_for(kind, target, reviewed)
    way = await asyncio.to_thread(ways.to, row.address)
    if order.refused or way.route is None:
        return "failed", order.refused or way.refused, None, ""
    try:
        if order.way == "wake":
            return "worked", "", await wake(way.route, target.broadcast, target.mac), ""
        hands = await asyncio.to_thread(hands_for, order.way, row.address, way.place, row.organisation)
        return await _by_hand(order, way.route, row.address, hands)
    except Problem as problem:
        return "failed", f"{problem.says} {problem.remedy}", None, ""
    except SealBroken as broken:
        return "failed", str(broken), None, ""


async def _by_hand(
    order: TaskOrder, route: Route, address: str, hands: list[Hand]
) -> tuple[str, str, Done | None, str]:
    if not hands:
        return (
            "failed",
            f"No {order.way.upper()} credential for this place may act; allow one that is meant for it.",
            None,
            "",
        )
    refusal = ""
    expected = await asyncio.to_thread(of_the_device_at, address)
    for hand in hands:
        try:
            done = await carry_out(order, route, address, hand, expected)
        except Problem as problem:
            if problem.code not in ("sign-in-refused", "password-expired"):
                raise
            refusal = f"{problem.says} {problem.remedy}"
            await asyncio.to_thread(was_refused, hand)
            continue
        await asyncio.to_thread(was_let_in, address, hand)
        return _ended(order, done), "", done, hand.name
    return "failed", refusal, None, ""


def _ended(order: TaskOrder, done: Done) -> str:
    # A restart takes the connection with it: whether it worked, the next reading tells.
    restarts = any("reboot" in line or "shutdown" in line for _, line in order.lines)
    return "worked" if done.worked or (done.cut and restarts) else "failed"


def _note(row: TaskDevice, state: str, words: str, done: Done | None, credential: str) -> None:
    close_old_connections()
    if done is not None and done.code is not None:
        words = words or exit_in_words(done.code)
    TaskDevice.objects.filter(pk=row.pk).update(
        state=state,
        words=words,
        said=done.said if done else "",
        code=done.code if done else None,
        credential=credential,
        ended=int(time.time()),
    )


def target_of(row: dict[str, Any]) -> Target:
    """Return a target from a task's row."""
    return Target(**{**row, "entries": tuple(Entry(**e) for e in row["entries"])})


def prove(number: int) -> bool:
    """Ask the readings since a task whether it worked; have read anew what was not. Return whether to ask again."""
    task = Task.objects.get(pk=number)
    if task.state != "proving":
        return False
    now = int(time.time())
    open_rows = list(task.devices.filter(proof="").exclude(began=None))
    found = _proofs(task, open_rows)
    for row in open_rows:
        if row.pk in found:
            row.proof, row.proof_words = found[row.pk]
        elif row.tries >= MOST_TRIES:
            row.proof, row.proof_words = "not seen", "It has not been read since; read it again when it answers."
        row.save(update_fields=["proof", "proof_words"])
    waiting = [r for r in open_rows if not r.proof]
    due = [
        r
        for r in waiting
        if now >= (r.ended or r.began or 0) + SETTLES[task.kind]
        and (r.asked_again is None or now - r.asked_again >= BETWEEN_TRIES)
    ]
    busy = set(read_afresh([r.address for r in due])) if due else set()
    asked = [r.pk for r in due if r.address not in busy]
    for row in due:
        if row.pk in asked:
            TaskDevice.objects.filter(pk=row.pk).update(asked_again=now, tries=row.tries + 1)
    if not waiting:
        Task.objects.filter(pk=number, state="proving").update(state="done")
    return bool(waiting)


def _proofs(task: Task, rows: list[TaskDevice]) -> dict[int, tuple[str, str]]:
    """Return what readings that came after say, by the row's number; nothing of those not read since."""
    assets = [r.asset_id for r in rows]
    section = {"uninstall": "packages", "update": "packages", "wake": "placement"}.get(task.kind, "system")
    read = read_since(assets, section)
    since = {r.pk: r for r in rows if read.get(r.asset_id, 0) > (r.ended or r.began or 0)}
    if task.kind == "uninstall":
        still = {k.asset: k.target.entries for k in known(assets, task.product)}
        gone = ("seen", "Read since, and it is gone.")
        return {
            pk: gone if not still.get(r.asset_id) else ("not seen", "Read since, and it is still installed.")
            for pk, r in since.items()
        }
    if task.kind == "update":
        here = {k.asset: {e.name: e.version for e in k.target.entries} for k in known(assets, task.product)}
        return {pk: _updated(target_of(r.target), here.get(r.asset_id, {})) for pk, r in since.items()}
    if task.kind == "restart":
        started = booted(assets)
        return {
            pk: ("seen", "Read since: it started after the task.")
            if started.get(r.asset_id, 0) >= (r.began or 0) - _CLOCKS
            else ("not seen", "Read since, and it has not started anew.")
            for pk, r in since.items()
        }
    words = "It answers." if task.kind == "wake" else "Read since."
    return dict.fromkeys(since, ("seen", words))


def _updated(before: Target, now: dict[str, str]) -> tuple[str, str]:
    """Return whether all that a device listed of a product is of another release by now."""
    told = [f"{e.name} {e.version} → {now[e.name]}" for e in before.entries if now.get(e.name, e.version) != e.version]
    same = [e.name for e in before.entries if now.get(e.name) == e.version]
    if same:
        return "not seen", f"Read since, and {', '.join(same)} is the release it was."
    return "seen", f"Read since: {', '.join(told)}." if told else "Read since, and it is not installed any more."


_CLOCKS = 60
"""Seconds a device's clock may be behind ours when it says when it started."""
