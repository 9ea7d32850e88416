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
from dataclasses import dataclass, field
from ipaddress import ip_address

from django.db import close_old_connections, transaction

from tarn.apps.discovery.models import Credential, Network, Run, RunAddress, Worked
from tarn.apps.discovery.sealing import opened
from tarn.apps.estate.actions.take_in import take_in_batch
from tarn.apps.estate.reads.links import learnt_since
from tarn.collect.credentials import SnmpCredential, account
from tarn.collect.guard import Guard
from tarn.collect.hints import Hints
from tarn.collect.look import Look, Manner
from tarn.collect.reach import PORTS
from tarn.collect.routes import ROUTES
from tarn.collect.sweep import Halt, Pace, sweep
from tarn.core.ranges import parse_range

log = logging.getLogger("tarn.discovery")

BEAT = 0.4
"""Seconds between two writes of progress."""
STALE = 15
"""Seconds without a sign of life after which a run counts as abandoned."""


@dataclass
class Places:
    """The company's networks, by address: place and pace."""

    networks: list[tuple[Pace, str]] = field(default_factory=list)

    @classmethod
    def load(cls) -> "Places":
        """Read the networks, the narrowest first."""
        held = [(Pace((parse_range(n.range),), n.at_once, n.pause_ms / 1000), n.place) for n in Network.objects.all()]
        return cls(sorted(held, key=lambda p: len(p[0].ranges[0])))

    def _of(self, address: str) -> tuple[Pace, str] | None:
        parsed = ip_address(address)
        return next((n for n in self.networks if parsed in n[0].ranges[0]), None)

    def pace(self, address: str) -> Pace | None:
        """Return the pace of an address's network."""
        found = self._of(address)
        return found[0] if found else None

    def place(self, address: str) -> str:
        """Return the place an address's network serves."""
        found = self._of(address)
        return found[1] if found else ""


def claim(run_id: int) -> Run | None:
    """Take a run on, unless it has ended or another worker is at it."""
    with transaction.atomic():
        run = Run.objects.select_related("sweep").filter(pk=run_id).first()
        if run is None or run.state not in ("waiting", "running"):
            return None
        now = int(time.time())
        if run.state == "running" and now - run.beat < STALE:
            return None
        run.state, run.beat = "running", now
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
        places = Places.load()
        manner = _manner(run, places)
        asyncio.run(_Runner(run, manner, places).run())
        _keep_refusals(run, manner)
    except Exception as error:
        log.exception("run %d failed", run.pk)
        Run.objects.filter(pk=run.pk).update(
            state="failed", ended_at=int(time.time()), message=f"{type(error).__name__}: {error}"[:500]
        )


def _manner(run: Run, places: Places) -> Manner:
    """Return how a run looks: its route and credentials, what worked where before, who was refused before."""
    held = list(run.sweep.credentials.all())
    credentials = tuple(opened(c) for c in held)
    worked: dict[str, set[str]] = {}
    names = [c.name for c in held]
    for address, name in Worked.objects.filter(credential__in=names).values_list("address", "credential"):
        worked.setdefault(address, set()).add(name)
    refused: dict[str, int] = {}
    for stored, credential in zip(held, credentials, strict=True):
        if who := account(credential):
            refused[who] = max(refused.get(who, 0), stored.refusals)
    return Manner(
        ROUTES[run.sweep.route],
        credentials,
        frozenset(run.sweep.protocols),
        run.sweep.patience,
        ports=tuple(dict.fromkeys([*PORTS, *(c.port for c in credentials if not isinstance(c, SnmpCredential))])),
        worked=worked,
        guard=Guard(refused),
        limited={c.name: frozenset(c.places) for c in held if c.places},
        place=places.place,
    )


def _hints(run: Run) -> Hints:
    """Return what this run has learnt of others before it was broken off, from the evidence it handed in."""
    macs, ports = learnt_since(run.started_at or int(time.time()))
    return Hints(macs, ports)


def _keep_refusals(run: Run, manner: Manner) -> None:
    """Hold the refusals of directory accounts until the next run, so that none is hammered night after night."""
    counts = manner.guard.counts()
    for credential in manner.credentials:
        if who := account(credential):
            Credential.objects.filter(name=credential.name).update(refusals=counts.get(who, 0))


class _Runner:
    def __init__(self, run: Run, manner: Manner, places: Places) -> None:
        self.run_id, self.sweep_name, self.at_once = run.pk, run.sweep.name, run.sweep.at_once
        self.manner, self.places, self.halt = manner, places, Halt()
        self.hints = _hints(run)
        self.ends = (run.started_at or 0) + run.sweep.minutes * 60 if run.sweep.minutes else None
        self.out_of_time = False
        self.done: list[Look] = []
        self.stages: dict[str, int] = {}
        self.wish = ""

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
            looks = sweep(
                waiting,
                self.manner,
                at_once=self.at_once,
                pace=self.places.pace,
                halt=self.halt,
                stage=self._stage,
                hints=self.hints,
            )
            async for found in looks:
                self.done.append(found)
                if ticker.done():
                    break
            if ticker.done():
                ticker.result()  # what went wrong in writing ends the run in words
            ticker.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await ticker
            await write()
            await loop.run_in_executor(writer, self._finish)

    def _stage(self, address: str, stage: int) -> None:
        self.stages[address] = stage

    async def _tick(self, write: Callable[[], Awaitable[None]]) -> None:
        while True:
            await asyncio.sleep(BEAT)
            await asyncio.shield(asyncio.ensure_future(write()))
            self.out_of_time = self.ends is not None and time.time() > self.ends
            self.halt.wished = bool(self.wish) or self.out_of_time

    def _waiting(self) -> list[str]:
        rows = RunAddress.objects.filter(run_id=self.run_id, outcome="waiting").order_by("position")
        return list(rows.values_list("address", flat=True))

    def _write(self, done: list[Look], stages: dict[str, int]) -> None:
        """Hand in what was read and note how far each address got, in one transaction."""
        close_old_connections()
        source = ("sweep", self.sweep_name)
        now = int(time.time())
        with transaction.atomic():
            run = Run.objects.get(pk=self.run_id)
            run.tick += 1
            run.beat, self.wish = now, run.wish
            sightings = [(found, found.sighting(source, self.places.place(found.address))) for found in done]
            handed = [s for _, s in sightings if s is not None]
            taken = {t.document: t for t in take_in_batch(handed)} if handed else {}
            rows = {
                r.address: r
                for r in RunAddress.objects.filter(run=run, address__in=[*(f.address for f in done), *stages])
            }
            for address, stage in stages.items():
                rows[address].stage, rows[address].tick = stage, run.tick
            for found, sighting in sightings:
                row = rows[found.address]
                row.stage, row.tick = 5, run.tick
                row.outcome, row.code = found.outcome, found.code
                row.reason, row.remedy, row.met = found.reason[:1000], found.remedy, found.met
                row.credential, row.taken_for = found.credential, found.taken_for[:200]
                row.ports, row.took_ms = found.ports, found.took_ms
                row.asset_id = taken[sighting.id].asset if sighting is not None else None
            let_in = [Worked(address=f.address, credential=name) for f in done for name in f.worked]
            Worked.objects.bulk_create(let_in, ignore_conflicts=True, batch_size=400)
            RunAddress.objects.bulk_update(
                rows.values(),
                ["stage", "tick", "outcome", "code", "reason", "remedy", "credential", "taken_for", "met", "ports",
                 "took_ms", "asset_id"],
                batch_size=80,
            )  # fmt: skip
            run.save(update_fields=["tick", "beat"])

    def _finish(self) -> None:
        with transaction.atomic():
            run = Run.objects.get(pk=self.run_id)
            left = RunAddress.objects.filter(run=run, outcome="waiting").count()
            state = {"pause": "paused", "stop": "stopped"}.get(run.wish, "failed") if left else "done"
            if state == "failed" and self.out_of_time:
                state = "stopped"
                run.message = f"Its time was over: {left} addresses were not looked at."
            else:
                run.message = f"{left} addresses were not looked at; run it again." if state == "failed" else ""
            run.state, run.wish = state, ""
            run.ended_at = int(time.time()) if state != "paused" else None
            run.tick += 1
            run.save()
        log.info("run %d: %s", self.run_id, state)
