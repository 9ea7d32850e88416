"""The edges of what stands on what, derived of spans as of any moment: guests, plugs, and talk as it was heard."""

import time
from collections import defaultdict
from collections.abc import Hashable, Iterator, Mapping

from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, Ground
from tarn.apps.services.models import Noise
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.neighbours import hardware_addresses, uplinks
from tarn.apps.services.standing.pairs import stand_ins
from tarn.apps.services.standing.power import powered
from tarn.apps.services.standing.programs import programs
from tarn.core.standing.edge import Edge
from tarn.core.standing.graph import Graph, graph_of
from tarn.core.standing.mounts import exported
from tarn.core.standing.programs import graph_with

DAY = 86_400
_PAIRED = 80
"""How sure it is that who shares a virtual address answers for the other."""
HEARD_WITHIN = 30
"""Days for which talk counts after it was last heard."""


def _noise_said() -> Hashable:
    return tuple(Noise.objects.values_list("pk", "process", "port"))


NOISE = Ground("noise", _noise_said)
_graph: Remembered[Graph] = Remembered("what stands on what", EVIDENCE, NOISE, most=3, one_at_a_time=True)


def graph(at: int | None) -> Graph:
    """Return what stands on what as of a moment."""
    return _graph.get(at, lambda: graph_of(_edges(at)))


def full(at: int | None) -> Graph:
    """Return what stands on what as of a moment, programs on devices told apart: by it is reckoned what stops."""
    return _full.get(at, lambda: graph_with(graph(at).edges, programs(at)))


_full: Remembered[Graph] = Remembered(
    "what stands on what, by program", EVIDENCE, NOISE, RECOGNISERS, DEFINITIONS, most=3, one_at_a_time=True
)


def guests(at: int | None) -> Graph:
    """Return who is a guest of whom as of a moment: the part of the graph that is asked for most."""
    return _hosted.get(at, lambda: graph_of(_guests(at, {})))


_hosted: Remembered[Graph] = Remembered("guests and hosts", EVIDENCE, most=3)


def _edges(at: int | None) -> Iterator[Edge]:
    read = last_read(at)
    yield from _guests(at, read)
    up = list(uplinks(at, read))
    between = {frozenset((e.stands, e.on)) for e in up}
    yield from up
    yield from (e for e in _plugs(at, read) if frozenset((e.stands, e.on)) not in between)
    names, addresses = _names(at), _addresses(at)
    yield from powered(at, read, names)
    yield from _mounts(at, read, names, addresses)
    yield from _opened(at, read, names, addresses)
    yield from _talk(at, read, addresses)


def _mounts(
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


def _opened(
    at: int | None, read: Mapping[int, int], names: Mapping[str, int], addresses: Mapping[str, int]
) -> Iterator[Edge]:
    """Yield who has which SMB share open, as its server tells: for as long as talk counts after it was last heard."""
    now = at or int(time.time())
    met: dict[tuple[int, int, str], tuple[int, int, bool]] = {}
    for server, share, client, begins, ends in raw_connection().execute(
        "SELECT u.asset_id, u.share, u.client, u.valid_from, u.valid_to FROM estate_share_usersspan u "
        "WHERE u.valid_from <= ? AND (u.valid_to IS NULL OR u.valid_to > ?)",
        [now, now - HEARD_WITHIN * DAY],
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


def _names(at: int | None) -> dict[str, int]:
    """Return which device has which name, its own or one the name service has for it; one that several have is
    nobody's."""
    then, so, out, twice = holds("s", at), holds("d", at), dict[str, int](), set[str]()
    for asset, name in raw_connection().execute(
        f"SELECT s.asset_id, s.name_fold FROM estate_assetspan s WHERE ifnull(s.name_fold, '') != '' AND {then.text} "
        f"UNION SELECT d.asset_id, fold(d.name) FROM estate_dns_namesspan d WHERE {so.text}",
        [*then.values, *so.values],
    ):
        if out.setdefault(name, asset) != asset:
            twice.add(name)
    return {name: asset for name, asset in out.items() if name not in twice}


def last_read(at: int | None) -> dict[int, int]:
    """Return when each asset was last read, up to a moment: what holds of it was last heard then."""
    then = holds("s", at)
    return dict(
        raw_connection().execute(
            f"SELECT s.asset_id, ifnull({reckoned('seen.last', at)}, 0) FROM estate_assetspan s "
            f"JOIN estate_asset a ON a.id = s.asset_id WHERE {then.text}",
            then.values,
        )
    )


def _guests(at: int | None, read: Mapping[int, int]) -> Iterator[Edge]:
    """Yield which guest runs on which host, by the UUID both tell. A cloned guest brings its UUID along: then the name
    the host has for it says which of them it is, and where no name does, each may be, which is less sure."""
    there, said = holds("s", at), holds("g", at)
    met: dict[tuple[int, str], list[tuple[int, bool, int]]] = defaultdict(list)
    for guest, host, uuid, named, begins in raw_connection().execute(
        "SELECT s.asset_id, g.asset_id, lower(g.uuid), lower(ifnull(g.name, '')) = lower(ifnull(s.name, '')), "
        "g.valid_from FROM estate_guestsspan g JOIN estate_assetspan s ON lower(s.uuid) = lower(g.uuid) "
        f"WHERE ifnull(g.uuid, '') != '' AND {there.text} AND {said.text}",
        [*there.values, *said.values],
    ):
        met[host, uuid].append((guest, bool(named), begins))
    for (host, _), guests in met.items():
        sure = 100 if len(guests) == 1 else 90 if any(named for _, named, _ in guests) else 50
        for guest, named, begins in guests:
            if named or sure != 90:
                heard = max(begins, read.get(host, 0))
                yield Edge(guest, host, "guest of", since=begins, heard=heard, sure=sure, witnesses=(host,))


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


def _talk(at: int | None, read: Mapping[int, int], addresses: Mapping[str, int]) -> Iterator[Edge]:
    """Yield who calls whom, over which port: each once, whichever end says so; both ends are surer than one. Where all
    that one end tells of it is noise, it is noise, by whatever name the other end knows it."""
    now = at or int(time.time())
    noise, ready = _Noise(), stand_ins(at)
    instead: dict[tuple[int, int, int], set[int]] = defaultdict(set)
    heard: dict[tuple[int, int, int], list[tuple[str, int, int, bool, int]]] = defaultdict(list)
    for asset, direction, process, peer, port, begins, ends in raw_connection().execute(
        "SELECT c.asset_id, c.direction, c.process, c.peer, c.port, c.valid_from, c.valid_to "
        "FROM estate_connectionsspan c WHERE c.valid_from <= ? AND (c.valid_to IS NULL OR c.valid_to > ?)",
        [now, now - HEARD_WITHIN * DAY],
    ):
        other = addresses.get(peer)
        if other is None or other == asset:
            continue
        caller, called = (asset, other) if direction == "out" else (other, asset)
        if direction == "out":
            instead[caller, called, port] |= ready.get(peer, frozenset())
        ended = ends is not None and ends <= now
        last = ends if ended else max(begins, read.get(asset, 0))
        heard[caller, called, port].append((process or "", begins, last, ended, asset))
    for (caller, called, port), everything in heard.items():
        told = [t for t in everything if not noise.holds(t[0], port)]
        if {t[-1] for t in told} != {t[-1] for t in everything}:
            continue
        witnesses = tuple(sorted({asset for *_, asset in told}))
        here = sorted({p for p, *_, asset in told if p and asset == caller}) or sorted({p for p, *_ in told if p})[:1]
        process = ", ".join(here)
        since, last = min(b for _, b, *_ in told), max(e for _, _, e, *_ in told)
        sure, quiet = 100 if len(witnesses) == 2 else 90, all(ended for *_, ended, _ in told)
        yield Edge(caller, called, "talks to", str(port), process, since, last, sure, witnesses, quiet)
        for other in sorted(instead[caller, called, port] - {caller}):
            yield Edge(caller, other, "falls back on", str(port), process, since, last, _PAIRED, witnesses, quiet)


def _addresses(at: int | None) -> dict[str, int]:
    """Return which asset has which address; one that several have is nobody's."""
    out: dict[str, int] = {}
    twice: set[str] = set()
    for table in ("estate_assetspan", "estate_addressesspan"):
        then = holds("a", at)
        for asset, address in raw_connection().execute(
            f"SELECT a.asset_id, a.address FROM {table} a WHERE a.address IS NOT NULL AND {then.text}", then.values
        ):
            if out.setdefault(address, asset) != asset:
                twice.add(address)
    return {address: asset for address, asset in out.items() if address not in twice}


class _Noise:
    """What people say is noise."""

    def __init__(self) -> None:
        self._said = [(n.process.casefold(), n.port) for n in Noise.objects.all()]

    def holds(self, process: str | None, port: int) -> bool:
        """Whether talk of a process over a port is noise."""
        named = (process or "").casefold()
        return any((not p or p == named) and (n is None or n == port) for p, n in self._said)
