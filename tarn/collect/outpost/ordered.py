"""How an order is looked at, whoever was given it: its settings, its paces, what is known of others."""

from collections.abc import Callable
from dataclasses import dataclass
from ipaddress import ip_address

from tarn.collect.guard import Guard
from tarn.collect.hints import Hints
from tarn.collect.look import LookSettings
from tarn.collect.outpost.wire import SweepOrder, unpack
from tarn.collect.routes import Route
from tarn.collect.sweep import Pace
from tarn.core.ranges import parse_range


@dataclass(frozen=True)
class Ordered:
    """What the engine is told of an order."""

    settings: LookSettings
    hints: Hints
    pace: Callable[[str], Pace | None]
    place: Callable[[str], str]


def ordered(order: SweepOrder, route: Route, guard: Guard) -> Ordered:
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
    return Ordered(settings, Hints(dict(order.macs), dict(order.behind)), pace, place)
