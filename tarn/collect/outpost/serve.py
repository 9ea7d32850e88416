"""An outpost at work: it asks for orders, carries them out, and hands in what it finds as it goes.

Everything found goes through the keep, so that there is one way to hand in, link or no link.
"""

import asyncio
import contextlib
import logging
import time
from collections.abc import Coroutine
from pathlib import Path
from typing import Any

from tarn.collect.guard import Guard
from tarn.collect.outpost.keep import Keep
from tarn.collect.outpost.link import Link, LinkDown, Refused
from tarn.collect.outpost.ordered import Work, look_at
from tarn.collect.outpost.wire import (
    SPEECH,
    Greeting,
    Receipt,
    TrialNews,
    TrialOrder,
    WorkOffer,
    unpack,
    write,
)
from tarn.collect.presented import Expected
from tarn.collect.routes import Route
from tarn.collect.trial import try_credential

log = logging.getLogger("tarn.outpost")

BEAT = 1.0
"""Seconds between two hand-ins of one order."""
MOST_ORDERS = 2
LONGEST_WAIT = 30.0
"""Seconds between two tries while the link is down, at the most."""


class Dismissed(Exception):
    """Tarn will have nothing of this outpost: its token is withdrawn, or it speaks another release's language."""


class Outpost:
    """One outpost: `route` is how it dials devices, `folder` where it keeps what it has not handed over."""

    def __init__(self, link: Link, route: Route, folder: Path, release: str) -> None:
        self._link, self._route, self._release = link, route, release
        self._keep = Keep(folder)
        self._work: dict[str, Work] = {}
        self._tasks: set[asyncio.Task[None]] = set()
        self._fresh, self._free = asyncio.Event(), asyncio.Event()
        self._down = ""

    async def serve(self) -> None:
        """Work until cancelled. Raises Dismissed."""
        async with asyncio.TaskGroup() as group:
            group.create_task(self._ask())
            group.create_task(self._hand_over())

    async def _ask(self) -> None:
        wait = 1.0
        while True:
            try:
                answer = await self._link.work(self._greeting())
            except LinkDown as error:
                self._note_down(str(error))
                wait = min(LONGEST_WAIT, wait * 1.6)
            except Refused as error:
                raise Dismissed(str(error)) from None
            else:
                self._note_up()
                wait = answer.again
                self._begin(answer)
            # Whoever has done asks at once for more.
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(self._free.wait(), wait)
            self._free.clear()

    def _greeting(self) -> Greeting:
        return Greeting(
            SPEECH,
            self._release,
            time.time(),
            room=MOST_ORDERS - len(self._work),
            kept=len(self._keep.waiting()),
            leases=list(dict.fromkeys([*self._work, *self._keep.leases()])),
        )

    def _begin(self, answer: WorkOffer) -> None:
        for order in answer.orders:
            self._work[order.lease] = Work(order)
            self._spawn(self._carry_out(self._work[order.lease]))
        for trial in answer.trials:
            self._spawn(self._try(trial))

    def _spawn(self, work: Coroutine[Any, Any, None]) -> None:
        task = asyncio.create_task(work)
        self._tasks.add(task)
        task.add_done_callback(self._ended)

    def _ended(self, task: asyncio.Task[None]) -> None:
        self._tasks.discard(task)
        if not task.cancelled() and (error := task.exception()) is not None:
            log.error("a piece of work broke off: %s", error, exc_info=error)

    async def _carry_out(self, work: Work) -> None:
        order = work.order
        log.info("order of run %d (“%s”): %d addresses", order.run, order.sweep, len(order.addresses))
        guard = Guard(order.refused)
        beat = asyncio.create_task(self._beat(work, guard))
        try:
            async for found in look_at(order, self._route, guard, work.halt, work.note):
                work.found.append(found)
        finally:
            beat.cancel()
            self._put(work, guard, done=True)
            del self._work[order.lease]

    async def _beat(self, work: Work, guard: Guard) -> None:
        while True:
            await asyncio.sleep(BEAT)
            if work.found or work.stages:
                self._put(work, guard, done=False)

    def _put(self, work: Work, guard: Guard, *, done: bool) -> None:
        self._keep.put(work.order.lease, write(work.hand_in(guard, done=done)))
        self._fresh.set()

    async def _hand_over(self) -> None:
        wait = 1.0
        while True:
            waiting = self._keep.waiting()
            if not waiting:
                self._fresh.clear()
                await self._fresh.wait()
                continue
            path = waiting[0]
            try:
                receipt = await self._link.hand_in(path.read_bytes())
            except LinkDown as error:
                self._note_down(str(error))
                await asyncio.sleep(wait)
                wait = min(LONGEST_WAIT, wait * 1.6)
                continue
            except Refused as error:
                if error.status in (401, 403):
                    raise Dismissed(str(error)) from None
                log.error("Tarn refused %s, set aside in %s: %s", path.name, self._keep.aside, error)
                self._keep.set_aside(path, str(error))
                continue
            wait = 1.0
            self._heed(path, receipt)
            self._keep.drop(path)
            if not self._work and not self._keep.waiting():
                self._free.set()

    def _heed(self, path: Path, receipt: Receipt) -> None:
        for address, why in receipt.refused.items():
            log.warning("of %s Tarn would not take %s: %s", path.name, address, why)
        if receipt.halt:
            lease = path.stem.partition("-")[2]
            if lease in self._work:
                self._work[lease].halt.wished = True

    async def _try(self, trial: TrialOrder) -> None:
        news = TrialNews([])
        expected = Expected(frozenset(trial.known), first_too=trial.first_too)
        async for step in try_credential(self._route, trial.address, unpack(trial.credential), expected):
            news.steps.append(step)
            with contextlib.suppress(LinkDown):  # told again with the next step, or at the end
                await self._link.tell_trial(trial.trial, news)
        news.done = True
        wait = 1.0
        while True:
            try:
                return await self._link.tell_trial(trial.trial, news)
            except LinkDown:
                await asyncio.sleep(wait)
                wait = min(LONGEST_WAIT, wait * 1.6)

    def _note_down(self, why: str) -> None:
        if not self._down:
            log.warning("no link to Tarn (%s); what is found is kept in %s", why, self._keep.folder)
        self._down = why

    def _note_up(self) -> None:
        if self._down:
            log.info("the link is there again; %d hand-ins were kept", len(self._keep.waiting()))
        self._down = ""
