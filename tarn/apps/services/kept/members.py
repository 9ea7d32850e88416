"""Who is a member of which part of a service, and why: its rules asked as of a moment, and what people put beside."""

import time
from collections import defaultdict
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.selections.membership import members_of
from tarn.apps.estate.selections.unmoved import EDGES, moved, reads_of
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, counted
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.apps.services.models import Service
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.edges import version
from tarn.core.filters.parse import FilterError
from tarn.core.standing.services import Part

_BY_CLOCK = frozenset(("clock", "rulings", "people", "advisories"))
"""What makes a rule mean something else without new evidence, and is not counted among what members rest on."""
IN_A_CIRCLE = "The services are made of each other in a circle"
_within: ContextVar[tuple[str, ...]] = ContextVar("services being reckoned", default=())


@dataclass(frozen=True)
class Members:
    """The members of a service's parts: by part why each is one. `trouble`: what could not be reckoned, in words;
    `minute`: in which it was reckoned, where it goes by the clock; `reads`: what its rules read (`unmoved`); `edges`:
    of which version of what stands on what, where that is among it."""

    parts: Mapping[str, Mapping[int, tuple[str, ...]]]
    needs: Mapping[str, int]
    trouble: tuple[str, ...] = ()
    minute: int | None = None
    reads: frozenset[str] = frozenset()
    edges: int = 0

    @property
    def all(self) -> frozenset[int]:
        """Every member, of whatever part."""
        return frozenset(a for members in self.parts.values() for a in members)

    @property
    def as_parts(self) -> tuple[Part, ...]:
        """The parts as what stops is reckoned by."""
        return tuple(Part(name, frozenset(held), self.needs.get(name, 1)) for name, held in self.parts.items())


SERVICES = counted("services")
"""Services, members by hand, and noise, as people keep them."""
_GROUNDS = (EVIDENCE, DEFINITIONS, SERVICES, RECOGNISERS, counted("carried"))
_members: Remembered[Members] = Remembered("members of services", *_GROUNDS, most=1_000)


def members(service: Service, at: int | None) -> Members:
    """Return the members of a service as of a moment, by its rules as they are now. What cannot be asked is told as
    trouble and the rest stands. What goes by the clock is reckoned anew every minute."""
    found = _members.get(
        (service.pk, at),
        lambda: reckoned(service, at),
        lambda before, since: before if at is None and _all_stand([before], since) else None,
    )
    if at is not None or found.minute in (None, _minute()):
        return found
    found = reckoned(service, at)
    _members.put((service.pk, at), found)
    return found


def _all_stand(before: Collection[Members], since: int) -> bool:
    """Whether members cannot be others for the evidence after a sighting: nothing that is read is otherwise."""
    of_versions = {m.edges for m in before if EDGES in m.reads}
    if of_versions and of_versions != {version()}:
        return False
    return not moved(since).any_of(frozenset().union(*(m.reads for m in before)))


def _minute() -> int:
    return int(time.time()) // 60


def all_members(at: int | None) -> Mapping[int, Members]:
    """Return the members of every service, as of a moment."""
    found = _all.get(
        at,
        lambda: _each(at),
        lambda before, since: before if at is None and _all_stand(before.values(), since) else None,
    )
    if at is None and any(m.minute not in (None, _minute()) for m in found.values()):
        found = _each(at)
        _all.put(at, found)
    return found


def _each(at: int | None) -> Mapping[int, Members]:
    return {s.pk: members(s, at) for s in Service.objects.select_related("organisation").prefetch_related("by_hand")}


_all: Remembered[Mapping[int, Members]] = Remembered("members of all services", *_GROUNDS, most=4)


@dataclass
class _Made:
    parts: dict[str, dict[int, list[str]]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(list)))
    trouble: list[str] = field(default_factory=list)
    by_clock: bool = False
    reads: frozenset[str] = frozenset()


def reckoned(service: Service, at: int | None) -> Members:
    """Reckon the members of a service as it is given, kept or not. Raises FilterError where it is being reckoned."""
    made, edges = _Made(), version() if at is None else 0
    with _reckoning(service.name):
        for part in service.parts:
            made.parts[part["name"]]
            for rule in part["rules"]:
                try:
                    for asset in _asked(rule["filter"], at, service, made):
                        made.parts[part["name"]][asset].append(rule["why"] or rule["filter"])
                except FilterError as error:
                    made.trouble.append(f"{part['name']}: {error.message}")
    if service.pk:
        _by_hand(service, at, made)
    return Members(
        {name: {a: tuple(why) for a, why in sorted(held.items())} for name, held in made.parts.items()},
        {part["name"]: part["needs"] for part in service.parts},
        tuple(dict.fromkeys(made.trouble)),
        _minute() if made.by_clock else None,
        made.reads,
        edges,
    )


def _asked(text: str, at: int | None, service: Service, made: _Made) -> frozenset[int]:
    """Ask a rule in nobody's name, within the organisation of its service."""
    mine = None if service.organisation is None else frozenset({service.organisation.name})
    with asking_as(NOBODY.limited(mine)):
        asked = question(text, at)
        made.by_clock |= not asked.rests_on.isdisjoint(_BY_CLOCK)
        made.reads |= reads_of(asked.checked)
        return members_of(text) if at is None else frozenset(ids(asked))


def _by_hand(service: Service, at: int | None, made: _Made) -> None:
    every = list(service.by_hand.all())
    there = _asked("", at, service, made) if every else frozenset()
    for said in every:
        if at is not None and said.made_at > at:
            continue
        held = made.parts[said.part]
        if said.out:
            held.pop(said.asset_id, None)
        elif said.asset_id in there:
            held[said.asset_id].append(f"{said.made_by}: {said.why}")


@contextmanager
def _reckoning(name: str) -> Iterator[None]:
    """Note that a service is being reckoned. Raises FilterError with the circle in words where it already is."""
    before = _within.get()
    if name in before:
        raise FilterError(f"{IN_A_CIRCLE}: {' → '.join([*before[before.index(name) :], name])}.", 0)
    token = _within.set((*before, name))
    try:
        yield
    finally:
        _within.reset(token)
