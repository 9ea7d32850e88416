"""The graph of what stands on what: nodes are assets by number, and programs on them by a number below zero; an edge
leads from what stands to what it stands on."""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from functools import cached_property
from typing import Any

import numpy as np

from tarn.core.standing.columns import KIND, Edges, Numbers, Side
from tarn.core.standing.edge import KINDS, Edge
from tarn.core.standing.means import Means, means_of


class Graph:
    """Edges by both of their ends, and the means they are; `hosts`: by program the device it runs on, `names`: its
    name. What is reckoned of them is reckoned once, when it is asked for."""

    def __init__(self, edges: Edges, hosts: Mapping[int, int], names: Mapping[int, str]) -> None:
        self.edges, self.hosts, self.names = edges, hosts, names
        self.spare: list[Any] = []  # sheets to count on, of whoever counts; taken and put back whole
        stands, on = edges.table["stands"], edges.table["on"]
        nothing = not len(edges)
        self.lowest = 0 if nothing else int(min(stands.min(), on.min()))
        self.size = 0 if nothing else int(max(stands.max(), on.max())) - self.lowest + 1

    @cached_property
    def on(self) -> Side:
        """By asset the edges to what it stands on."""
        return Side(self.edges, "stands", self.lowest, self.size)

    @cached_property
    def under(self) -> Side:
        """By asset the edges of what stands on it."""
        return Side(self.edges, "on", self.lowest, self.size)

    @cached_property
    def means(self) -> Means:
        """What the edges are means of."""
        return means_of(self.edges.table, self.hosts, self.lowest, self.size)

    @cached_property
    def device(self) -> Numbers:
        """By node, counted from the lowest, the device it is or runs on."""
        out = np.arange(self.lowest, self.lowest + self.size)
        out[np.fromiter(self.hosts, np.int64, len(self.hosts)) - self.lowest] = list(self.hosts.values())
        return out

    @cached_property
    def programs(self) -> Mapping[int, Sequence[int]]:
        """By device the programs on it."""
        out: dict[int, list[int]] = defaultdict(list)
        for program, asset in self.hosts.items():
            out[asset].append(program)
        return dict(out)


def graph_of(
    edges: Iterable[Edge], hosts: Mapping[int, int] | None = None, names: Mapping[int, str] | None = None
) -> Graph:
    """Return a graph; what would stand on itself is left out. `hosts`: by program the device it runs on; `names`: its
    name."""
    return Graph(edges if isinstance(edges, Edges) else Edges.of(edges), hosts or {}, names or {})


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
            for edge in side.get(node):
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


def related(graph: Graph, relation: str, others: Collection[int], since: int | None = None) -> set[int]:
    """Return the assets in a relation to any of others: one step along edges of a kind, or any number of steps along
    all of them; only along edges last heard since a moment. Raises KeyError for a relation that is none."""
    if relation not in ("depends on", "needed by", "called by", *KINDS):
        raise KeyError(relation)
    forward = relation in ("needed by", "called by")
    side, far = (graph.on, "on") if forward else (graph.under, "stands")
    kind = KIND.get("talks to" if relation == "called by" else relation)  # type: ignore[call-overload]
    seen, front = np.zeros(graph.size, np.bool_), np.fromiter(others, np.int64)
    while front.size:
        rows = graph.edges.table[side.places(front)]
        if kind is not None:
            rows = rows[rows["kind"] == kind]
        if since is not None:
            rows = rows[rows["heard"] >= since]
        met = np.unique(rows[far])
        front = met[~seen[met - graph.lowest]]
        seen[front - graph.lowest] = True
        if kind is not None:
            break
    return set((np.flatnonzero(seen) + graph.lowest).tolist())


def standing_on(graph: Graph, assets: Collection[int]) -> set[int]:
    """Return assets and all that they stand on, over any number of steps."""
    return set(assets) | related(graph, "needed by", assets)


def followed(starts: Collection[int], onward: Callable[[int], Iterable[int]]) -> set[int]:
    """Return what is met from starts on, going onward any number of times; of the starts those that lie in a circle."""
    out, front = set[int](), list(starts)
    while front:
        met = set(onward(front.pop())) - out
        out |= met
        front.extend(met)
    return out


def distances(beside: Mapping[int, Collection[int]], starts: Collection[int]) -> dict[int, int]:
    """Return how many steps each node is from the nearest start; nodes no way leads to are left out."""
    out, front = dict.fromkeys(starts, 0), sorted(starts)
    while front:
        met = sorted({other for node in front for other in beside.get(node, ()) if other not in out})
        out.update((node, out[front[0]] + 1) for node in met)
        front = met
    return out


def order_of_return(graph: Graph, assets: Collection[int]) -> list[list[int]]:
    """Return assets in the order they can be brought back: what must be up before what; those of a circle together."""
    wanted = set(assets)
    on = {a: {e.on for e in graph.on.get(a) if e.on in wanted} for a in wanted}
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
