"""Carrying a sync out: what another system knows goes through the one door, and what it dropped is dealt with."""

import asyncio
import logging
import time
from datetime import UTC, datetime

from django.db import close_old_connections, transaction

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import SourceDevice, Sync
from tarn.apps.discovery.sources.asking import findings, kind_of
from tarn.apps.discovery.sources.known import known_to
from tarn.apps.discovery.sources.missing import Missing, tell
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.people.actions.persons import take_in_people
from tarn.apps.people.breath import Breath
from tarn.apps.people.sealing import SealBroken
from tarn.collect.problems import Problem
from tarn.collect.sources.finding import Finding

log = logging.getLogger("tarn.discovery")
BEAT, STALE = 5, 60
"""Seconds between two signs of life of a sync, and without one after which it counts as abandoned."""
LONGEST = 3600.0
"""Seconds a sync may take in all, so that no source keeps a worker for good."""
FULL_EVERY = 86_400
"""Seconds after which everything is asked for again, so that what was dropped is noticed."""
_FAULTS_KEPT = 200


def carry_out_sync(sync_id: int) -> None:
    """Carry a sync out to its end; what goes wrong is said in its message."""
    sync = Sync.objects.select_related("source__credential", "source__organisation").get(pk=sync_id)
    if sync.state != "waiting":
        return
    full = Sync.objects.filter(source=sync.source, state="done", since=None).first()
    incremental = bool(sync.source.settings.get("since")) and full is not None
    if incremental and full is not None and sync.made_at - full.made_at < FULL_EVERY:
        last = Sync.objects.filter(source=sync.source, state="done").first()
        sync.since = last.made_at if last else None
    sync.state, sync.beat = "running", int(time.time())
    sync.save(update_fields=["state", "since", "beat"])
    try:
        _Syncer(sync).run()
    except (Problem, SealBroken) as problem:
        cut_short = getattr(problem, "code", "") == "cut-short" or bool(sync.counts)
        _end(sync, "part" if cut_short else "failed", getattr(problem, "says", str(problem)))
    except Exception as error:
        log.exception("sync %d failed", sync.pk)
        _end(sync, "failed", f"{type(error).__name__}: {error}"[:500])


def _end(sync: Sync, state: str, message: str = "") -> None:
    Sync.objects.filter(pk=sync.pk).update(
        state=state,
        message=message,
        ended_at=int(time.time()),
        counts=sync.counts,
        faults=sync.faults,
        loss=sync.loss,
    )


class _Syncer:
    def __init__(self, sync: Sync) -> None:
        self.sync, self.source = sync, sync.source
        self.label = (self.source.kind, self.source.name)
        self.collector = kind_of(self.source.kind).collector
        self.whose = self.source.organisation.name if self.source.organisation else ""
        self.at = datetime.fromtimestamp(sync.made_at, UTC)
        self.breath = Breath(100)

    def run(self) -> None:
        """Ask, take in batch by batch, then look at what is no longer there."""
        credential = opened(self.source.credential) if self.source.credential else None
        since = datetime.fromtimestamp(self.sync.since, UTC).isoformat() if self.sync.since else ""
        known = known_to(self.source)

        async def go() -> None:
            held: list[Finding] = []
            asked = (self.source.kind, self.source.settings, credential, self.source.route)
            beating = asyncio.create_task(self._beat())
            try:
                async with asyncio.timeout(LONGEST):
                    async for one in findings(*asked, since, known):
                        held.append(one)
                        if len(held) >= self.breath.size:
                            await asyncio.to_thread(self._take, held)
                            held = []
            except TimeoutError:
                raise Problem("too-slow", minutes=round(LONGEST / 60)) from None
            finally:
                beating.cancel()
                await asyncio.to_thread(self._take, held)  # what came stays, however it ended

        asyncio.run(go())
        # What a source that is asked about devices says nothing of is not gone.
        if self.sync.since is None and not kind_of(self.source.kind).about:
            missing = Missing(self.sync)
            self.sync.loss = missing.beyond(self.source.loss_share)
            if self.sync.loss is None:
                missing.deal_with()
        _end(self.sync, "done")

    async def _beat(self) -> None:
        while True:
            await asyncio.sleep(BEAT)
            await asyncio.to_thread(self._live)

    def _live(self) -> None:
        close_old_connections()
        Sync.objects.filter(pk=self.sync.pk).update(beat=int(time.time()))

    def _count(self, what: str, n: int = 1) -> None:
        self.sync.counts[what] = self.sync.counts.get(what, 0) + n

    def _take(self, held: list[Finding]) -> None:
        """Take findings in, in one transaction; how many the next has follows from how long it took."""
        began = time.monotonic()
        self._taken_in(held)
        self.breath.took(len(held), time.monotonic() - began)

    def _taken_in(self, held: list[Finding]) -> None:
        close_old_connections()
        wanted = set(self.source.take)
        sound: list[Finding] = []
        people = [finding.person for finding in held if finding.person is not None]
        for one in held:
            if one.person is not None:
                continue
            self._count("found")
            for fault in one.faults[: max(0, _FAULTS_KEPT - len(self.sync.faults))]:
                self.sync.faults.append({"key": one.key, "label": one.label, "says": str(fault)})
            if one.faults:
                self._count("with faults")
            if wanted:
                one.readings = [r for r in one.readings if r.section in wanted or r.section == "identity"]
            if one.key:
                sound.append(one)
        with transaction.atomic():
            told = take_in_people(
                self.source.name, people, sync=self.sync.pk, at=self.sync.made_at, organisation=self.source.organisation
            )
            for what, number in told.items():
                if number:
                    self._count(what, number)
            sightings = [f.sighting(self.label, self.at, self.collector, self.whose) for f in sound]
            for one, taken in zip(sound, take_in(sightings), strict=True):
                self._count(taken.verdict)
                before = SourceDevice.objects.filter(source=self.source, key=one.key).first()
                if before is not None and before.told:
                    tell(self.source, before, None, self.at)
                SourceDevice.objects.update_or_create(
                    source=self.source,
                    key=one.key,
                    defaults={
                        "asset_id": taken.asset or (before.asset_id if before else None),
                        "last_sync": self.sync.pk,
                        "missing_since": None,
                        "told": "",
                    },
                )
            Sync.objects.filter(pk=self.sync.pk).update(counts=self.sync.counts)
