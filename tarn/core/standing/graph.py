"""The graph of what stands on what: nodes are assets by number, an edge leads from what stands to what it stands on."""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal, get_args

EdgeKind = Literal["guest of", "plugged into", "talks to"]
KINDS: tuple[EdgeKind, ...] = get_args(EdgeKind)
"""Sorts of edges: a guest stands on its host, a device on the switch it is plugged into, who calls on who is called."""


@dataclass(frozen=True, slots=True)
class Edge:
    """One thing standing on another. `over`: the port it is about, a number or a switch's name for it; `since` and
    `heard`: from when it is known and when it was last confirmed, in seconds since 1970; `sure` in percent;
    `witnesses`: the assets that say so, one or both ends."""

    stands: int
    on: int
    kind: EdgeKind
    over: str = ""
    process: str = ""
    since: int = 0
    heard: int = 0
    sure: int = 100
    witnesses: tuple[int, ...] = ()


@dataclass(frozen=True)
class Graph:
    """Edges by both of their ends."""

    edges: tuple[Edge, ...]
    on: Mapping[int, tuple[Edge, ...]] = field(repr=False)
    """By asset the edges to what it stands on."""
    under: Mapping[int, tuple[Edge, ...]] = field(repr=False)
    """By asset the edges of what stands on it."""


def graph_of(edges: Iterable[Edge]) -> Graph:
    """Return a graph; what would stand on itself is left out."""
    kept = tuple(sorted((e for e in edges if e.stands != e.on), key=_order))
    on: dict[int, list[Edge]] = defaultdict(list)
    under: dict[int, list[Edge]] = defaultdict(list)
    for edge in kept:
        on[edge.stands].append(edge)
        under[edge.on].append(edge)
    return Graph(kept, {k: tuple(v) for k, v in on.items()}, {k: tuple(v) for k, v in under.items()})


def _order(edge: Edge) -> tuple[int, int, int, str, str]:
    return edge.stands, KINDS.index(edge.kind), edge.on, edge.over, edge.process


def reached(graph: Graph, start: int, hops: int, *, under: bool) -> list[tuple[int, Edge]]:
    """Return the edges met within so many hops from an asset, with the hop of each, the nearest first; each once.

    `under`: what stands on it, else what it stands on. A circle is gone round once.
    """
    side = graph.under if under else graph.on
    seen, edge_seen, out = {start}, set[Edge](), list[tuple[int, Edge]]()
    front = [start]
    for hop in range(1, hops + 1):
        following: list[int] = []
        for node in front:
            for edge in side.get(node, ()):
                if edge in edge_seen:
                    continue
                edge_seen.add(edge)
                out.append((hop, edge))
                other = edge.stands if under else edge.on
                if other not in seen:
                    seen.add(other)
                    following.append(other)
        front = following
    return out


def distances(beside: Mapping[int, Collection[int]], starts: Collection[int]) -> dict[int, int]:
    """Return how many steps each node is from the nearest start; nodes no way leads to are left out."""
    out, front = dict.fromkeys(starts, 0), sorted(starts)
    while front:
        met = sorted({other for node in front for other in beside.get(node, ()) if other not in out})
        out.update((node, out[front[0]] + 1) for node in met)
        front = met
    return out


Fate = Literal["stops", "weakened"]


@dataclass(frozen=True, slots=True)
class Fallen:
    """What becomes of an asset: it stops, or is weakened; `because`: the edges whose other ends are gone, and `hops`
    from what stopped first. `left`: what it still stands on of the same sort, where it is only weakened."""

    asset: int
    fate: Fate
    because: tuple[Edge, ...]
    hops: int
    left: tuple[int, ...] = ()


def stops(graph: Graph, gone: Collection[int]) -> list[Fallen]:
    """Return what stops or is weakened if some assets stop, the nearest first; what stopped first is not among them.

    Edges of one kind over one port are means of one end: while one of their other ends carries on, the asset is
    weakened. When none does, a guest or a device without its switch stops; who only calls is weakened, and who is
    called itself stops: it can no longer give what it is called for.
    """
    down = set(gone)
    fallen: dict[int, Fallen] = {}
    front, hops = sorted(down), 0
    while front:
        hops += 1
        touched = {e.stands for node in front for e in graph.under.get(node, ())} - down
        front = []
        for asset in sorted(touched):
            serves = any(e.kind == "talks to" for e in graph.under.get(asset, ()))
            fate = _fate(graph.on.get(asset, ()), down, serves)
            if fate is None:
                continue
            kind, because, left = fate
            earlier = fallen.get(asset)
            fallen[asset] = Fallen(
                asset, kind, because, earlier.hops if earlier and kind == earlier.fate else hops, left
            )
            if kind == "stops":
                front.append(asset)
        down.update(front)
    return sorted(fallen.values(), key=lambda f: (f.hops, f.fate, f.asset))


def _fate(
    edges: Iterable[Edge], down: Collection[int], serves: bool
) -> tuple[Fate, tuple[Edge, ...], tuple[int, ...]] | None:
    means: dict[tuple[str, str], list[Edge]] = defaultdict(list)
    for edge in edges:
        # The port of a switch is where a plug is, not what is asked for: two plugs are two means of one end.
        means[edge.kind, edge.over if edge.kind == "talks to" else ""].append(edge)
    weak: tuple[tuple[Edge, ...], tuple[int, ...]] | None = None
    for group in means.values():
        lost = tuple(e for e in group if e.on in down)
        if len(lost) == len(group) and (serves or group[0].kind != "talks to"):
            return "stops", lost, ()
        if lost and weak is None:
            weak = lost, tuple(sorted({e.on for e in group if e.on not in down}))
    return None if weak is None else ("weakened", *weak)


@dataclass(frozen=True, slots=True)
class Single:
    """A single point of failure: how many assets stop if it does, and how many are weakened."""

    asset: int
    stops: int
    weakened: int


def singles(graph: Graph, most: int = 100) -> list[Single]:
    """Return the assets on whose stopping most others stop, worst first; those that stop nothing are left out."""
    out = []
    for asset in graph.under:
        fallen = stops(graph, [asset])
        stopped = sum(f.fate == "stops" for f in fallen)
        if stopped:
            out.append(Single(asset, stopped, len(fallen) - stopped))
    return sorted(out, key=lambda s: (-s.stops, -s.weakened, s.asset))[:most]


def order_of_return(graph: Graph, assets: Collection[int]) -> list[list[int]]:
    """Return assets in the order they can be brought back: what must be up before what; those of a circle together."""
    wanted = set(assets)
    on = {a: {e.on for e in graph.on.get(a, ()) if e.on in wanted} for a in wanted}
    out: list[list[int]] = []
    up: set[int] = set()
    while len(up) < len(wanted):
        ready = sorted(a for a in wanted - up if on[a] <= up)
        if not ready:
            ready = sorted(_circle(on, wanted - up))
        out.append(ready)
        up.update(ready)
    return out


def _circle(on: Mapping[int, set[int]], left: set[int]) -> set[int]:
    """Return the assets of one circle among those that wait for each other: one that waits for nobody outside it."""
    node = min(left)
    behind = _behind(on, node, left)
    while further := next((n for n in sorted(behind) if node not in _behind(on, n, left)), None):
        node, behind = further, _behind(on, further, left)
    return behind


def _behind(on: Mapping[int, set[int]], start: int, left: set[int]) -> set[int]:
    """Return what an asset waits for, over any number of steps."""
    out, front = set[int](), [start]
    while front:
        met = (on[front.pop()] & left) - out
        out |= met
        front.extend(met)
    return out
