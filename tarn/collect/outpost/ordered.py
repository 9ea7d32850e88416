"""How an order is looked at, whoever was given it: its settings, its paces, what is known of others."""

import uuid
from collections.abc import AsyncIterator, Callable
from dataclasses import dataclass, field
from ipaddress import ip_address

from tarn.collect.found import Found, found_of
from tarn.collect.guard import Guard
from tarn.collect.hints import Hints
from tarn.collect.look import LookSettings
from tarn.collect.outpost.wire import HandIn, SweepOrder, unpack
from tarn.collect.routes import Route
from tarn.collect.sweep import Halt, Pace, sweep
from tarn.core.ranges import parse_range


@dataclass(slots=True)
class Work:
    """An order being looked at: the wish to halt, and what came, or how far addresses got, since the last hand-in."""

    order: SweepOrder
    halt: Halt = field(default_factory=Halt)
    found: list[Found] = field(default_factory=list)
    stages: dict[str, int] = field(default_factory=dict)

    def note(self, address: str, stage: int) -> None:
        """Note how far an address got."""
        self.stages[address] = stage

    def hand_in(self, guard: Guard, *, done: bool) -> HandIn:
        """Return what came since the last hand-in; it is told once."""
        found, self.found = self.found, []
        stages, self.stages = self.stages, {}
        stages = {a: s for a, s in stages.items() if all(f.address != a for f in found)}
        return HandIn(uuid.uuid4().hex, self.order.run, self.order.lease, found, stages, guard.counts(), done)


@dataclass(frozen=True)
class _Ordered:
    """What the engine is told of an order."""

    settings: LookSettings
    hints: Hints
    pace: Callable[[str], Pace | None]
    place: Callable[[str], str]


def _ordered(order: SweepOrder, route: Route, guard: Guard) -> _Ordered:
    """Return how an order is looked at over a route."""
    held = [(Pace((parse_range(n.range),), n.at_once, n.pause), n.place) for n in order.networks]
    paces = sorted(held, key=lambda p: p[0].ranges[0].size)
    places = {id(pace): place for pace, place in paces}

    def pace(address: str) -> Pace | None:
        parsed = ip_address(address)
        return next((p for p, _ in paces if parsed in p.ranges[0]), None)

    def place(address: str) -> str:
        return places.get(id(pace(address)), "")

    settings = LookSettings(
        route,
        tuple(unpack(c) for c in order.credentials),
        frozenset(order.protocols),
        order.patience,
        ports=tuple(order.ports),
        worked={a: set(names) for a, names in order.worked.items()},
        host_keys={a: frozenset(keys) for a, keys in order.host_keys.items()},
        keys_met=frozenset(order.keys_met),
        guard=guard,
        limited={c: frozenset(several) for c, several in order.limited.items()},
        place=place,
    )
    return _Ordered(settings, Hints(dict(order.macs), dict(order.behind)), pace, place)


async def look_at(
    order: SweepOrder, route: Route, guard: Guard, halt: Halt, stage: Callable[[str, int], None]
) -> AsyncIterator[Found]:
    """Look at the addresses of an order over a route, and yield each as it is handed in; `guard` counts refusals."""
    told = _ordered(order, route, guard)
    looks = sweep(
        order.addresses, told.settings, at_once=order.at_once, pace=told.pace, halt=halt, stage=stage, hints=told.hints
    )
    async for look in looks:
        yield found_of(look, ("sweep", order.sweep), told.place(look.address), order.organisation)
