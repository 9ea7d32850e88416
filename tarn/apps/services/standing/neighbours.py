"""What network devices tell of each other, and which of two is nearer to the way out."""

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.core.standing.edge import Edge
from tarn.core.standing.graph import distances

WAYS_OUT = ("router", "firewall")
"""Kinds of devices through which a network is left."""


@dataclass(frozen=True, slots=True)
class Neighbouring:
    """A port and who is heard at its other end; `both`: the other end hears this one as well."""

    asset: int
    port: str
    other: int
    other_port: str
    since: int
    both: bool


def hardware_addresses(at: int | None) -> dict[int, set[str]]:
    """Return the hardware addresses of every asset as of a moment."""
    out: dict[int, set[str]] = defaultdict(set)
    for table in ("estate_interfacesspan", "estate_assetspan"):
        then = holds("i", at)
        for asset, mac in raw_connection().execute(
            f"SELECT i.asset_id, i.mac FROM {table} i WHERE i.mac IS NOT NULL AND {then.text}", then.values
        ):
            out[asset].add(mac)
    return out


def neighbours(at: int | None) -> list[Neighbouring]:
    """Return who is heard at which port; those of whom nobody knows are left out."""
    whose = {mac: asset for asset, macs in hardware_addresses(at).items() for mac in macs}
    then = holds("n", at)
    told = [
        (asset, port, whose[chassis], remote or "", begins)
        for asset, port, chassis, remote, begins in raw_connection().execute(
            "SELECT n.asset_id, n.port, n.chassis, n.remote_port, n.valid_from FROM estate_neighboursspan n "
            f"WHERE {then.text} ORDER BY n.asset_id, n.port",
            then.values,
        )
        if whose.get(chassis, asset) != asset
    ]
    ends = {(asset, other) for asset, _, other, _, _ in told}
    return [Neighbouring(a, port, o, remote, begins, (o, a) in ends) for a, port, o, remote, begins in told]


def uplinks(at: int | None, read: Mapping[int, int]) -> Iterator[Edge]:
    """Yield which network device stands on which neighbour: the one with fewer steps to a way out. Of two as near as
    each other neither stands on the other, and where no way out is known, nothing is said.
    `read`: when each asset was last read."""
    told = neighbours(at)
    far = steps_out(at)
    done: set[tuple[int, int, str]] = set()
    # First what the upper end says: it knows its own port best.
    for n in sorted(told, key=lambda n: far.get(n.asset, 0) - far.get(n.other, 0)):
        if n.asset not in far or n.other not in far or far[n.asset] == far[n.other]:
            continue
        below, above, port = (n.other, n.asset, n.port) if far[n.asset] < far[n.other] else (n.asset, n.other, "")
        if port == "" and any((below, above) == d[:2] for d in done):
            continue
        port = port or n.other_port
        if (below, above, port) not in done:
            done.add((below, above, port))
            witnesses = tuple(sorted({n.asset, n.other} if n.both else {n.asset}))
            heard = max(n.since, *(read.get(w, 0) for w in witnesses))
            yield Edge(below, above, "plugged into", port, "", n.since, heard, 100 if n.both else 90, witnesses)


def steps_out(at: int | None) -> dict[int, int]:
    """Return how many steps each piece of network gear is from a way out; those no way leads to are left out."""
    beside: dict[int, set[int]] = defaultdict(set)
    for n in neighbours(at):
        beside[n.asset].add(n.other)
        beside[n.other].add(n.asset)
    return distances(beside, ways_out(at) & beside.keys())


def ways_out(at: int | None) -> set[int]:
    """Return the devices through which a network is left."""
    then = holds("s", at)
    return {
        asset
        for (asset,) in raw_connection().execute(
            "SELECT s.asset_id FROM estate_assetspan s JOIN estate_term w ON w.id = s.kind_id "
            f"WHERE w.text IN ({','.join('?' * len(WAYS_OUT))}) AND {then.text}",
            [*WAYS_OUT, *then.values],
        )
    }
