"""The programs that may call or be called: those that hold a port, and those a recogniser knows by name."""

from collections import defaultdict
from collections.abc import Hashable

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.running import recognised, running
from tarn.core.programs.features import look
from tarn.core.standing.programs import Program


def programs(at: int | None) -> list[Program]:
    """Return the programs of every device as of a moment, each with the ports it holds and what its processes are
    called. A name is the recogniser's that says which program it is, else the program's own."""
    ports: dict[tuple[int, str, Hashable], set[str]] = defaultdict(set)
    processes: dict[tuple[int, str, Hashable], set[str]] = defaultdict(set)
    named: dict[tuple[int, str], tuple[int, str, Hashable]] = {}
    by = recognised(at)
    for one, places in running(at).items():
        known = by.get(one)
        if known is not None and known.general:
            known = None
        if known is None and not one.ports:
            continue
        name = known.name if known is not None else look(one).stem
        apart = known.apart(one) if known is not None else None
        for place in places:
            key = place.asset, name, apart
            ports[key].update(str(p) for p in one.ports)
            processes[key].add(one.name)
            named.setdefault((place.asset, one.name), key)
    for (asset, port), process in holders(at).items():
        key = named.get((asset, process)) or (asset, process, None)
        ports[key].add(str(port))
        processes[key].add(process)
    return [
        Program(asset, name, frozenset(ports[asset, name, apart]), frozenset(processes[asset, name, apart] - {""}))
        for asset, name, apart in sorted(processes, key=lambda k: (k[0], k[1], str(k[2])))
    ]


def holders(at: int | None) -> dict[tuple[int, int], str]:
    """Return which process holds which port of which asset."""
    then = holds("p", at)
    return {
        (asset, port): process
        for asset, port, process in raw_connection().execute(
            f"SELECT p.asset_id, p.port, p.process FROM estate_portsspan p WHERE p.process != '' AND {then.text}",
            then.values,
        )
    }
