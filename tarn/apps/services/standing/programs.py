"""The programs that may call or be called: those that hold a port, and those a recogniser knows by name."""

import json
from collections import defaultdict
from collections.abc import Collection, Hashable, Iterable

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.running import looks_of, recognised, running
from tarn.core.programs.features import Seen, look
from tarn.core.standing.programs import Program


def programs(at: int | None) -> list[Program]:
    """Return the programs of every device as of a moment, each with the ports it holds and what its processes are
    called. A name is the recogniser's that says which program it is, else the program's own."""
    return _programs(((one, p.asset) for one, places in running(at).items() for p in places), holders(at), at)


def programs_of(devices: Collection[int]) -> dict[int, list[Program]]:
    """Return the programs of some devices as they are now, with none for those that have none."""
    out: dict[int, list[Program]] = {device: [] for device in devices}
    for program in _programs(((one, d) for d in devices for one in looks_of(d)), holders(None, devices), None):
        out[program.asset].append(program)
    return out


def _programs(seen: Iterable[tuple[Seen, int]], held: dict[tuple[int, int], str], at: int | None) -> list[Program]:
    ports: dict[tuple[int, str, Hashable], set[str]] = defaultdict(set)
    processes: dict[tuple[int, str, Hashable], set[str]] = defaultdict(set)
    named: dict[tuple[int, str], tuple[int, str, Hashable]] = {}
    by = recognised(at)
    for one, asset in seen:
        known = by.get(one)
        if known is not None and known.general:
            known = None
        if known is None and not one.ports:
            continue
        name = known.name if known is not None else look(one).stem
        key = asset, name, known.apart(one) if known is not None else None
        ports[key].update(str(p) for p in one.ports)
        processes[key].add(one.name)
        named.setdefault((asset, one.name), key)
    for (asset, port), process in held.items():
        key = named.get((asset, process)) or (asset, process, None)
        ports[key].add(str(port))
        processes[key].add(process)
    return [
        Program(asset, name, frozenset(ports[asset, name, apart]), frozenset(processes[asset, name, apart] - {""}))
        for asset, name, apart in sorted(processes, key=lambda k: (k[0], k[1], str(k[2])))
    ]


def holders(at: int | None, devices: Collection[int] | None = None) -> dict[tuple[int, int], str]:
    """Return which process holds which port of which asset, of all or of some."""
    then, among = holds("p", at), "" if devices is None else "AND p.asset_id IN (SELECT value FROM json_each(?))"
    return {
        (asset, port): process
        for asset, port, process in raw_connection().execute(
            "SELECT p.asset_id, p.port, p.process FROM estate_portsspan p "
            f"WHERE p.process != '' AND {then.text} {among}",
            [*then.values, *([] if devices is None else [json.dumps(list(devices))])],
        )
    }
