"""What becomes of services when devices stop: a service has parts, and each needs so many of its members."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

ServiceFate = Literal["stops", "weakened", "carries on"]


@dataclass(frozen=True, slots=True)
class Part:
    """A part of a service, such as its database: `members`, of which it needs `needs` to carry on, or all for 0."""

    name: str
    members: frozenset[int]
    needs: int = 1

    @property
    def needed(self) -> int:
        """How many of the members there are now it needs; never more than there are."""
        return len(self.members) if self.needs == 0 else min(self.needs, len(self.members))

    @property
    def spare(self) -> int:
        """How many more may go before it stops; below none where it has too few already."""
        wanted = len(self.members) if self.needs == 0 else self.needs
        return len(self.members) - wanted


@dataclass(frozen=True, slots=True)
class PartFate:
    """What becomes of a part: the members that are `down`, those that are `left`, and how many it needs."""

    part: str
    fate: ServiceFate
    down: frozenset[int]
    left: frozenset[int]
    needed: int


def part_fate(part: Part, down: Collection[int]) -> PartFate:
    """Return what becomes of a part when devices are down. One nobody is known to be of goes on as it is."""
    lost = part.members & set(down)
    left = part.members - lost
    fate: ServiceFate = "carries on" if not lost else "stops" if len(left) < part.needed else "weakened"
    return PartFate(part.name, fate, lost, left, part.needed)


@dataclass(frozen=True, slots=True)
class Fate:
    """What becomes of a service, and of those of its parts that have lost something, the worst first."""

    service: int
    fate: ServiceFate
    parts: tuple[PartFate, ...]


def fate_of(service: int, parts: Iterable[Part], down: Collection[int], weakened: Collection[int] = ()) -> Fate:
    """Return what becomes of a service: it stops with any of its parts, and is weakened where a part has lost a member
    it can do without, or a member of it is weakened itself."""
    known = tuple(parts)
    hit = sorted(
        (f for f in (part_fate(p, down) for p in known) if f.fate != "carries on"),
        key=lambda f: (f.fate != "stops", f.part),
    )
    if hit:
        return Fate(service, hit[0].fate, tuple(hit))
    touched = any(p.members & set(weakened) for p in known)
    return Fate(service, "weakened" if touched else "carries on", ())


class Watching:
    """Services by their members, so that only those a stop can touch are looked at. `hosts`: by program the device it
    runs on: whose program stops is lost to the services it is a member of, though it may do other things still."""

    def __init__(self, services: Mapping[int, Iterable[Part]], hosts: Mapping[int, int] | None = None) -> None:
        self._hosts = hosts or {}
        self._parts = {number: tuple(parts) for number, parts in services.items()}
        self._of: dict[int, set[int]] = {}
        for number, parts in self._parts.items():
            for part in parts:
                for member in part.members:
                    self._of.setdefault(member, set()).add(number)

    @property
    def members(self) -> Collection[int]:
        """Every member of any of them."""
        return self._of.keys()

    def fates(self, down: Collection[int], weakened: Collection[int] = ()) -> list[Fate]:
        """Return the services that stop or are weakened, those that stop first."""
        down, weakened = self._on_devices(down), self._on_devices(weakened)
        touched = {s for member in (*down, *weakened) for s in self._of.get(member, ())}
        found = (fate_of(s, self._parts[s], down, weakened) for s in touched)
        return sorted((f for f in found if f.fate != "carries on"), key=lambda f: (f.fate != "stops", f.service))

    def stopped(self, down: Collection[int]) -> list[int]:
        """Return the services that stop."""
        down = self._on_devices(down)
        touched = {s for member in down for s in self._of.get(member, ())}
        return sorted(
            s for s in touched if any(part_fate(p, down).fate == "stops" for p in self._parts[s] if p.members)
        )

    def _on_devices(self, nodes: Collection[int]) -> Collection[int]:
        return {self._hosts.get(n, n) for n in nodes} if self._hosts else nodes
