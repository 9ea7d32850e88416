"""What stands on what, told: the part of it one may see, and what is around one asset."""

from collections.abc import Iterable, Mapping
from typing import Any

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE
from tarn.apps.people.scope import asker
from tarn.apps.services.results import AroundOut, EdgeEnd, StandingEdge
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.edges import NOISE, full, graph
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.programs import programs
from tarn.core.standing.edge import Edge
from tarn.core.standing.graph import Graph, graph_of, reached
from tarn.core.standing.programs import graph_with

MOST_HOPS = 8


def seen(at: int | None) -> tuple[Graph, set[int]]:
    """Return what stands on what among the assets whoever asks may see, and these assets."""
    who = asker()
    return _seen.get((at, who.organisations, who.standing_in), lambda: _part(at))


def seen_full(at: int | None) -> Graph:
    """Return what stands on what among the assets whoever asks may see, with the programs on them told apart."""
    who, (there, mine) = asker(), seen(at)
    if there is graph(at):
        return full(at)
    return _seen_full.get(
        (at, who.organisations, who.standing_in),
        lambda: graph_with(there.edges, [p for p in programs(at) if p.asset in mine]),
    )


def _part(at: int | None) -> tuple[Graph, set[int]]:
    whole = graph(at)
    mine = set(ids(question("standing != none", at)))
    inside = whole.edges.within(mine)
    return (whole if inside is whole.edges else graph_of(inside)), mine


_seen: Remembered[tuple[Graph, set[int]]] = Remembered(
    "what of the graph may be seen", EVIDENCE, DEFINITIONS, NOISE, most=8
)
_seen_full: Remembered[Graph] = Remembered(
    "what of the graph by program may be seen", EVIDENCE, DEFINITIONS, NOISE, RECOGNISERS, most=8
)


def told_nodes(nodes: Iterable[int], there: Graph, at: int | None) -> dict[int, dict[str, Any]]:
    """Return the plates of assets and of programs on them. A program's plate is its device's, with its name and the
    device's; `program`: its name alone."""
    wanted = set(nodes)
    known = plates({there.hosts.get(n, n) for n in wanted}, at)
    for node in wanted & there.hosts.keys():
        if (plate := known.get(there.hosts[node])) is not None:
            name = there.names[node]
            known[node] = {**plate, "name": f"{name} on {plate['name']}", "program": name}
    return known


def around(asset: int, hops: int, at: int | None) -> AroundOut:
    """Return what an asset stands on and what stands on it. Raises KeyError where it is not to be seen."""
    there, mine = seen(at)
    on, under = (reached(there, asset, hops, under=side) for side in (False, True))
    ends = {e for _, edge in (*on, *under) for e in (edge.stands, edge.on, *edge.witnesses)}
    known = plates({asset, *ends}, at)
    if asset not in known or asset not in mine:
        raise KeyError(asset)
    return {
        "asset": end(asset, known),
        "on": [_edge(hop, edge, known) for hop, edge in on],
        "under": [_edge(hop, edge, known) for hop, edge in under],
    }


def end(asset: int, known: Mapping[int, dict[str, Any]]) -> EdgeEnd:
    """Return what is told of an asset at one end of an edge."""
    plate = known[asset]
    return {
        "asset": plate["asset"],
        "number": plate["number"],
        "name": plate["name"],
        "kind": plate["kind"],
        "place": plate["place"],
    }


def _edge(hop: int, edge: Edge, known: dict[int, dict[str, Any]]) -> StandingEdge:
    return {
        "hop": hop,
        "stands": end(edge.stands, known),
        "on": end(edge.on, known),
        "kind": edge.kind,
        "over": edge.over,
        "process": edge.process,
        "since": iso(edge.since),
        "last_heard": iso(edge.heard),
        "sure": edge.sure,
        "witnesses": [known[w]["name"] for w in edge.witnesses if w in known],
        "quiet": edge.quiet,
    }


def words(edge: Edge, known: dict[int, dict[str, Any]]) -> str:
    """Return an edge in words, from what stands to what it stands on."""
    on = known[edge.on]["name"]
    if edge.kind == "guest of":
        return f"it is a guest of {on}"
    if edge.kind == "plugged into":
        return f"it is plugged into {on}, {edge.over}"
    if edge.kind == "powered by":
        return f"its power comes from {on}" + (f", {edge.over}" if edge.over else "")
    if edge.kind == "mounts":
        return f"it mounts {edge.over} of {on}"
    if edge.kind == "may move to":
        return f"its cluster would start it on {on}"
    if edge.kind == "runs on":
        return f"it runs on {on}" if edge.on > 0 else f"{known[edge.on]['program']} on it stops"
    if edge.kind == "falls back on":
        return f"it would be answered by {on} over port {edge.over}"
    by = f"{edge.process} " if edge.process and edge.stands > 0 else ""
    return f"its {by}talks to {on} over port {edge.over}" if by else f"it talks to {on} over port {edge.over}"
