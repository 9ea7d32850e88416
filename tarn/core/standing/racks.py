"""Racks: which height units are taken, and by whom twice."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

HEIGHTS = (6, 9, 12, 18, 24, 32, 42, 48)
"""Heights in units that racks are made in as a rule (IEC 60297)."""


@dataclass(frozen=True, slots=True)
class Slot:
    """A device in a rack: its lowest height unit, 1 at the bottom, none where nobody says, and how many it takes."""

    asset: int
    unit: int | None
    height: int = 1

    @property
    def units(self) -> range:
        """The height units it takes."""
        return range(self.unit, self.unit + self.height) if self.unit else range(0)


def height_of(slots: Iterable[Slot]) -> int:
    """Return how many height units a rack has at least: the lowest usual height that holds what stands in it."""
    top = max((s.units[-1] for s in slots if s.unit), default=1)
    return next((h for h in HEIGHTS if h >= top), top)


def taken(slots: Iterable[Slot]) -> int:
    """Return how many height units are taken by any device; those nobody has said the place of take their height."""
    known = list(slots)
    return len({u for s in known for u in s.units}) + sum(s.height for s in known if not s.unit)


def clashing(slots: Iterable[Slot]) -> set[int]:
    """Return the devices that are said to be where another is."""
    at: dict[int, list[int]] = defaultdict(list)
    for slot in slots:
        for unit in slot.units:
            at[unit].append(slot.asset)
    return {asset for assets in at.values() if len(assets) > 1 for asset in assets}
