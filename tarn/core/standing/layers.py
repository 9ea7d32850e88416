"""What stands on what laid out in layers: each rests on those below it, and what is alike is folded into one box."""

from collections import defaultdict
from collections.abc import Callable, Collection, Container, Hashable
from dataclasses import dataclass
from typing import Literal, get_args

from tarn.core.standing.edge import ASKED, KINDS, EdgeKind
from tarn.core.standing.graph import Graph, order_of_return

Layer = Literal["callers", "applications", "computers", "virtual hosts", "network", "power"]
LAYERS: tuple[Layer, ...] = get_args(Layer)
"""From the top: those that only call or are only plugged in, programs, the devices they run on and others that are
called, hosts of guests, switches, and what power comes from."""
FEWEST_FOLDED = 3
"""As many that are alike become one box."""
_SWEEPS = 6


@dataclass(frozen=True, slots=True)
class Box:
    """One asset, or several that are alike; `row` counts from the top, over all layers."""

    layer: Layer
    row: int
    assets: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Line:
    """Boxes by their place in the list: `above` stands on `below`; `edges`: how many edges that is."""

    above: int
    below: int
    edges: int


def layer_of(graph: Graph, asset: int) -> Layer:
    """Return the layer an asset is of, by what stands on it."""
    if asset in graph.hosts:
        return "applications"
    under = graph.under.kinds(asset)
    if "powered by" in under:
        return "power"
    if "plugged into" in under:
        return "network"
    if "guest of" in under:
        return "virtual hosts"
    return "computers" if under & ASKED or "runs on" in under else "callers"


def laid_out(
    graph: Graph, assets: Collection[int], alike: Callable[[int], Hashable], unfolded: Container[int] = ()
) -> tuple[list[Box], list[Line]]:
    """Return boxes, row by row from the top and in each from left to right, and the lines between them.

    Every asset is in one box. Within a layer, what stands on another of it is a row higher; those of a circle share a
    row. Folded are those of a row that `alike` says the same of, that stand on the same and that the same stands on;
    callers wherever they are plugged in, and programs of one name wherever they run. What would be
    folded with one of `unfolded` has a box each.
    Boxes are put near what they are connected to (the mean of those, row by row, up and down): fewer lines cross.
    """
    shown = set(assets)
    rows: list[tuple[Layer, list[tuple[int, ...]]]] = []
    for layer in LAYERS:
        mine = {a for a in shown if layer_of(graph, a) == layer}
        for step in reversed(order_of_return(graph, mine)):
            # Where a caller is plugged in tells little: twenty tills at three switches are still twenty tills.
            kinds = [k for k in KINDS if layer != "callers" or k not in ("plugged into", "powered by")]
            folded = _by_name(step, alike) if layer == "applications" else _folded(graph, step, shown, kinds, alike)
            single = [[(a,) for a in box] if any(a in unfolded for a in box) else [box] for box in folded]
            rows.append((layer, [box for boxes in single for box in boxes]))
    ordered = _near(graph, [boxes for _, boxes in rows])
    out = [Box(layer, n, box) for n, ((layer, _), boxes) in enumerate(zip(rows, ordered, strict=True)) for box in boxes]
    at = {asset: n for n, box in enumerate(out) for asset in box.assets}
    lines: dict[tuple[int, int], int] = defaultdict(int)
    for asset in shown:
        for edge in graph.on.get(asset):
            if edge.on in at and at[edge.on] != at[asset]:
                lines[at[asset], at[edge.on]] += 1
    return out, [Line(above, below, n) for (above, below), n in sorted(lines.items())]


def _folded(
    graph: Graph, step: list[int], shown: set[int], kinds: Collection[EdgeKind], alike: Callable[[int], Hashable]
) -> list[tuple[int, ...]]:
    groups: dict[Hashable, list[int]] = defaultdict(list)
    for asset in sorted(step):
        on = frozenset((e.kind, e.on) for e in graph.on.get(asset) if e.on in shown and e.kind in kinds)
        under = frozenset((e.kind, e.stands) for e in graph.under.get(asset) if e.stands in shown)
        groups[alike(asset), on, under].append(asset)
    out: list[tuple[int, ...]] = []
    for group in groups.values():
        out.extend([tuple(group)] if len(group) >= FEWEST_FOLDED else [(a,) for a in group])
    return out


def _by_name(step: Collection[int], alike: Callable[[int], Hashable]) -> list[tuple[int, ...]]:
    groups: dict[Hashable, list[int]] = defaultdict(list)
    for program in sorted(step, reverse=True):
        groups[alike(program)].append(program)
    return [tuple(group) for group in groups.values()]


def _near(graph: Graph, rows: list[list[tuple[int, ...]]]) -> list[list[tuple[int, ...]]]:
    place: dict[int, float] = {}

    def settle(row: list[tuple[int, ...]]) -> None:
        for n, box in enumerate(row):
            for asset in box:
                place[asset] = (n + 0.5) / len(row)

    def mean(box: tuple[int, ...]) -> float:
        asset = box[0]  # the others are connected to the same
        met = [place[e.on] for e in graph.on.get(asset) if e.on in place]
        met += [place[e.stands] for e in graph.under.get(asset) if e.stands in place]
        return sum(met) / len(met) if met else place[asset]

    for row in rows:
        settle(row)
    for sweep in range(_SWEEPS):
        for n in range(len(rows)) if sweep % 2 else reversed(range(len(rows))):
            rows[n] = sorted(rows[n], key=lambda box: (mean(box), box))
            settle(rows[n])
    return rows
