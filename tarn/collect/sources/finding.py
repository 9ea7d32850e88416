"""What another system says of one device, or of one person."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from tarn.core.mapping import MappingError
from tarn.core.people import Person
from tarn.core.sections import Identity, Placement
from tarn.core.sightings import Sighting, compose, make_id, make_reading


def whose(organisation: str, collector: str) -> list[Any]:
    """Return the reading that says whose device it is, where that is known."""
    return [make_reading("placement", Placement(organisation=organisation), collector)] if organisation else []


@dataclass(slots=True)
class Finding:
    """One device of another system: `key` is its own id there, `label` what it is called, and its readings."""

    key: str
    label: str
    readings: list[Any]
    faults: list[MappingError] = field(default_factory=list)
    facts: dict[str, Any] = field(default_factory=dict)
    person: Person | None = None
    """Set where it is no device but a person."""

    def sighting(self, source: tuple[str, str], at: datetime, collector: str, organisation: str = "") -> Sighting:
        """Return the sighting to hand in, of an organisation's device where the source is one's.

        The id there identifies it from then on, whatever it is called.
        """
        instance = make_id(*source, self.key) if self.key else None
        mark = [make_reading("identity", Identity(instance=instance), collector)] if instance else []
        return compose(source, at, [*self.readings, *mark, *whose(organisation, collector)])
