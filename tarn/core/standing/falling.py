"""What falls if something stops: fates with their why, single points, and what one more of something would mend."""

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from tarn.core.standing.columns import Flags, Numbers, ranges
from tarn.core.standing.edge import ASKED, MENDABLE, Edge, EdgeKind
from tarn.core.standing.graph import Graph
from tarn.core.standing.means import end_of
from tarn.core.standing.services import Watching

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


class Falling(NamedTuple):
    """What is down with the step it went down at, 0 for what went first; and what lost any of its means, with the step
    it first did."""

    down: dict[int, int]
    touched: dict[int, int]

    @property
    def weakened(self) -> list[int]:
        """What lost some of its means and is not down."""
        return [n for n in self.touched if n not in self.down]


def stops(graph: Graph, gone: Collection[int]) -> list[Fallen]:
    """Return what stops or is weakened if some assets stop, the nearest first; what stopped first is not among them.

    Edges of one kind over one port are means of one end: while one of their other ends carries on, the asset is
    weakened. When none does, a guest or a device without its switch stops; who only calls is weakened, and who is
    called itself stops: it can no longer give what it is called for.
    """
    down, touched = falls(graph, gone)
    out = [_fallen(graph, asset, down, hop) for asset, hop in touched.items()]
    return sorted(out, key=lambda f: (f.hops, f.fate, f.asset))


def falls(graph: Graph, gone: Collection[int], spared: Collection[int] = ()) -> Falling:
    """Return what falls if some assets stop. `spared`: means, by their place, that are taken to have one more that
    carries on. Each means is counted down as what it leads to goes: a step costs the edges of what fell."""
    found = _few(graph, gone, spared) or _many(graph, gone, spared)
    down, touched = found
    for node, at in list(touched.items()) if graph.hosts else ():
        host = graph.hosts.get(node)
        if host is not None and down.get(host) != 0:
            touched[host] = min(at, touched.get(host, at))
    return found


_FEW = 400
"""Means counted down one by one; where more are, a step at a time is counted down over columns."""


def _few(graph: Graph, gone: Collection[int], spared: Collection[int]) -> Falling | None:
    """Return what falls, counted one by one; None where too much does for that."""
    means, lowest, size, counted = graph.means, graph.lowest, graph.size, 0
    down, touched, left = dict.fromkeys(gone, 0), dict[int, int](), dict[int, int]()
    front, step = list(down), 0
    while front:
        step, following = step + 1, list[int]()
        for node in front:
            place = node - lowest
            if not 0 <= place < size:
                continue
            counted += means.starts.item(place + 1) - means.starts.item(place)
            if counted > _FEW:
                return None
            for number in means.to(place):
                asset = means.asset.item(number) + lowest
                if asset in down:
                    continue
                touched.setdefault(asset, step)
                remain = left[number] = left.get(number, means.of.item(number)) - 1
                if not remain and means.needed.item(number) and number not in spared:
                    down[asset] = step
                    following.append(asset)
        front = following
    return Falling(down, touched)


class _Sheets:
    """What is written on while it is counted over columns, and wiped after it: making it anew would cost more than
    counting does. `lost`: by means how many of its others are down; `place`, `down`, `touched`: by node."""

    def __init__(self, graph: Graph) -> None:
        self.lost = np.zeros(len(graph.means.of), np.int32)
        self.place = np.zeros(graph.size, np.int32)
        self.down, self.touched = np.zeros(graph.size, np.bool_), np.zeros(graph.size, np.bool_)

    def fresh(self, nodes: Numbers, marked: Flags) -> Numbers:
        """Return those of nodes that are not marked yet, each once, and mark them."""
        nodes = nodes[~marked[nodes]]
        marked[nodes] = True
        counted = np.arange(len(nodes), dtype=np.int32)
        self.place[nodes] = counted
        return nodes[self.place[nodes] == counted]


def _many(graph: Graph, gone: Collection[int], spared: Collection[int]) -> Falling:
    """Return what falls, counted a step at a time over columns."""
    sheets = graph.spare.pop() if graph.spare else _Sheets(graph)
    means, lowest, lost, down = graph.means, graph.lowest, sheets.lost, sheets.down
    needed = means.needed
    if spared:
        needed = needed.copy()
        needed[list(spared)] = False
    known = np.fromiter(gone, np.int64, len(gone)) - lowest
    front = np.unique(known[(known >= 0) & (known < graph.size)])
    down[front] = True
    fell, hit, counted = [front], [], []
    while front.size:
        numbers = means.leading[ranges(means.starts[front], means.starts[front + 1])]
        numbers = numbers[~down[means.asset[numbers]]]
        np.add.at(lost, numbers, 1)
        counted.append(numbers)
        hit.append(sheets.fresh(means.asset[numbers], sheets.touched))
        front = sheets.fresh(means.asset[numbers[(lost[numbers] == means.of[numbers]) & needed[numbers]]], down)
        fell.append(front)
    for nodes in (*fell, *hit):
        down[nodes] = sheets.touched[nodes] = False
    for numbers in counted:
        lost[numbers] = 0
    graph.spare.append(sheets)
    return Falling(dict.fromkeys(gone, 0) | _by_step(fell[1:], lowest), _by_step(hit, lowest))


def _by_step(steps: list[Numbers], lowest: int) -> dict[int, int]:
    out: dict[int, int] = {}
    for step, nodes in enumerate(steps, 1):
        out |= dict.fromkeys((nodes + lowest).tolist(), step)
    return out


def _fallen(graph: Graph, asset: int, down: Mapping[int, int], first: int) -> Fallen:
    stopped, edges = down.get(asset), graph.on.get(asset)
    ends = [end_of(e) for e in edges]
    for end in dict.fromkeys(end for end, e in zip(ends, edges, strict=True) if e.on in down):
        group = [e for own, e in zip(ends, edges, strict=True) if own == end]
        lost = tuple(e for e in group if e.on in down)
        if stopped is None:
            return Fallen(asset, "weakened", lost, first, tuple(sorted({e.on for e in group if e.on not in down})))
        serves = end[0] not in ASKED or bool(ASKED & graph.under.kinds(asset))
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
    for asset in sorted(_alone(graph) | set(watched.members)):
        found = falls(graph, [asset])
        stopped = tuple(watched.stopped(found.down))
        if (others := _devices(graph, found.down) - 1) or stopped:
            out.append(Single(asset, others, _devices(graph, found.weakened), stopped))
    return sorted(out, key=lambda s: (-len(s.services), -s.stops, -s.weakened, s.asset))[:most]


def _alone(graph: Graph) -> set[int]:
    """Return the devices on which, or on whose programs, anything elsewhere stands that has nothing in their stead: the
    first to fall elsewhere is of these."""
    means, device = graph.means, graph.device
    led = device[np.repeat(np.arange(graph.size), np.diff(means.starts))]
    least, most = np.full(len(means.of), np.iinfo(np.int64).max), np.zeros(len(means.of), np.int64)
    np.minimum.at(least, means.leading, led)
    np.maximum.at(most, means.leading, led)
    return set(least[means.needed & (least == most) & (device[means.asset] != least)].tolist())


def _devices(graph: Graph, nodes: Collection[int]) -> int:
    """Return how many of some nodes are devices."""
    return sum(n not in graph.hosts for n in nodes) if graph.hosts else len(nodes)


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
    down = falls(graph, [asset]).down
    stopped, means, lowest = set(watched.stopped(down)), graph.means, graph.lowest
    alone: dict[tuple[EdgeKind, str], list[int]] = defaultdict(list)
    # Who calls a program on it has that alone; what runs on it, and what it answers by, go with it whatever is added.
    for node in (asset, *graph.programs.get(asset, ())):
        for number in means.to(node - lowest) if 0 <= node - lowest < graph.size else ():
            kind, over = means.end(number, graph.edges.words)
            alone_for = means.of.item(number) == 1 and means.needed.item(number)
            if alone_for and means.asset.item(number) + lowest in down and kind in MENDABLE:
                alone[kind, over].append(number)
    out = []
    for (kind, over), numbers in alone.items():
        still = falls(graph, [asset], frozenset(numbers)).down
        saved = tuple(sorted(stopped.difference(watched.stopped(still))))
        wanting = tuple(sorted({graph.hosts.get(a, a) for a in (means.asset.item(n) + lowest for n in numbers)}))
        out.append(Mend(kind, over, wanting, _devices(graph, down) - _devices(graph, still), saved))
    return sorted((m for m in out if m.saved or m.services), key=lambda m: (-len(m.services), -m.saved, m.kind, m.over))
