"""Services that talk speaks for: what many call, with what stands behind it, and nobody has kept yet."""

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from tarn.apps.services.kept.health import standing
from tarn.apps.services.kept.results import ProposedService, ServicePartOut
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.picture import counted, numbered
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.programs import holders
from tarn.core.filters.tree import quote
from tarn.core.standing.edge import Edge

FEWEST_CALLERS = 3
"""As many that call the same make it a service worth proposing."""


def proposed(at: int | None) -> list[ProposedService]:
    """Return the services that are not kept yet and that several call, the most called first."""
    there, _ = seen(at)
    held = holders(at)
    kept = {a for m in standing(at).members.values() for a in m.all}
    called: dict[tuple[_Doing, int], list[Edge]] = defaultdict(list)
    for edge in there.edges.of_kind("talks to"):
        called[_doing(edge, held), int(edge.over)].append(edge)
    known = plates({a for edges in called.values() for e in edges for a in (e.stands, e.on)}, at)
    out = []
    for (doer, port), edges in called.items():
        callers, doing = {e.stands for e in edges} & known.keys(), {e.on for e in edges} & known.keys()
        if len(callers) < FEWEST_CALLERS or doing <= kept or not doing:
            continue
        behind = [e for asset in sorted(doing) for e in there.on.get(asset) if e.kind == "talks to"]
        out.append(_proposed(doer, port, callers, doing, behind, held, known))
    return sorted(out, key=lambda p: (-p["callers"]["devices"], p["name"]))


@dataclass(frozen=True, order=True)
class _Doing:
    """Which process answers; `told`: its own device says so, else it is what the caller is called."""

    process: str
    told: bool


def _doing(edge: Edge, holders: Mapping[tuple[int, int], str]) -> _Doing:
    held = holders.get((edge.on, int(edge.over)))
    return _Doing(held, True) if held else _Doing(edge.process, False)


def _proposed(
    doer: _Doing,
    port: int,
    callers: set[int],
    doing: set[int],
    behind: Iterable[Edge],
    holders: Mapping[tuple[int, int], str],
    known: Mapping[int, dict[str, Any]],
) -> ProposedService:
    process, front = doer.process, _listens(doer, port, doing, known)
    parts = [_part(process.capitalize() if doer.told else f"Port {port}", front, f"listens on {port}", doing, known)]
    after: dict[tuple[_Doing, int], set[int]] = defaultdict(set)
    for edge in behind:
        if edge.on in known and edge.on not in doing:
            after[_doing(edge, holders), int(edge.over)].add(edge.on)
    for (other, theirs), there in sorted(after.items()):
        text = f"{_listens(other, theirs, there, known)} and called by [{front}]"
        name = other.process.capitalize() if other.told else f"Port {theirs}"
        if name.casefold() in {p["name"].casefold() for p in parts}:
            name = f"{name} {theirs}"
        parts.append(_part(name, text, f"{process or 'it'} calls it on {theirs}", there, known))
    where = sorted(known[a]["name"] for a in doing)
    return {
        "name": process.capitalize() if doer.told else f"{where[0]}, port {port}",
        "callers": counted(callers, known),
        "why": f"{len(callers)} devices call {', '.join(where[:3])}{' …' if len(where) > 3 else ''} on port {port}",
        "entries": [
            {"host": known[a]["name"], "port": port, "devices": [end(a, known)]}
            for a in sorted(doing, key=lambda a: known[a]["name"])[:10]
        ],
        "parts": parts,
    }


def _listens(doer: _Doing, port: int, assets: Iterable[int], known: Mapping[int, dict[str, Any]]) -> str:
    """Return the rule for who does it: by port and process, or by name where nobody tells the process."""
    if doer.told:
        return f"ports[port = {port} and process = {quote(doer.process)}]"
    names = ", ".join(quote(known[a]["name"]) for a in sorted(assets)[:20])
    return f"name in ({names})"


def _part(name: str, rule: str, why: str, assets: set[int], known: Mapping[int, dict[str, Any]]) -> ServicePartOut:
    return {
        "name": name,
        "needs": 1,
        "spare": len(assets) - 1,
        "rules": [{"filter": rule, "why": why}],
        "members": {"devices": len(assets), "filter": numbered(assets, known)},
    }
