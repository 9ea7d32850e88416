"""The networks of a selection: how much of it each holds, and what lies in none."""

from bisect import bisect_left, bisect_right
from collections import Counter
from collections.abc import Iterable

from typing_extensions import TypedDict

from tarn.apps.discovery.models import Network
from tarn.apps.discovery.networks.places import ranges_of
from tarn.apps.discovery.networks.shown import in_sight
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.rows import rows_of
from tarn.core.ranges import AddressRange, address_key

MOST_KINDS = 3


class KindCount(TypedDict):
    kind: str
    count: int


class NetworkShare(TypedDict):
    """What a network holds of a selection. `addresses`: how many it has; `filter` opens exactly its devices."""

    id: int
    range: str
    name: str
    place: str
    devices: int
    addresses: int
    kinds: list[KindCount]
    last_seen: str | None
    filter: str


class NetworksOfSelection(TypedDict):
    """A selection by network. A device counts in every network that holds its address, so one within another is
    counted in both. `outside`: with an address that none of them holds, `without`: with none known."""

    total: int
    networks: list[NetworkShare]
    outside: int
    outside_filter: str
    without: int


def networks_of(text: str, at: int | None) -> NetworksOfSelection:
    """Return the networks of a selection that hold any of it, the fullest first. Raises FilterError."""
    rows = list(rows_of("asset", ["address", "kind", "last_seen"], question(text, at), "", []))
    placed = sorted(((address_key(r["address"]), r) for r in rows if r["address"]), key=lambda p: p[0])
    keys = [key for key, _ in placed]
    shares, inside, asked = [], [False] * len(keys), []
    for network in in_sight():
        condition = _within(ranges_of(network))
        asked.append(condition)
        held = []
        for address_range in ranges_of(network):
            first, last = (
                bisect_left(keys, address_key(str(address_range.first))),
                bisect_right(keys, address_key(str(address_range.last))),
            )
            held += [row for _, row in placed[first:last]]
            inside[first:last] = [True] * (last - first)
        if held:
            shares.append(_share(network, held, condition))
    elsewhere = f"address != none and not ({' or '.join(asked)})" if asked else "address != none"
    return {
        "total": len(rows),
        "networks": sorted(shares, key=lambda n: (-n["devices"], n["range"])),
        "outside": inside.count(False),
        "outside_filter": elsewhere,
        "without": len(rows) - len(keys),
    }


def _within(ranges: Iterable[AddressRange]) -> str:
    parts = [f"address in {address_range.text}" for address_range in ranges]
    return parts[0] if len(parts) == 1 else f"({' or '.join(parts)})"


def _share(network: Network, held: list[dict[str, str | None]], condition: str) -> NetworkShare:
    kinds = Counter(row["kind"] or "" for row in held)
    return {
        "id": network.pk,
        "range": network.range,
        "name": network.name,
        "place": network.place,
        "devices": len(held),
        "addresses": sum(address_range.size for address_range in ranges_of(network)),
        "kinds": [{"kind": kind, "count": number} for kind, number in kinds.most_common(MOST_KINDS)],
        "last_seen": max((row["last_seen"] for row in held if row["last_seen"]), default=None),
        "filter": condition,
    }
