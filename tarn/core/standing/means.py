"""Means: which edges of an asset are means of one end, so that what falls can be counted down."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
import numpy.typing as npt

from tarn.core.standing.columns import KIND, Flags, Numbers, Words, by_node, in_order
from tarn.core.standing.edge import ASKED, KINDS, STEAD, Edge, EdgeKind

End = tuple[EdgeKind | Literal["answers by"], str]
"""What something is a means of: the sort of edge, and the port or file system that is asked for."""
ANSWERS_BY = len(KINDS)
"""The end of the programs by which a device answers, beside the kinds of edges."""
_ASKED = np.array([kind in ASKED for kind in KINDS])
_AS = np.array([KIND[STEAD.get(kind, kind)] for kind in KINDS])


@dataclass(frozen=True, slots=True)
class Means:
    """Edges of an asset that are means of one end, as columns, a means a place: its `asset`, counted from the lowest
    node; `of` so many others its edges lead to; `needed`: the asset stops without any of them; `kind` and `over`: its
    end. `leading[starts[n]:starts[n + 1]]`: the means that lead to a node. A device of which nothing but programs is
    asked gives what they give: they are its means, of the end “answers by”."""

    asset: Numbers
    of: Numbers
    needed: Flags
    kind: Numbers
    over: Numbers
    starts: Numbers
    leading: Numbers

    def to(self, node: int) -> list[int]:
        """Return the means that lead to a node, by their places; `node` counted from the lowest."""
        found: list[int] = self.leading[self.starts[node] : self.starts[node + 1]].tolist()
        return found

    def end(self, number: int, words: Words) -> End:
        """Return what a means is a means of."""
        kind = int(self.kind[number])
        return ("answers by" if kind == ANSWERS_BY else KINDS[kind]), words[int(self.over[number])]


def end_of(edge: Edge) -> End:
    """Return the end an edge is a means of. The port of a switch, or the outlet, is where a plug is, not what is asked
    for: two plugs are two means of one end."""
    return STEAD.get(edge.kind, edge.kind), edge.over if edge.kind in ASKED else ""


def means_of(table: npt.NDArray[Any], hosts: Mapping[int, int], lowest: int, size: int) -> Means:
    """Return the means that the edges of a table are. `hosts`: by program the device it runs on; nodes are numbers from
    `lowest` on, `size` of them."""
    stands, on, kinds = table["stands"] - lowest, table["on"] - lowest, table["kind"]
    asked = _ASKED[kinds]
    served = np.zeros(size, np.bool_)
    served[on[asked]] = True
    kind, over = _AS[kinds], np.where(asked, table["over"], 0).astype(np.int64)
    words = int(over.max(initial=0)) + 1
    # One number for who stands and for what: the rows of one means have the same.
    same = (stands * len(KINDS) + kind) * words + over
    order = in_order(same)
    first = np.ones(len(order), np.bool_)
    first[1:] = np.diff(same[order]) != 0
    of_row = np.cumsum(first) - 1
    begins = order[first]
    bits = size.bit_length()
    pairs = np.sort(of_row << bits | on[order])
    pairs = pairs[np.append(True, np.diff(pairs) != 0)] if len(pairs) else pairs
    number, other = pairs >> bits, pairs & (1 << bits) - 1
    asset, ends = stands[begins], kind[begins]
    made = Means(
        asset, np.bincount(number, minlength=len(begins)), served[asset] | ~_ASKED[ends], ends, over[begins],
        np.zeros(0, np.int64), np.zeros(0, np.int64),
    )  # fmt: skip
    return _led(*_answering(made, number, other, served, on[kinds != KIND["runs on"]], hosts, lowest, size), size)


def _answering(
    made: Means,
    number: Numbers,
    other: Numbers,
    served: Flags,
    otherwise: Numbers,
    hosts: Mapping[int, int],
    lowest: int,
    size: int,
) -> tuple[Means, Numbers, Numbers]:
    """Add the programs by which devices answer to the means there are. `otherwise`: what more is asked of than that
    programs run on it."""
    programs = np.fromiter(hosts, np.int64, len(hosts)) - lowest
    devices = np.fromiter(hosts.values(), np.int64, len(hosts)) - lowest
    answer = served[programs]
    programs, devices = programs[answer], devices[answer]
    answering, place, many = np.unique(devices, return_inverse=True, return_counts=True)
    more = np.zeros(size, np.bool_)
    more[otherwise] = True
    joined = np.concatenate
    added = Means(
        joined([made.asset, answering]),
        joined([made.of, many]),
        joined([made.needed, ~more[answering]]),
        joined([made.kind, np.full(len(answering), ANSWERS_BY)]),
        joined([made.over, np.zeros(len(answering), np.int64)]),
        made.starts,
        made.leading,
    )
    return added, joined([number, place + len(made.asset)]), joined([other, programs])


def _led(made: Means, number: Numbers, other: Numbers, size: int) -> Means:
    """Return means with which of them lead to which node."""
    order, starts = by_node(other, size)
    return replace(made, starts=starts, leading=number[order])
