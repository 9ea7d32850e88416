"""Carrying a sync out: what another system knows goes through the one door, and what it dropped is dealt with."""

import asyncio
import logging
import time
from datetime import UTC, datetime
from typing import Any

from django.db import close_old_connections, transaction

from tarn.apps.discovery.asking_sources import ASKED_ABOUT, COLLECTORS, findings
from tarn.apps.discovery.models import SourceDevice, Sync
from tarn.apps.discovery.reads_known import known_to
from tarn.apps.discovery.sealing import opened
from tarn.apps.estate.actions.take_in import take_in
from tarn.apps.estate.reads.identifiers import numbers_of
from tarn.apps.people.actions.persons import gone_people, take_in_people
from tarn.apps.people.sealing import SealBroken
from tarn.collect.problems import Problem
from tarn.collect.sources.finding import Finding
from tarn.core.sections import Decision, Identity
from tarn.core.sightings import compose, make_reading

log = logging.getLogger("tarn.discovery")
BATCH = 200
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
    sync.state = "running"
    sync.save(update_fields=["state", "since"])
    try:
        _Syncer(sync).run()
    except (Problem, SealBroken) as problem:
        _end(sync, "failed", getattr(problem, "says", str(problem)))
    except Exception as error:
        log.exception("sync %d failed", sync.pk)
        _end(sync, "failed", f"{type(error).__name__}: {error}"[:500])


def _end(sync: Sync, state: str, message: str = "") -> None:
    Sync.objects.filter(pk=sync.pk).update(
        state=state, message=message, ended_at=int(time.time()), counts=sync.counts, faults=sync.faults
    )


class _Syncer:
    def __init__(self, sync: Sync) -> None:
        self.sync, self.source = sync, sync.source
        self.label = (self.source.kind, self.source.name)
        self.collector = COLLECTORS[self.source.kind]
        self.whose = self.source.organisation.name if self.source.organisation else ""
        self.at = datetime.fromtimestamp(sync.made_at, UTC)

    def run(self) -> None:
        """Ask, take in batch by batch, then look at what is no longer there."""
        credential = opened(self.source.credential) if self.source.credential else None
        since = datetime.fromtimestamp(self.sync.since, UTC).isoformat() if self.sync.since else ""
        known = known_to(self.source)

        async def go() -> None:
            held: list[Finding] = []
            asked = (self.source.kind, self.source.settings, credential, self.source.route)
            async for one in findings(*asked, since, known):
                held.append(one)
                if len(held) == BATCH:
                    await asyncio.to_thread(self._take, held)
                    held = []
            await asyncio.to_thread(self._take, held)

        asyncio.run(go())
        # What a source that is asked about devices says nothing of is not gone.
        if self.sync.since is None and self.source.kind not in ASKED_ABOUT:
            self._gone()
            if left := gone_people(
                self.source.name, sync=self.sync.pk, at=self.sync.made_at, organisation=self.source.organisation
            ):
                self._count("left", left)
        _end(self.sync, "done")

    def _count(self, what: str, n: int = 1) -> None:
        self.sync.counts[what] = self.sync.counts.get(what, 0) + n

    def _take(self, held: list[Finding]) -> None:
        close_old_connections()
        wanted = set(self.source.take)
        sound: list[Finding] = []
        people = [one.person for one in held if one.person is not None]
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
                    self._tell(before, None)
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

    def _gone(self) -> None:
        """Deal with what the other side has dropped: keep it, mark it as missing, or retire it after so many days."""
        now = self.sync.made_at
        for one in SourceDevice.objects.filter(source=self.source).exclude(last_sync=self.sync.pk):
            one.missing_since = one.missing_since or now
            self._count("no longer there")
            days = (now - one.missing_since) / 86_400
            state = ""
            if self.source.gone == "mark":
                state = "missing"
            elif self.source.gone == "retire" and days >= self.source.gone_days:
                state = "retired"
            with transaction.atomic():
                if state and one.told != state:
                    self._tell(one, state)
                    one.told = state
                one.save()

    def _tell(self, one: SourceDevice, state: str | None) -> None:
        """Hand in the source's word on a device's state; None takes it back."""
        number = numbers_of([one.asset_id]).get(one.asset_id) if one.asset_id else None
        if number is None:
            return
        readings: list[Any] = [
            make_reading("identity", Identity(tarn=number), self.collector, complete=False),
            make_reading("decision", Decision(state=state), self.collector, complete=False),
        ]
        list(take_in([compose(self.label, self.at, readings)]))
