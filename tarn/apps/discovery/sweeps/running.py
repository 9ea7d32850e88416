"""Carrying a run out: the engine on one side, the tables on the other, and nothing lost between.

What is read is written together with the outcome of its address, in one transaction, a few
times a second. A worker that is killed leaves rows that say "waiting" for what it had not
finished; the next one goes on with those.
"""

import asyncio
import contextlib
import logging
import time
from collections.abc import Awaitable, Callable
from concurrent.futures import ThreadPoolExecutor

from django.db import close_old_connections, transaction
from redis.exceptions import RedisError

from tarn.apps.discovery.models import Run, RunAddress
from tarn.apps.discovery.networks.places import Places
from tarn.apps.discovery.sweeps.elsewhere import HERE, concluded, elsewhere, orders_of
from tarn.apps.discovery.sweeps.handing_in import hand_in, is_out_of_time, settle
from tarn.apps.discovery.sweeps.look_settings import keep_refusals, looked_with, narrowed
from tarn.apps.estate.register.links import learnt_since
from tarn.apps.people.breath import Breath
from tarn.collect.found import Found, found_of
from tarn.collect.hints import Hints
from tarn.collect.look import LookSettings
from tarn.collect.looked import Look
from tarn.collect.looks.sharing import Shared
from tarn.collect.sweep import Halt, sweep

log = logging.getLogger("tarn.discovery")

FEW = 4
"""Addresses up to which handing them out is not worth it."""
BEAT = 0.4
"""Seconds between two writes of progress."""
STALE = 15
"""Seconds without a sign of life after which a run counts as abandoned."""


def claim(run_id: int) -> Run | None:
    """Take a run on, unless it has ended or another worker is at it."""
    with transaction.atomic():
        run = Run.objects.select_related("sweep").filter(pk=run_id).first()
        if run is None or run.state not in ("waiting", "running"):
            return None
        now = int(time.time())
        if run.state == "running" and (not run.at_work or now - run.beat < STALE):
            return None
        run.state, run.beat, run.at_work = "running", now, True
        run.started_at = run.started_at or now
        run.tick += 1
        run.save()
        return run


def carry_out(run_id: int) -> None:
    """Carry a run out to its end, its pause, or its stop."""
    run = claim(run_id)
    if run is None:
        return
    log.info("run %d of “%s”: %d addresses", run.pk, run.sweep.name, run.total)
    try:
        places = Places.load(run.sweep.organisation_id)
        settings = looked_with(run, places)
        runner = _Runner(run, settings, places)
        asyncio.run(runner.run())
        keep_refusals(run, settings.guard.counts() | runner.refused)
    except Exception as error:
        log.exception("run %d failed", run.pk)
        Run.objects.filter(pk=run.pk).update(
            state="failed", at_work=False, ended_at=int(time.time()), message=f"{type(error).__name__}: {error}"[:500]
        )


def _hints(run: Run, settings: LookSettings) -> Hints:
    """Return what this run has learnt of others before it was broken off, from the evidence it handed in."""
    macs, ports = learnt_since(run.started_at or int(time.time()), settings.organisation)
    return Hints(macs, ports)


class _Runner:
    def __init__(self, run: Run, settings: LookSettings, places: Places) -> None:
        self.run_id, self.sweep_name, self.at_once = run.pk, run.sweep.name, run.sweep.at_once
        self.settings, self.places, self.halt = settings, places, Halt()
        self.hints = _hints(run, settings)
        self.row = run
        self.done: list[Look] = []
        self.shared: list[Shared] = []
        self.silent: list[Found] = []
        self.stages: dict[str, int] = {}
        self.wish = ""
        self.refused: dict[str, int] = {}
        self.breath = Breath()

    async def run(self) -> None:
        loop = asyncio.get_running_loop()
        with ThreadPoolExecutor(1, thread_name_prefix="writer") as writer:

            async def write() -> None:
                # Taken over here, in the loop's own thread, so that nothing is added meanwhile and lost.
                done, self.done = self.done, []
                shared, self.shared = self.shared, []
                stages, self.stages = self.stages, {}
                await loop.run_in_executor(writer, self._write, done, stages, shared)

            waiting = await loop.run_in_executor(writer, self._waiting)
            ticker = asyncio.create_task(self._tick(write))
            for only, addresses in waiting.items():
                left = await self._look_elsewhere(addresses, only, ticker)
                if left and self.silent:
                    await write()  # what came from elsewhere is kept before the rest is looked at here
                await self._look_at(left, only, ticker)
            if self.silent:
                await write()
                self.hints = await loop.run_in_executor(writer, _hints, self.row, self.settings)
                await self._conclude()
            if ticker.done():
                ticker.result()  # what went wrong in writing ends the run in words
            ticker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await ticker
            await write()
            await loop.run_in_executor(writer, self._finish)

    async def _look_elsewhere(self, addresses: list[str], only: str, ticker: "asyncio.Task[None]") -> list[str]:
        """Have other machines look where there are any; return the addresses that are left to this one."""
        settings, left = narrowed(self.settings, only), dict.fromkeys(addresses)
        try:
            async with elsewhere() as others:
                if others is None or len(addresses) < FEW:
                    return addresses
                log.info("run %d is looked at by %s too", self.run_id, ", ".join(others.names))
                orders = orders_of(self.row, settings, self.places, addresses, self.hints, len(others.names))
                async for came in others.looks(orders, self.row.sweep.route, lambda: self.halt.wished):
                    self._take(came, left)
                    if ticker.done():
                        break
        except (RedisError, OSError) as fault:
            said = "run %d: Redis does not answer (%s); %d addresses are looked at here"
            log.warning(said, self.run_id, fault, len(left))
        return list(left)

    def _take(self, came: Shared, left: dict[str, None]) -> None:
        for one in came.found:
            left.pop(one.address, None)
        self.silent += [f for f in came.found if f.outcome == "no answer"]
        came.found = [f for f in came.found if f.outcome != "no answer"]
        self.shared.append(came)
        self.stages.update(came.stages)
        for account, count in came.refused.items():
            self.refused[account] = max(count, self.refused.get(account, 0)) if count else 0

    async def _conclude(self) -> None:
        """Say of what did not answer elsewhere what it is after all: others of this run may have told of it."""
        source, silent = ("sweep", self.sweep_name), self.silent
        self.silent = []
        for one in silent:
            place = self.places.place(one.address)
            found = await concluded(one, self.settings, self.hints, source, place)
            self.shared.append(Shared("", [found], {}, {}))

    async def _look_at(self, addresses: list[str], only: str, ticker: "asyncio.Task[None]") -> None:
        """Look at addresses, by one collector only where it was asked so."""
        looks = sweep(
            addresses,
            narrowed(self.settings, only),
            at_once=self.at_once,
            pace=self.places.pace,
            halt=self.halt,
            stage=self._stage,
            hints=self.hints,
        )
        async for found in looks:
            self.done.append(found)
            if ticker.done():
                return

    def _stage(self, address: str, stage: int) -> None:
        self.stages[address] = stage

    async def _tick(self, write: Callable[[], Awaitable[None]]) -> None:
        while True:
            await asyncio.sleep(BEAT)
            await asyncio.shield(asyncio.ensure_future(write()))
            self.halt.wished = bool(self.wish) or is_out_of_time(self.row)

    def _waiting(self) -> dict[str, list[str]]:
        rows = RunAddress.objects.filter(run_id=self.run_id, outcome="waiting", network=None).order_by("position")
        out: dict[str, list[str]] = {}
        for address, only in rows.values_list("address", "only"):
            out.setdefault(only, []).append(address)
        return out

    def _write(self, done: list[Look], stages: dict[str, int], shared: list[Shared]) -> None:
        """Hand in what was read and note how far each address got: an address whole in one transaction, no transaction
        long, and others let in between."""
        close_old_connections()
        source = ("sweep", self.sweep_name)
        for piece in self.breath.pieces(done) if done else [[]]:
            answers = [found_of(o, source, self.places.place(o.address), self.settings.organisation) for o in piece]
            with transaction.atomic():
                run = Run.objects.get(pk=self.run_id)
                self.wish, run.beat = run.wish, int(time.time())
                hand_in(run, answers, stages)
                run.save(update_fields=["beat"])
            stages = {}
        for came in shared:
            for some in self.breath.pieces(came.found):
                with transaction.atomic():
                    looker = "" if came.looker == HERE else came.looker
                    hand_in(Run.objects.get(pk=self.run_id), some, {}, looker)

    def _finish(self) -> None:
        with transaction.atomic():
            run = Run.objects.select_related("sweep").get(pk=self.run_id)
            run.at_work = False
            run.tick += 1
            run.save(update_fields=["at_work", "tick"])
            settle(run)
        log.info("run %d: %s", self.run_id, run.state if run.state != "running" else "its outposts are still at it")
