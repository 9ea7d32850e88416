"""Means: which edges of an asset are means of one end, so that what falls can be counted down."""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from tarn.core.standing.edge import ASKED, Edge, EdgeKind

End = tuple[EdgeKind | Literal["answers by"], str]
"""What something is a means of: the sort of edge, and the port or file system that is asked for."""


@dataclass(frozen=True, slots=True)
class Means:
    """Edges of an asset that are means of one end, as columns, a means a place: its `asset`; `of` so many others its
    edges lead to; `needed`: the asset stops without any of them; its `end`. `leading`: by asset the means, by their
    place, that lead to it. A device of which nothing but programs is asked gives what they give: they are its means, of
    the end “answers by”."""

    asset: list[int]
    of: list[int]
    needed: list[bool]
    end: list[End]
    leading: dict[int, list[int]]


def end_of(edge: Edge) -> End:
    """Return the end an edge is a means of. The port of a switch, or the outlet, is where a plug is, not what is asked
    for: two plugs are two means of one end."""
    if edge.kind not in ASKED:
        return edge.kind, ""
    return ("talks to" if edge.kind == "falls back on" else edge.kind), edge.over


def means_of(on: Mapping[int, Sequence[Edge]], under: Mapping[int, Sequence[Edge]], hosts: Mapping[int, int]) -> Means:
    """Return the means that edges are, by both of their ends; `hosts`: by program the device it runs on."""
    served = {asset for asset, edges in under.items() if any(e.kind in ASKED for e in edges)}
    assets: list[int] = []
    of: list[int] = []
    needed: list[bool] = []
    end: list[End] = []
    leading: defaultdict[int, list[int]] = defaultdict(list)
    for asset, edges in on.items():
        serves = asset in served
        ends: dict[End, dict[int, None]] = {}  # each of the others once, also where there are thousands
        for edge in edges:
            ends.setdefault(end_of(edge), {})[edge.on] = None
        for this, met in ends.items():
            number = len(assets)
            for other in met:
                leading[other].append(number)
            assets.append(asset)
            of.append(len(met))
            needed.append(serves or this[0] not in ASKED)
            end.append(this)
    made = Means(assets, of, needed, end, dict(leading))
    _answering(made, served, under, hosts)
    return made


def _answering(made: Means, served: set[int], under: Mapping[int, Sequence[Edge]], hosts: Mapping[int, int]) -> None:
    """Add the programs by which devices answer to the means there are."""
    answering: dict[int, list[int]] = defaultdict(list)
    for program, asset in hosts.items():
        if program in served:
            answering[asset].append(program)
    for asset, programs in answering.items():
        for program in programs:
            made.leading.setdefault(program, []).append(len(made.asset))
        made.asset.append(asset)
        made.of.append(len(programs))
        made.needed.append(all(e.kind == "runs on" for e in under[asset]))
        made.end.append(("answers by", ""))
