"""Edges that are told as they are: guests, plugs, and file systems and shares of others."""

import time
from collections import defaultdict
from collections.abc import Iterator, Mapping

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.clusters import clusters_told
from tarn.apps.services.standing.neighbours import hardware_addresses, uplinks
from tarn.core.standing.edge import HEARD_WITHIN, Edge
from tarn.core.standing.mounts import exported

_KEPT = 90
"""How sure it is that a cluster starts what it keeps elsewhere."""


def guests(at: int | None, read: Mapping[int, int]) -> Iterator[Edge]:
    """Yield which guest runs on which host, by the UUID both tell. A cloned guest brings its UUID along: then the name
    the host has for it says which of them it is, and where no name does, each may be, which is less sure."""
    for edge, _ in _hosted(at, read):
        yield edge


def _hosted(at: int | None, read: Mapping[int, int]) -> Iterator[tuple[Edge, str]]:
    """Yield which guest runs on which host, and what the host calls it."""
    there, said = holds("s", at), holds("g", at)
    met: dict[tuple[int, str], list[tuple[int, bool, int, str]]] = defaultdict(list)
    for guest, host, uuid, told, named, begins in raw_connection().execute(
        "SELECT s.asset_id, g.asset_id, lower(g.uuid), ifnull(g.name, ''), "
        "lower(ifnull(g.name, '')) = lower(ifnull(s.name, '')), "
        "g.valid_from FROM estate_guestsspan g JOIN estate_assetspan s ON lower(s.uuid) = lower(g.uuid) "
        f"WHERE ifnull(g.uuid, '') != '' AND {there.text} AND {said.text}",
        [*there.values, *said.values],
    ):
        met[host, uuid].append((guest, bool(named), begins, told))
    for (host, _), guests in met.items():
        sure = 100 if len(guests) == 1 else 90 if any(named for _, named, *_ in guests) else 50
        for guest, named, begins, told in guests:
            if named or sure != 90:
                heard = max(begins, read.get(host, 0))
                yield Edge(guest, host, "guest of", since=begins, heard=heard, sure=sure, witnesses=(host,)), told


def moving(at: int | None, read: Mapping[int, int], names: Mapping[str, int]) -> Iterator[Edge]:
    """Yield on which other hosts a guest would be started were its own gone: those that are online in the cluster its
    host tells of, where that keeps the guest."""
    clusters = clusters_told(at)
    if not clusters:
        return
    for edge, called in _hosted(at, read):
        for cluster in clusters.get(edge.on, ()):
            if called.casefold() in cluster.guests:
                for other in sorted(cluster.online(names) - {edge.on}):
                    since = max(edge.since, cluster.since)
                    yield edge._replace(on=other, kind="may move to", since=since, sure=_KEPT)


def links(at: int | None, read: Mapping[int, int]) -> Iterator[Edge]:
    """Yield what is plugged into what: network devices by what they tell of each other, all others by where their
    addresses were learnt."""
    up = list(uplinks(at, read))
    between = {frozenset((e.stands, e.on)) for e in up}
    yield from up
    yield from (e for e in _plugs(at, read) if frozenset((e.stands, e.on)) not in between)


def _plugs(at: int | None, read: Mapping[int, int]) -> Iterator[Edge]:
    """Yield the plugs: of the ports an asset's hardware addresses were learnt at, the one with the fewest others; a
    port to another switch has many behind it."""
    db, then = raw_connection(), holds("f", at)
    learnt: dict[tuple[int, str], list[tuple[str, int]]] = defaultdict(list)
    for switch, port, mac, begins in db.execute(
        f"SELECT f.asset_id, f.port, f.mac, f.valid_from FROM estate_forwardingspan f WHERE {then.text}", then.values
    ):
        learnt[switch, port].append((mac, begins))
    behind: dict[str, tuple[int, int, str, int]] = {}
    for (switch, port), met in learnt.items():
        for mac, begins in met:
            if mac not in behind or len(met) < behind[mac][0]:
                behind[mac] = (len(met), switch, port, begins)
    for asset, macs in hardware_addresses(at).items():
        found = [behind[m] for m in macs if m in behind and behind[m][1] != asset]
        if found:
            others, switch, port, begins = min(found)
            sure = 100 if others == 1 else 80
            heard = max(begins, read.get(switch, 0))
            yield Edge(asset, switch, "plugged into", port, "", begins, heard, sure, (switch,))


def mounts(
    at: int | None, read: Mapping[int, int], names: Mapping[str, int], addresses: Mapping[str, int]
) -> Iterator[Edge]:
    """Yield who mounts what of whom: NFS by server and path, SMB by server and share; a server by its address, or by a
    name only one device has."""
    then = holds("f", at)
    for asset, device, begins in raw_connection().execute(
        "SELECT f.asset_id, f.device, f.valid_from FROM estate_filesystemsspan f "
        f"WHERE (f.device LIKE '%:/%' OR f.device LIKE '//%') AND {then.text}",
        then.values,
    ):
        server, export = exported(device)
        named = server.casefold()
        other = addresses.get(server) or names.get(named) or names.get(named.split(".")[0])
        if other is not None and other != asset:
            heard = max(begins, read.get(asset, 0))
            yield Edge(asset, other, "mounts", export, "", begins, heard, 100, (asset,))


def opened(
    at: int | None, read: Mapping[int, int], names: Mapping[str, int], addresses: Mapping[str, int]
) -> Iterator[Edge]:
    """Yield who has which SMB share open, as its server tells: for as long as talk counts after it was last heard."""
    now = at or int(time.time())
    met: dict[tuple[int, int, str], tuple[int, int, bool]] = {}
    for server, share, client, begins, ends in raw_connection().execute(
        "SELECT u.asset_id, u.share, u.client, u.valid_from, u.valid_to FROM estate_share_usersspan u "
        "WHERE u.valid_from <= ? AND (u.valid_to IS NULL OR u.valid_to > ?)",
        [now, now - HEARD_WITHIN],
    ):
        asset = addresses.get(client) or names.get(client.casefold())
        if asset is None or asset == server:
            continue
        ended = ends is not None and ends <= now
        last = ends if ended else max(begins, read.get(server, 0))
        since, heard, quiet = met.get((asset, server, share), (begins, 0, True))
        met[asset, server, share] = min(begins, since), max(last, heard), ended and quiet
    for (asset, server, share), (since, heard, quiet) in met.items():
        yield Edge(asset, server, "mounts", share, "", since, heard, 100, (server,), quiet)
