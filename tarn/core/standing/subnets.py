"""Networks within networks: the narrowest an address lies in."""

from collections.abc import Callable, Iterable
from ipaddress import IPv4Address, IPv4Network, IPv6Address, IPv6Network

Network = IPv4Network | IPv6Network


def within(networks: Iterable[Network]) -> Callable[[IPv4Address | IPv6Address], Network | None]:
    """Return what finds the narrowest of networks that an address lies in, by a look at each length of prefix."""
    lengths: dict[int, dict[int, dict[int, Network]]] = {4: {}, 6: {}}
    for network in networks:
        shift = network.max_prefixlen - network.prefixlen
        lengths[network.version].setdefault(shift, {})[int(network.network_address) >> shift] = network

    def find(address: IPv4Address | IPv6Address) -> Network | None:
        of = lengths[address.version]
        return next((n for shift in sorted(of) if (n := of[shift].get(int(address) >> shift)) is not None), None)

    return find
