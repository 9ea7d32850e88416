"""The company's networks by address: place, pace, maintenance, and whether only outposts reach it."""

from dataclasses import dataclass, field
from ipaddress import ip_address

from django.conf import settings
from django.db.models import Q

from tarn.apps.discovery.models import Network
from tarn.collect.sweep import Pace
from tarn.core.ranges import ALL_THERE_ARE, AddressRange, parse_ranges
from tarn.core.schedule import window_ends


def ranges_of(network: Network) -> tuple[AddressRange, ...]:
    """Return the addresses of a noted network: one range; entries of old may hold several."""
    return tuple(parse_ranges([network.range], most=ALL_THERE_ARE))


def outside_ranges() -> tuple[str, ...]:
    """Return the ranges that are marked as reached from outside the company."""
    return tuple(Network.objects.filter(outside=True).order_by("range").values_list("range", flat=True))


@dataclass
class Places:
    """The company's networks, by address: place, pace, and whether only outposts reach it."""

    networks: list[tuple[Pace, Network]] = field(default_factory=list)
    beyond: frozenset[int] = frozenset()
    _quiet: dict[int, int | None] = field(default_factory=dict)

    @classmethod
    def load(cls, organisation: int | None = None) -> "Places":
        """Read the networks, the narrowest first; for an organisation its own and those that are nobody's."""
        networks = Network.objects.all()
        if organisation is not None:
            networks = networks.filter(Q(organisation=None) | Q(organisation=organisation))
        held = [(Pace(ranges_of(n), n.at_once, n.pause_ms / 1000), n) for n in networks]
        beyond = frozenset(Network.objects.exclude(outposts=None).values_list("pk", flat=True))
        return cls(sorted(held, key=lambda p: sum(r.size for r in p[0].ranges)), beyond)

    def _of(self, address: str) -> tuple[Pace, Network] | None:
        parsed = ip_address(address)
        return next((n for n in self.networks if any(parsed in r for r in n[0].ranges)), None)

    def pace(self, address: str) -> Pace | None:
        """Return the pace of an address's network."""
        found = self._of(address)
        return found[0] if found else None

    def place(self, address: str) -> str:
        """Return the place an address's network serves."""
        found = self._of(address)
        return found[1].place if found else ""

    def stretches(self, addresses: list[str]) -> list[tuple[AddressRange, str, int, float]]:
        """Return the ranges of networks that any of some addresses lie in: each with its place and its pace."""
        held = {id(found[1]): found[1] for a in addresses if (found := self._of(a)) is not None}
        return [(r, n.place, n.at_once, n.pause_ms / 1000) for n in held.values() for r in ranges_of(n)]

    def named(self, address: str) -> str:
        """Return the name of an address's network, or its range where it has none."""
        found = self._of(address)
        return (found[1].name or found[1].range) if found else ""

    def under_maintenance(self, address: str, now: int) -> tuple[str, int] | None:
        """Return the network and the end of the maintenance an address lies in now."""
        found = self._of(address)
        if found is None or not found[1].quiet:
            return None
        network = found[1]
        if network.pk not in self._quiet:
            self._quiet[network.pk] = window_ends(network.quiet, network.quiet_minutes, now, settings.TIME_ZONE)
        ends = self._quiet[network.pk]
        return (network.name or network.range, ends) if ends else None

    def beyond_reach(self, address: str) -> Network | None:
        """Return the network of an address where only outposts reach it."""
        found = self._of(address)
        return found[1] if found and found[1].pk in self.beyond else None
