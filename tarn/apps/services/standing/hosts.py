"""Virtual hosts with their guests, what they have given them, and where those are kept and plugged in."""

from collections import defaultdict
from collections.abc import Collection
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.clusters import clusters_told
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import HostGuest, HostOut, HostStore

RUNS = "running"


def hosts(asked: Question) -> list[HostOut]:
    """Return the virtual hosts of a selection, and those its devices are guests of, by name."""
    at, mine = asked.at, set(ids(asked))
    there, seeable = seen(at)
    then = holds("i", at)
    guests = _by_host("guests", "name, i.state, i.cores, i.memory", then)
    standing: dict[int, list[int]] = defaultdict(list)
    for edge in there.edges.of_kind("guest of"):
        standing[edge.on].append(edge.stands)
    stores = _by_host("data_stores", "name, i.size, i.full", then)
    kept = _by_host("snapshots", "guest, i.name, i.taken", then)
    links = _by_host("virtual_networks", "guest, i.network", then)
    wanted = {h for h in {*guests, *stores} & seeable if h in mine or mine.intersection(standing[h])}
    known = plates({*wanted, *(g for h in wanted for g in standing[h])}, at)
    built, of_clusters = _built(holds("s", at), wanted), clusters_told(at)
    out: list[HostOut] = []
    for host in sorted(wanted & known.keys(), key=lambda h: str(known[h]["name"])):
        clusters = of_clusters.get(host, [])
        kept_guests = {g for c in clusters for g in c.guests if len(c.nodes) > 1}
        by_name = {str(known[g]["name"]).casefold(): g for g in standing[host] if g in known}
        here: list[HostGuest] = [
            _guest(row, by_name.get(str(row[0]).casefold()), kept[host], links[host], kept_guests)
            for row in sorted(guests[host], key=lambda r: (r[1] != RUNS, str(r[0])))
        ]
        running = [g for g in here if g["state"] == RUNS]
        cores, memory = built.get(host, (None, None))
        held: list[HostStore] = [
            {"name": name, "size": size, "full": full} for name, size, full in sorted(stores[host], key=lambda s: s[0])
        ]
        out.append(
            {
                **end(host, known),
                "cores": cores,
                "memory": memory,
                "given_cores": sum(g["cores"] or 0 for g in running),
                "given_memory": sum(g["memory"] or 0 for g in running),
                "guests": here,
                "stores": held,
                "cluster": ", ".join(sorted(c.name for c in clusters)),
                "beside": sorted({n for c in clusters for n in c.nodes} - {str(known[host]["name"]).casefold()}),
            }
        )
    return out


def _guest(
    row: tuple[Any, ...],
    asset: int | None,
    kept: list[tuple[Any, ...]],
    links: list[tuple[Any, ...]],
    kept_guests: Collection[str],
) -> HostGuest:
    name, state, cores, memory = row
    mine = [taken for guest, _, taken in kept if guest == name]
    oldest = min((taken for taken in mine if taken), default=None)
    return {
        "asset": asset,
        "name": name or "",
        "state": state or "",
        "cores": cores,
        "memory": memory,
        "networks": sorted({network for guest, network in links if guest == name and network}),
        "snapshots": len(mine),
        "oldest_at": iso(oldest) if oldest else None,
        "kept": str(name or "").casefold() in kept_guests,
    }


def _by_host(section: str, columns: str, then: Sql) -> dict[int, list[tuple[Any, ...]]]:
    """Return the rows of a list by the host that tells of them."""
    out: dict[int, list[tuple[Any, ...]]] = defaultdict(list)
    for host, *told in raw_connection().execute(
        f"SELECT i.asset_id, i.{columns} FROM estate_{section}span i WHERE {then.text}", then.values
    ):
        out[host].append(tuple(told))
    return out


def _built(then: Sql, wanted: set[int]) -> dict[int, tuple[int | None, int | None]]:
    """Return cores and memory of hosts."""
    rows = raw_connection().execute(
        f"SELECT s.asset_id, s.cores, s.memory FROM estate_assetspan s WHERE {then.text} "
        f"AND s.asset_id IN ({','.join('?' * len(wanted))})",
        [*then.values, *sorted(wanted)],
    )
    return {asset: (cores, memory) for asset, cores, memory in rows}
