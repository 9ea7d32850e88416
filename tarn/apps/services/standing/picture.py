"""What stands on what around devices that stop, as a picture of layers."""

from collections.abc import Collection, Container, Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from tarn.apps.services.results import FallenCount, LayerBox, LayerFate, LayerLine, LayersOut
from tarn.core.filters.tree import Plain, Within, to_text
from tarn.core.standing.falling import Fallen
from tarn.core.standing.graph import Graph, reached, standing_on
from tarn.core.standing.layers import laid_out

MOST_NAMED = 300
"""Assets that a filter names one by one."""
MOST_BOXES = 250
"""Boxes that can still be looked at; more are not drawn, and the list has them."""


def beneath(graph: Graph, gone: Collection[int]) -> set[int]:
    """Return what devices stand on, down to the ground, so that a picture shows where they stand."""
    return {edge.on for asset in gone for _, edge in reached(graph, asset, 4, under=False)}


@dataclass(frozen=True)
class Drawn:
    """A service as a picture shows it: its members, and what becomes of it."""

    number: int
    name: str
    fate: LayerFate
    members: frozenset[int]


def picture(
    graph: Graph,
    gone: Collection[int],
    fallen: Collection[Fallen],
    known: Mapping[int, dict[str, Any]],
    services: Sequence[Drawn] = (),
    unfolded: Container[int] = (),
) -> LayersOut:
    """Return the layers of what stops and is weakened, of what is left of it, and of what it all stands on. `unfolded`:
    boxes, by the first in each, whose devices are drawn one by one."""
    fates: dict[int, LayerFate] = dict.fromkeys(beneath(graph, gone), "carries on")
    # A program stands on its device, whatever else becomes of either.
    fates.update((graph.hosts[n], "carries on") for n in (*gone, *(f.asset for f in fallen)) if n in graph.hosts)
    fates.update((a, "carries on") for f in fallen for a in f.left)
    fates.update((f.asset, f.fate) for f in fallen)
    fates.update((a, "gone") for a in gone)
    return _drawn(graph, fates, known, services, unfolded)


def picture_of(
    graph: Graph,
    members: Collection[int],
    known: Mapping[int, dict[str, Any]],
    services: Sequence[Drawn] = (),
    unfolded: Container[int] = (),
) -> LayersOut:
    """Return the layers of devices and of what they stand on, with nothing stopped."""
    return _drawn(graph, dict.fromkeys(shown_of(graph, members), "carries on"), known, services, unfolded)


def shown_of(graph: Graph, members: Collection[int]) -> set[int]:
    """Return devices, the programs on them, and all that they stand on."""
    return standing_on(graph, {*members, *(p for m in members for p in graph.programs.get(m, ()))})


def _drawn(
    graph: Graph,
    fates: Mapping[int, LayerFate],
    known: Mapping[int, dict[str, Any]],
    services: Sequence[Drawn],
    unfolded: Container[int],
) -> LayersOut:
    shown = {a: fate for a, fate in fates.items() if a in known}

    def alike(node: int) -> Hashable:
        if node in graph.hosts:
            return shown[node], graph.names[node]
        return shown[node], known[node]["kind"], known[node]["place"]

    boxes, lines = laid_out(graph, shown, alike, unfolded)
    if len(boxes) > MOST_BOXES:
        return {"boxes": [], "lines": []}
    down = {a for a, fate in shown.items() if fate in ("gone", "stops")}
    # Services stand above all layers: a row of their own, each over the boxes of its members.
    above, first = list(services), len(services)
    top: list[LayerBox] = [
        {
            "layer": "services",
            "row": 0,
            "name": s.name,
            "asset": None,
            "service": s.number,
            "fate": s.fate,
            "devices": len(s.members),
            "filter": "",
            "folded": None,
        }
        for s in above
    ]
    running = {graph.hosts[n] for n in shown if n in graph.hosts}
    standing: list[LayerLine] = [
        {"above": n, "below": first + m, "lost": box.assets[0] in down}
        for n, s in enumerate(above)
        for m, box in enumerate(boxes)
        # A service stands on what runs on its members, and on those of which nothing is known to run.
        if s.members.intersection(graph.hosts.get(a, 0 if a in running else a) for a in box.assets)
    ]
    drawn: list[LayerBox] = [
        {
            "layer": box.layer,
            "row": box.row + bool(above),
            "name": _name(box.assets, known, graph),
            "asset": known[box.assets[0]]["asset"] if len(box.assets) == 1 else None,
            "service": None,
            "fate": shown[box.assets[0]],
            "devices": len(box.assets),
            "filter": numbered(box.assets, known),
            "folded": box.assets[0] if len(box.assets) > 1 else None,
        }
        for box in boxes
    ]
    between: list[LayerLine] = [
        {"above": first + k.above, "below": first + k.below, "lost": boxes[k.below].assets[0] in down} for k in lines
    ]
    return {"boxes": [*top, *drawn], "lines": [*standing, *between]}


def _name(assets: tuple[int, ...], known: Mapping[int, dict[str, Any]], graph: Graph) -> str:
    first = known[assets[0]]
    if assets[0] in graph.hosts:
        return f"{first['program']} ×{len(assets)}" if len(assets) > 1 else str(first["program"])
    if len(assets) == 1:
        return str(first["name"])
    return f"{len(assets)} × {first['kind'] or 'device'}" + (f", {first['place']}" if first["place"] else "")


def counted(assets: Collection[int], known: Mapping[int, dict[str, Any]]) -> FallenCount:
    """Return how many assets there are, and the filter that opens them where they can be named one by one."""
    return {"devices": len(assets), "filter": numbered(assets, known) if 0 < len(assets) <= MOST_NAMED else None}


def numbered(assets: Collection[int], known: Mapping[int, dict[str, Any]]) -> str:
    """Return the filter that opens assets, by their numbers."""
    numbers = tuple(Plain(number, True) for number in dict.fromkeys(known[a]["number"] for a in sorted(assets)))
    return f"{to_text(Within('number', numbers))} and standing != none"
