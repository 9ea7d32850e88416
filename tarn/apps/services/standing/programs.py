"""The programs that may call or be called: those that hold a port, and those a recogniser knows by name."""

from collections import defaultdict
from collections.abc import Hashable

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.running import recognised, running
from tarn.core.programs.features import Seen, look
from tarn.core.programs.recognising import INSTANCES, Recogniser
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
        for place in places:
            key = place.asset, name, _apart(known, one)
            ports[key].update(str(p) for p in one.ports)
            processes[key].add(one.name)
            named.setdefault((place.asset, one.name), key)
    for asset, port, process in _held(at):
        key = named.get((asset, process)) or (asset, process, None)
        ports[key].add(port)
        processes[key].add(process)
    return [
        Program(asset, name, frozenset(ports[asset, name, apart]), frozenset(processes[asset, name, apart] - {""}))
        for asset, name, apart in sorted(processes, key=lambda k: (k[0], k[1], str(k[2])))
    ]


def _apart(known: Recogniser | None, one: Seen) -> Hashable:
    """Return what tells an instance from others of its program on the same device."""
    if known is None:
        return None
    return one.ports[:1] if known.instance == INSTANCES[1] else one.account if known.instance == INSTANCES[2] else None


def _held(at: int | None) -> list[tuple[int, str, str]]:
    """Return which port of which device which process holds."""
    then = holds("p", at)
    rows = raw_connection().execute(
        f"SELECT p.asset_id, p.port, p.process FROM estate_portsspan p WHERE p.process != '' AND {then.text}",
        then.values,
    )
    return [(asset, str(port), process) for asset, port, process in rows]
