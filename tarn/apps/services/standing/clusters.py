"""Clusters as their nodes tell of them: who is online, and what they keep running on one of them."""

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection


@dataclass
class Cluster:
    """A cluster as one of its nodes tells of it: its name, its online nodes by name, the guests and addresses it keeps,
    all of these in lower case, and since when all of that is so."""

    name: str = ""
    nodes: set[str] = field(default_factory=set)
    guests: set[str] = field(default_factory=set)
    addresses: set[str] = field(default_factory=set)
    since: int = 0

    def online(self, names: Mapping[str, int]) -> set[int]:
        """Return the devices that are its online nodes, by names only one device has."""
        met = (names.get(n) or names.get(n.partition(".")[0]) for n in self.nodes)
        return {asset for asset in met if asset is not None}


def clusters_told(at: int | None) -> dict[int, list[Cluster]]:
    """Return by device the clusters it tells of, as of a moment."""
    then = holds("c", at)
    met: dict[tuple[int, str], Cluster] = defaultdict(Cluster)
    for asset, name, sort, part, state, begins in raw_connection().execute(
        "SELECT c.asset_id, c.cluster, c.sort, lower(c.name), c.state, c.valid_from FROM estate_cluster_partsspan c "
        f"WHERE {then.text}",
        then.values,
    ):
        cluster = met[asset, name]
        cluster.name = name
        cluster.since = max(cluster.since, begins)
        if sort == "node" and state == "online":
            cluster.nodes.add(part)
        elif sort in ("guest", "address"):
            (cluster.guests if sort == "guest" else cluster.addresses).add(part)
    out: dict[int, list[Cluster]] = defaultdict(list)
    for (asset, _), cluster in met.items():
        out[asset].append(cluster)
    return dict(out)


def kept_by_clusters(at: int | None, names: Mapping[str, int]) -> dict[str, frozenset[int]]:
    """Return by address that a cluster keeps the devices that may hold it: its online nodes."""
    out: dict[str, set[int]] = defaultdict(set)
    for told in clusters_told(at).values():
        for cluster in told:
            for address in cluster.addresses:
                out[address] |= cluster.online(names)
    return {address: frozenset(of) for address, of in out.items() if of}
