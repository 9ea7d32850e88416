"""What a whole sync of a source no longer names: kept, marked, retired; where it is much, at a yes."""

from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.discovery.models import Source, SourceDevice, Sync
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import spoken
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.people.actions.persons import gone_people, missing_people


class Missing:
    """Devices and people that were known to a source and that its latest sync does not name."""

    def __init__(self, sync: Sync) -> None:
        self.sync, self.source = sync, sync.source
        self.at = datetime.fromtimestamp(sync.made_at, UTC)
        known = SourceDevice.objects.filter(source=self.source)
        self.devices = list(known.filter(last_sync__lt=sync.pk))
        self.known = known.count()

    def beyond(self, share: int) -> dict[str, int] | None:
        """Return what is newly missing where that is more than `share` percent of what was known; else None."""
        newly = [d for d in self.devices if d.missing_since is None]
        before = sum(1 for d in self.devices if d.missing_since is not None)
        people, of = missing_people(self.source.name, sync=self.sync.pk, organisation=self.source.organisation)
        known = self.known - before
        if len(newly) * 100 <= known * share and people * 100 <= of * share:
            return None
        return {"devices": len(newly), "of": known, "people": people, "people_of": of}

    def deal_with(self) -> None:
        """Keep what is missing, mark it, or retire it after so many days, as the source says; people have left."""
        now = self.sync.made_at
        for source_device in self.devices:
            source_device.missing_since = source_device.missing_since or now
            self._count("no longer there")
            days = (now - source_device.missing_since) / 86_400
            state = ""
            if self.source.gone == "mark":
                state = "missing"
            elif self.source.gone == "retire" and days >= self.source.gone_days:
                state = "retired"
            with transaction.atomic():
                if state and source_device.told != state:
                    tell(self.source, source_device, state, self.at)
                    source_device.told = state
                source_device.save()
        if left := gone_people(
            self.source.name, sync=self.sync.pk, at=self.sync.made_at, organisation=self.source.organisation
        ):
            self._count("left", left)

    def _count(self, what: str, n: int = 1) -> None:
        self.sync.counts[what] = self.sync.counts.get(what, 0) + n


def tell(source: Source, source_device: SourceDevice, state: str | None, at: datetime) -> None:
    """Say of a device what its being missing means for its state; None takes it back.

    That a source misses a device is no sighting of it: it is said as a rule says things.
    """
    number = numbers_of([source_device.asset_id]).get(source_device.asset_id) if source_device.asset_id else None
    if number is None:
        return
    facts: dict[str, Any] = {"state": state}
    list(take_in([spoken(("rule", f"what {source.name} misses"), number, facts, at)]))
