"""The graph of what stands on what: nodes are assets by number, and programs on them by a number below zero; an edge
leads from what stands to what it stands on."""

import gc
from collections import defaultdict
from collections.abc import Callable, Collection, Container, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from tarn.core.standing.edge import ASKED, KINDS, MENDABLE, Edge, EdgeKind
from tarn.core.standing.means import Means, end_of, means_of
from tarn.core.standing.services import Watching


@dataclass(frozen=True)
class Graph:
    """Edges by both of their ends, and the means they are."""

    edges: tuple[Edge, ...]
    on: Mapping[int, Sequence[Edge]] = field(repr=False)
    """By asset the edges to what it stands on."""
    under: Mapping[int, Sequence[Edge]] = field(repr=False)
    """By asset the edges of what stands on it."""
    hosts: Mapping[int, int] = field(default_factory=dict, repr=False)
    """By program the device it runs on."""
    names: Mapping[int, str] = field(default_factory=dict, repr=False)
    """By program its name."""

    @cached_property
    def means(self) -> Means:
        """What the edges are means of; reckoned once what stops is asked for."""
        with _uncollected():
            return means_of(self.on, self.under, self.hosts)

    @cached_property
    def programs(self) -> Mapping[int, Sequence[int]]:
        """By device the programs on it."""
        out: dict[int, list[int]] = defaultdict(list)
        for program, asset in self.hosts.items():
            out[asset].append(program)
        return dict(out)

    def devices(self, nodes: Collection[int]) -> int:
        """Return how many of some nodes are devices."""
        return sum(n not in self.hosts for n in nodes) if self.hosts else len(nodes)


def graph_of(
    edges: Iterable[Edge], hosts: Mapping[int, int] | None = None, names: Mapping[int, str] | None = None
) -> Graph:
    """Return a graph; what would stand on itself is left out. `hosts`: by program the device it runs on; `names`: its
    name."""
    with _uncollected():
        return _graph_of(edges, hosts or {}, names or {})


@contextmanager
def _uncollected() -> Iterator[None]:
    """Have no cyclic garbage looked for while hundreds of thousands of objects are made that all stay: it would be
    looked for again and again among them, which takes as long as the making."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def _graph_of(edges: Iterable[Edge], hosts: Mapping[int, int], names: Mapping[int, str]) -> Graph:
    kept = tuple(sorted(e for e in edges if e.stands != e.on))
    on: dict[int, list[Edge]] = defaultdict(list)
    under: dict[int, list[Edge]] = defaultdict(list)
    for edge in kept:
        on[edge.stands].append(edge)
        under[edge.on].append(edge)
    return Graph(kept, dict(on), dict(under), hosts, names)


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


def related(graph: Graph, relation: str, others: Collection[int], since: int | None = None) -> set[int]:
    """Return the assets in a relation to any of others: one step along edges of a kind, or any number of steps along
    all of them; only along edges last heard since a moment. Raises KeyError for a relation that is none."""

    def under(asset: int) -> Iterable[Edge]:
        return (e for e in graph.under.get(asset, ()) if since is None or e.heard >= since)

    def on(asset: int) -> Iterable[Edge]:
        return (e for e in graph.on.get(asset, ()) if since is None or e.heard >= since)

    if relation == "depends on":
        return followed(others, lambda a: (e.stands for e in under(a)))
    if relation == "needed by":
        return followed(others, lambda a: (e.on for e in on(a)))
    if relation == "called by":
        return {e.on for other in others for e in on(other) if e.kind == "talks to"}
    if relation not in KINDS:
        raise KeyError(relation)
    return {e.stands for other in others for e in under(other) if e.kind == relation}


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
    down, touched = falls(graph, gone)
    out = [_fallen(graph, asset, down, hop) for asset, hop in touched.items()]
    return sorted(out, key=lambda f: (f.hops, f.fate, f.asset))


def falls(graph: Graph, gone: Collection[int], spared: Container[int] = ()) -> tuple[dict[int, int], dict[int, int]]:
    """Return what is down with the step it went down at, 0 for what went first; and what lost any of its means, with
    the step it first did. `spared`: means, by their place, that are taken to have one more that carries on. Each means
    is counted down as what it leads to goes: a step costs the edges of what fell."""
    means = graph.means
    assets, of, needed, leading = means.asset, means.of, means.needed, means.leading
    down = dict.fromkeys(gone, 0)
    touched: dict[int, int] = {}
    left: dict[int, int] = {}
    front, step = list(down), 0
    while front:
        step, following = step + 1, list[int]()
        for node in front:
            for number in leading.get(node, ()):
                asset = assets[number]
                if asset in down:
                    continue
                if asset not in touched:
                    touched[asset] = step
                remain = left[number] = left.get(number, of[number]) - 1
                if not remain and needed[number] and number not in spared:
                    down[asset] = step
                    following.append(asset)
        front = following
    if graph.hosts:
        for node, at in list(touched.items()):
            host = graph.hosts.get(node)
            if host is not None and down.get(host) != 0:
                touched[host] = min(at, touched.get(host, at))
    return down, touched


def _fallen(graph: Graph, asset: int, down: Mapping[int, int], first: int) -> Fallen:
    stopped, edges = down.get(asset), graph.on.get(asset, ())
    ends = [end_of(e) for e in edges]
    for end in dict.fromkeys(end for end, e in zip(ends, edges, strict=True) if e.on in down):
        group = [e for own, e in zip(ends, edges, strict=True) if own == end]
        lost = tuple(e for e in group if e.on in down)
        if stopped is None:
            return Fallen(asset, "weakened", lost, first, tuple(sorted({e.on for e in group if e.on not in down})))
        serves = end[0] not in ASKED or any(e.kind in ASKED for e in graph.under.get(asset, ()))
        if serves and all(down.get(e.on, stopped) < stopped for e in group):
            return Fallen(asset, "stops", lost, stopped)
    return _by_programs(graph, asset, down, first)


def _by_programs(graph: Graph, asset: int, down: Mapping[int, int], first: int) -> Fallen:
    """Return what becomes of a device by what becomes of the programs on it."""
    met = [n for n in graph.programs[asset] if n in down or any(e.on in down for e in graph.on[n])]
    lost = [e for n in met for e in graph.on[n] if e.on in down and e.on != asset]
    gone = [Edge(asset, n, "runs on") for n in met if down.get(n) == 0]
    because = tuple(gone or lost)
    stopped = down.get(asset)
    if stopped is not None:
        return Fallen(asset, "stops", because, stopped)
    left = sorted(set(graph.programs[asset]) - down.keys())
    return Fallen(asset, "weakened", because, first, tuple(left))


@dataclass(frozen=True, slots=True)
class Single:
    """A single point of failure: how many assets stop if it does, how many are weakened, and the services that stop."""

    asset: int
    stops: int
    weakened: int
    services: tuple[int, ...] = ()


def singles(graph: Graph, most: int = 100, services: Watching | None = None) -> list[Single]:
    """Return the assets on whose stopping most services stop, and then most other assets, worst first; those that stop
    nothing are left out."""
    out = []
    watched = services or Watching({})
    for asset in graph.under.keys() | watched.members:
        if asset in graph.hosts:
            continue
        down, touched = falls(graph, [asset])
        stopped = tuple(watched.stopped(down))
        if (others := graph.devices(down) - 1) or stopped:
            out.append(Single(asset, others, graph.devices(touched.keys() - down.keys()), stopped))
    return sorted(out, key=lambda s: (-len(s.services), -s.stops, -s.weakened, s.asset))[:most]


@dataclass(frozen=True, slots=True)
class Mend:
    """What one more of something would mend of a single point: a further one to so many devices (`wanting`) of what
    they have it alone for, and how many devices (`saved`) and which services would then not stop with it."""

    kind: EdgeKind
    over: str
    wanting: tuple[int, ...]
    saved: int
    services: tuple[int, ...]


def mends(graph: Graph, asset: int, services: Watching | None = None) -> list[Mend]:
    """Return what one more of something would mend of a single point, what saves most first."""
    watched = services or Watching({})
    down, _ = falls(graph, [asset])
    stopped, means = set(watched.stopped(down)), graph.means
    alone: dict[tuple[EdgeKind, str], list[int]] = defaultdict(list)
    # Who calls a program on it has that alone; what runs on it, and what it answers by, go with it whatever is added.
    for node in (asset, *graph.programs.get(asset, ())):
        for number in means.leading.get(node, ()):
            kind, over = means.end[number]
            if means.of[number] == 1 and means.needed[number] and means.asset[number] in down and kind in MENDABLE:
                alone[kind, over].append(number)
    out = []
    for (kind, over), numbers in alone.items():
        still, _ = falls(graph, [asset], frozenset(numbers))
        saved = tuple(sorted(stopped.difference(watched.stopped(still))))
        wanting = tuple(sorted({graph.hosts.get(a, a) for a in (means.asset[n] for n in numbers)}))
        out.append(Mend(kind, over, wanting, graph.devices(down) - graph.devices(still), saved))
    return sorted((m for m in out if m.saved or m.services), key=lambda m: (-len(m.services), -m.saved, m.kind, m.over))


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
