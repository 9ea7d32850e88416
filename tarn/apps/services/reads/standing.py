"""What stands on what, told: around one asset, and what stops if some stop."""

from collections import Counter
from collections.abc import Iterable
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.services.reads.edges import graph, plates
from tarn.apps.services.reads.picture import beneath, numbered, picture
from tarn.apps.services.results import (
    EdgeEnd,
    FallenCount,
    FallenOut,
    SingleOut,
    StandingEdge,
    StandsOut,
    StopsOut,
)
from tarn.core.standing.graph import Edge, Fallen, Graph, graph_of, order_of_return, reached, singles, stops

MOST_HOPS = 8
MOST_NAMED = 300
"""Assets that a filter names one by one."""


def seen(at: int | None) -> tuple[Graph, set[int]]:
    """Return what stands on what among the assets whoever asks may see, and these assets."""
    whole = graph(at)
    mine = set(ids(question("standing != none", at)))
    if all(e.stands in mine and e.on in mine for e in whole.edges):
        return whole, mine
    return graph_of(e for e in whole.edges if e.stands in mine and e.on in mine), mine


def around(asset: int, hops: int, at: int | None) -> StandsOut:
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


def end(asset: int, known: dict[int, dict[str, Any]]) -> EdgeEnd:
    """Return what is told of an asset at one end of an edge."""
    plate = known[asset]
    return {
        "asset": asset,
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
    }


def if_stops(assets: Iterable[int], at: int | None) -> StopsOut:
    """Return what stops if some assets stop; those that are not to be seen are left out."""
    there, mine = seen(at)
    gone = [a for a in dict.fromkeys(assets) if a in mine]
    fallen = stops(there, gone)
    ends = {e for f in fallen for edge in f.because for e in (edge.stands, edge.on)} | {
        x for f in fallen for x in f.left
    }
    known = plates({*gone, *ends, *beneath(there, gone), *(f.asset for f in fallen)}, at)
    stopped = [f.asset for f in fallen if f.fate == "stops"]
    where = Counter(known[a]["place"] or "no place" for a in stopped)
    met = sorted({known[f.asset]["person"] for f in fallen if known[f.asset]["person"]})
    back = order_of_return(there, {*gone, *stopped})
    return {
        "gone": [end(a, known) for a in gone],
        "stops": _counted(stopped, known),
        "weakened": _counted([f.asset for f in fallen if f.fate == "weakened"], known),
        "people": met,
        "places": [{"place": p, "stops": n} for p, n in sorted(where.items(), key=lambda x: (-x[1], x[0]))],
        "rows": [_fallen(f, known) for f in fallen],
        "back": [[known[a]["name"] for a in step] for step in back],
        "picture": picture(there, gone, fallen, known),
    }


def _counted(assets: list[int], known: dict[int, dict[str, Any]]) -> FallenCount:
    return {"devices": len(assets), "filter": numbered(assets, known) if 0 < len(assets) <= MOST_NAMED else None}


def _fallen(fallen: Fallen, known: dict[int, dict[str, Any]]) -> FallenOut:
    plate = known[fallen.asset]
    return {
        "asset": fallen.asset,
        "number": plate["number"],
        "name": plate["name"],
        "kind": plate["kind"],
        "place": plate["place"],
        "fate": fallen.fate,
        "because": "; ".join(words(e, known) for e in fallen.because[:4]),
        "left": [known[a]["name"] for a in fallen.left],
        "hops": fallen.hops,
    }


def words(edge: Edge, known: dict[int, dict[str, Any]]) -> str:
    """Return an edge in words, from what stands to what it stands on."""
    on = known[edge.on]["name"]
    if edge.kind == "guest of":
        return f"it is a guest of {on}"
    if edge.kind == "plugged into":
        return f"it is plugged into {on}, {edge.over}"
    by = f"{edge.process} " if edge.process else ""
    return f"its {by}talks to {on} over port {edge.over}" if by else f"it talks to {on} over port {edge.over}"


def single_points(asked: Question) -> list[SingleOut]:
    """Return the single points of failure of a selection, worst first."""
    mine = set(ids(asked))
    there, _ = seen(asked.at)
    found = [s for s in singles(there, most=10_000) if s.asset in mine][:200]
    known = plates([s.asset for s in found], asked.at)
    return [{**end(s.asset, known), "stops": s.stops, "weakened": s.weakened} for s in found if s.asset in known]
