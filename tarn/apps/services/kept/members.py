"""Who is a member of which part of a service, and why: its rules asked as of a moment, and what people put beside."""

import time
from collections import defaultdict
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.selections.membership import members_of
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, counted
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.apps.services.models import Service
from tarn.core.filters.parse import FilterError
from tarn.core.standing.services import Part

IN_A_CIRCLE = "The services are made of each other in a circle"
_within: ContextVar[tuple[str, ...]] = ContextVar("services being reckoned", default=())


@dataclass(frozen=True)
class Members:
    """The members of a service's parts: by part why each is one. `trouble`: what could not be reckoned, in words."""

    parts: Mapping[str, Mapping[int, tuple[str, ...]]]
    needs: Mapping[str, int]
    trouble: tuple[str, ...] = ()

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
_members: Remembered[Members] = Remembered("members of services", EVIDENCE, DEFINITIONS, SERVICES, most=1_000)


def members(service: Service, at: int | None) -> Members:
    """Return the members of a service as of a moment, by its rules as they are now. What cannot be asked is told as
    trouble and the rest stands. What goes by the clock is reckoned anew every minute."""
    when = at if at is not None else -(int(time.time()) // 60)
    return _members.get((service.pk, when), lambda: reckoned(service, at))


def all_members(at: int | None) -> dict[int, Members]:
    """Return the members of every service, as of a moment."""
    return {s.pk: members(s, at) for s in Service.objects.all()}


@dataclass
class _Made:
    parts: dict[str, dict[int, list[str]]] = field(default_factory=lambda: defaultdict(lambda: defaultdict(list)))
    trouble: list[str] = field(default_factory=list)


def reckoned(service: Service, at: int | None) -> Members:
    """Reckon the members of a service as it is given, kept or not. Raises FilterError where it is being reckoned."""
    made = _Made()
    with _reckoning(service.name):
        for part in service.parts:
            made.parts[part["name"]]
            for rule in part["rules"]:
                try:
                    for asset in _asked(rule["filter"], at, service):
                        made.parts[part["name"]][asset].append(rule["why"] or rule["filter"])
                except FilterError as error:
                    made.trouble.append(f"{part['name']}: {error.message}")
    if service.pk:
        _by_hand(service, at, made)
    return Members(
        {name: {a: tuple(why) for a, why in sorted(held.items())} for name, held in made.parts.items()},
        {part["name"]: part["needs"] for part in service.parts},
        tuple(dict.fromkeys(made.trouble)),
    )


def _asked(text: str, at: int | None, service: Service) -> frozenset[int]:
    """Ask a rule in nobody's name, within the organisation of its service."""
    mine = None if service.organisation is None else frozenset({service.organisation.name})
    with asking_as(NOBODY.limited(mine)):
        return members_of(text) if at is None else frozenset(ids(question(text, at)))


def _by_hand(service: Service, at: int | None, made: _Made) -> None:
    there = frozenset(_asked("", at, service))
    for said in service.by_hand.all():
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
