"""What another system says of one device."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from tarn.core.mapping import MappingError
from tarn.core.sections import Identity
from tarn.core.sightings import Sighting, compose, make_id, make_reading


@dataclass(slots=True)
class Finding:
    """One device of another system: `key` is its own id there, `label` what it is called, and its readings."""

    key: str
    label: str
    readings: list[Any]
    faults: list[MappingError] = field(default_factory=list)
    facts: dict[str, Any] = field(default_factory=dict)

    def sighting(self, source: tuple[str, str], at: datetime, collector: str) -> Sighting:
        """Return the sighting to hand in. The id there identifies it from then on, whatever it is called."""
        instance = make_id(*source, self.key) if self.key else None
        mark = [make_reading("identity", Identity(instance=instance), collector)] if instance else []
        return compose(source, at, [*self.readings, *mark])
