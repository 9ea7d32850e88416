"""Edges as columns: a million of them in tens of megabytes, an edge made of its row only where it is looked at."""

import threading
from collections.abc import Iterable, Iterator, Sequence
from itertools import chain
from typing import Any, Self, overload

import numpy as np
import numpy.typing as npt

from tarn.core.standing.edge import KINDS, Edge

Numbers = npt.NDArray[np.int64]
Flags = npt.NDArray[np.bool_]
TABLE = np.dtype(
    [
        ("stands", np.int64),
        ("on", np.int64),
        ("kind", np.uint8),
        ("over", np.int32),
        ("process", np.int32),
        ("since", np.int64),
        ("heard", np.int64),
        ("sure", np.uint8),
        ("witness", np.int64, (2,)),
        ("quiet", np.bool_),
    ]
)
"""Columns of edges: kinds by their place in KINDS, texts by their number in `Words`, witnesses with 0 for none."""
KIND = {kind: n for n, kind in enumerate(KINDS)}
"""By kind its place in KINDS, as columns have it."""
_STEP = 10_000
"""Rows that are made edges of at a time, where all are gone through."""


class Words:
    """Texts and their numbers, from 0 for none on; ever more of them, shared by all edges that come of each other."""

    def __init__(self) -> None:
        self._texts, self._numbers = [""], {"": 0}
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._texts)

    def __getitem__(self, number: int) -> str:
        return self._texts[number]

    def number(self, text: str) -> int:
        """Return the number of a text, a new one where it has none."""
        known = self._numbers.get(text)
        if known is not None:
            return known
        with self._lock:
            if text not in self._numbers:
                self._texts.append(text)
                self._numbers[text] = len(self._texts) - 1
            return self._numbers[text]

    def known(self, text: str) -> int | None:
        """Return the number of a text, or None where it has none."""
        return self._numbers.get(text)


class Edges(Sequence[Edge]):
    """Edges by row, in no order of their own, and the texts their columns name."""

    def __init__(self, table: npt.NDArray[Any], words: Words) -> None:
        self.table, self.words = table, words

    @classmethod
    def of(cls, edges: Iterable[Edge]) -> Self:
        """Return edges as columns; what would stand on itself is left out. Raises ValueError for more than two
        witnesses of one."""
        words = Words()
        return cls(table_of(edges, words), words)

    def __len__(self) -> int:
        return len(self.table)

    @overload
    def __getitem__(self, row: int) -> Edge: ...
    @overload
    def __getitem__(self, row: slice) -> list[Edge]: ...
    def __getitem__(self, row: int | slice) -> Edge | list[Edge]:
        if isinstance(row, slice):
            return self.made(self.table[row])
        return self.made(self.table[row : row + 1] if row >= 0 else self.table[row:][:1])[0]

    def __iter__(self) -> Iterator[Edge]:
        return chain.from_iterable(
            self.made(self.table[start : start + _STEP]) for start in range(0, len(self.table), _STEP)
        )

    def made(self, rows: npt.NDArray[Any]) -> list[Edge]:
        """Return the edges of rows of the table."""
        texts = self.words
        return [
            Edge(a, b, KINDS[kind], texts[over], texts[process], since, heard, sure, tuple(w for w in by if w), quiet)
            for a, b, kind, over, process, since, heard, sure, by, quiet in zip(
                *(rows[name].tolist() for name in TABLE.names or ()), strict=True
            )
        ]

    def where(self, rows: Flags) -> Self:
        """Return those of rows of which something is so."""
        return type(self)(self.table[rows], self.words)

    def of_kind(self, *kinds: str) -> Self:
        """Return those of some kinds."""
        return self.where(np.isin(self.table["kind"], [KIND[k] for k in kinds]))  # type: ignore[index]

    @property
    def gone_quiet(self) -> Self:
        """Those that were heard lately, but not when their witnesses were read last."""
        return self.where(self.table["quiet"])

    def touching(self, nodes: Iterable[int]) -> Self:
        """Return those with either end among some nodes."""
        there = np.fromiter(nodes, np.int64)
        return self.where(np.isin(self.table["stands"], there) | np.isin(self.table["on"], there))

    def within(self, nodes: Iterable[int]) -> Self:
        """Return those with both ends among some nodes; themselves where that is all of them."""
        there = np.fromiter(nodes, np.int64)
        both = np.isin(self.table["stands"], there) & np.isin(self.table["on"], there)
        return self if both.all() else self.where(both)


def table_of(edges: Iterable[Edge], words: Words) -> npt.NDArray[Any]:
    """Return edges as rows of a table, in their order; what would stand on itself is left out. Raises ValueError for
    more than two witnesses of one."""
    number = words.number
    rows = []
    for e in edges:
        if e.stands == e.on:
            continue
        if len(e.witnesses) > 2:
            raise ValueError(f"an edge has two witnesses at most, this one has {len(e.witnesses)}")
        rows.append((e.stands, e.on, KIND[e.kind], number(e.over), number(e.process), e.since, e.heard, e.sure,
                     (*e.witnesses, 0, 0)[:2], e.quiet))  # fmt: skip
    return np.array(rows, TABLE)


def alike(one: npt.NDArray[Any], other: npt.NDArray[Any]) -> bool:
    """Whether rows of two tables are the same edges, in whatever order: between the same ends, of the same kind, over
    the same port. Which process calls, and when it was heard, make no other."""
    if len(one) != len(other):
        return False
    if not len(one):
        return True
    ends = int(max(one["on"].max(), other["on"].max())) + 1
    keys = []
    for table in (one, other):
        what, pair = table["kind"].astype(np.int64) << 32 | table["over"], table["stands"] * ends + table["on"]
        order = np.lexsort((what, pair))
        keys.append((pair[order], what[order]))
    return all(bool(np.array_equal(a, b)) for a, b in zip(*keys, strict=True))


class Side:
    """Edges by one of their ends, `stands` or `on`: by node the rows it has there. Nodes are numbers from `lowest` on,
    `size` of them."""

    def __init__(self, edges: Edges, end: str, lowest: int, size: int) -> None:
        self._edges, self._lowest, self._size = edges, lowest, size
        self._order, self._starts = by_node(edges.table[end] - lowest, size)
        self._made: dict[int, list[Edge]] = {}

    def rows(self, node: int) -> npt.NDArray[Any]:
        """Return the rows of the table a node has at this end."""
        place = node - self._lowest
        if not 0 <= place < self._size:
            return self._edges.table[:0]
        return self._edges.table[self._order[self._starts[place] : self._starts[place + 1]]]

    def places(self, nodes: Numbers) -> Numbers:
        """Return the places in the table of the rows that any of some nodes have at this end."""
        inside = nodes[(nodes >= self._lowest) & (nodes < self._lowest + self._size)] - self._lowest
        return self._order[ranges(self._starts[inside], self._starts[inside + 1])]

    def get(self, node: int) -> Sequence[Edge]:
        """Return the edges a node has at this end, in their own order."""
        known = self._made.get(node)
        if known is None:
            rows = self.rows(node)
            if not len(rows):
                return ()
            if len(self._made) > _STEP:
                self._made = {}
            known = self._made[node] = sorted(self._edges.made(rows))
        return known

    def __getitem__(self, node: int) -> Sequence[Edge]:
        found = self.get(node)
        if not found:
            raise KeyError(node)
        return found

    def kinds(self, node: int) -> set[str]:
        """Return the kinds of the edges a node has at this end."""
        return {KINDS[k] for k in np.unique(self.rows(node)["kind"]).tolist()}


def marked(nodes: Iterable[int], *columns: Numbers) -> Flags:
    """Return by node whether it is one of some, up to the greatest in some columns; none is below zero."""
    known = np.fromiter(nodes, np.int64)
    out = np.zeros(1 + max(int(c.max(initial=0)) for c in (known, *columns)), np.bool_)
    out[known] = True
    out[0] = False
    return out


def in_order(keys: Numbers) -> Numbers:
    """Return the places of keys, none below zero, from the least to the greatest; of equal ones the first first.

    Keys are sorted with their places in their last digits where both have room in one number: that takes a fifth of
    the time of sorting places by keys.
    """
    bits = len(keys).bit_length()
    if int(keys.max(initial=0)).bit_length() + bits > 63:
        return np.argsort(keys, kind="stable")
    packed = keys.astype(np.int64) << bits
    packed |= np.arange(len(keys))
    packed.sort()
    packed &= (1 << bits) - 1
    return packed


def by_node(nodes: Numbers, size: int) -> tuple[Numbers, Numbers]:
    """Return the places of nodes, counted from 0, in their order, and where in it those of each node begin; one more
    says where the last ends."""
    starts = np.zeros(size + 1, np.int64)
    np.cumsum(np.bincount(nodes, minlength=size), out=starts[1:])
    return in_order(nodes), starts


def ranges(starts: Numbers, stops: Numbers) -> Numbers:
    """Return the numbers of several ranges, one after the other."""
    lengths = stops - starts
    before = np.cumsum(lengths) - lengths
    return np.arange(int(lengths.sum())) + np.repeat(starts - before, lengths)
