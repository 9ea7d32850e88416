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

from tarn.apps.discovery.models import Run, RunAddress
from tarn.apps.discovery.networks.places import Places
from tarn.apps.discovery.sweeps.handing_in import hand_in, is_out_of_time, settle
from tarn.apps.discovery.sweeps.look_settings import keep_refusals, looked_with, narrowed
from tarn.apps.estate.register.links import learnt_since
from tarn.apps.people.breath import Breath
from tarn.collect.found import found_of
from tarn.collect.hints import Hints
from tarn.collect.look import Look, LookSettings
from tarn.collect.sweep import Halt, sweep

log = logging.getLogger("tarn.discovery")

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
        asyncio.run(_Runner(run, settings, places).run())
        keep_refusals(run, settings.guard.counts())
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
        self.stages: dict[str, int] = {}
        self.wish = ""
        self.breath = Breath()

    async def run(self) -> None:
        loop = asyncio.get_running_loop()
        with ThreadPoolExecutor(1, thread_name_prefix="writer") as writer:

            async def write() -> None:
                # Taken over here, in the loop's own thread, so that nothing is added meanwhile and lost.
                done, self.done = self.done, []
                stages, self.stages = self.stages, {}
                await loop.run_in_executor(writer, self._write, done, stages)

            waiting = await loop.run_in_executor(writer, self._waiting)
            ticker = asyncio.create_task(self._tick(write))
            for only, addresses in waiting.items():
                await self._look_at(addresses, only, ticker)
            if ticker.done():
                ticker.result()  # what went wrong in writing ends the run in words
            ticker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await ticker
            await write()
            await loop.run_in_executor(writer, self._finish)

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

    def _write(self, done: list[Look], stages: dict[str, int]) -> None:
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

    def _finish(self) -> None:
        with transaction.atomic():
            run = Run.objects.select_related("sweep").get(pk=self.run_id)
            run.at_work = False
            run.tick += 1
            run.save(update_fields=["at_work", "tick"])
            settle(run)
        log.info("run %d: %s", self.run_id, run.state if run.state != "running" else "its outposts are still at it")
