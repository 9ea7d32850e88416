"""Programs as parts of the graph: what calls and what is called on a device is a program that runs there."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from tarn.core.standing.columns import KIND, TABLE, Edges, Numbers, Words, ranges
from tarn.core.standing.edge import ASKED, Edge
from tarn.core.standing.graph import Graph


class Program(NamedTuple):
    """A program as it runs on a device: the ports it answers, in figures, and the names its processes go by."""

    asset: int
    name: str
    ports: frozenset[str]
    processes: frozenset[str]


def graph_with(edges: Iterable[Edge], programs: Sequence[Program]) -> Graph:
    """Return the graph of devices and of the programs on them that call or are called. A program's number is below
    zero: the first is -1, in the order they are given.

    A call leads to the program that answers the port, and from the one whose process calls. Where nobody knows which
    process calls, each program on the caller that is called itself may be the one, and so may be the device. Where
    nobody knows what answers or calls, the device does.
    """
    told = edges if isinstance(edges, Edges) else Edges.of(edges)
    here = _Here(programs, told.words)
    asked = np.isin(told.table["kind"], [KIND[k] for k in ASKED])
    asked &= np.isin(told.table["on"], here.devices) | np.isin(told.table["stands"], here.devices)
    calls = here.apart(told.table[asked])
    hosts, runs = here.running(calls)
    table = np.concatenate([told.table[~asked], calls, runs])
    return Graph(Edges(table, told.words), hosts, {number: programs[-number - 1].name for number in hosts})


class _Here:
    """The programs there are, ready to be looked up by columns."""

    def __init__(self, programs: Sequence[Program], words: Words) -> None:
        self._programs, self._words = programs, words
        self._on: dict[int, list[int]] = defaultdict(list)
        ends, numbers = [], []
        for number, program in enumerate(programs, 1):
            self._on[program.asset].append(-number)
            for port in program.ports:
                if (known := words.known(port)) is not None:
                    ends.append((program.asset, known))
                    numbers.append(-number)
        self.devices = np.fromiter(self._on, np.int64, len(self._on))
        of = np.array(ends, np.int64).reshape(-1, 2)
        # The last of those that say they answer is the one, as in a dictionary.
        key, self._numbers = _key(of[:, 0], of[:, 1]), np.array(numbers, np.int64)
        order = np.argsort(key, kind="stable")
        last = np.append(np.diff(key[order]) != 0, True) if len(order) else order.astype(np.bool_)
        self._answers, self._numbers = key[order][last], self._numbers[order][last]

    def answering(self, on: Numbers, over: Numbers) -> Numbers:
        """Return what answers each port of each device: a program, or the device."""
        if not len(self._answers):
            return on
        wanted = _key(on, over)
        place = np.minimum(np.searchsorted(self._answers, wanted), len(self._answers) - 1)
        return np.where(self._answers[place] == wanted, self._numbers[place], on)

    def apart(self, table: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """Return calls between devices as calls of the programs on them; one for each that may be calling."""
        on = self.answering(table["on"], table["over"].astype(np.int64))
        called = set(np.unique(on[on < 0]).tolist())
        # What only the called end tells of names its own process.
        own = (table["witness"] == table["stands"][:, None]).any(axis=1)
        same = _key(table["stands"], np.where(own, table["process"], 0).astype(np.int64))
        _, first, which = np.unique(same, return_index=True, return_inverse=True)
        callers, process, starts = [], [], [0]
        for n in first.tolist():
            for caller, text in self._callers(table[n], bool(own[n]), called):
                callers.append(caller)
                process.append(text)
            starts.append(len(callers))
        bounds = np.array(starts)
        many = (bounds[1:] - bounds[:-1])[which]
        out = np.repeat(table, many)
        taken = ranges(bounds[which], bounds[which + 1])
        out["on"], out["stands"] = np.repeat(on, many), np.array(callers, np.int64)[taken]
        named = np.array(process, np.int64)[taken]
        out["process"] = np.where(named == 0, out["process"], named)
        return out

    def _callers(self, row: Any, own: bool, called: set[int]) -> list[tuple[int, int]]:
        """Return who of a device calls, with the processes that do: its programs, by their numbers, or the device. A
        process of none: as the edge has it."""
        device = int(row["stands"])
        there = self._on.get(device, ())
        if not there:
            return [(device, 0)]
        text = self._words[int(row["process"])] if own else ""
        if not text:
            return [(device, 0), *((n, 0) for n in there if n in called)]
        names = text.split(", ")
        mine = [n for n in there if not self._programs[-n - 1].processes.isdisjoint(names)]
        out = [
            (n, self._words.number(", ".join(p for p in names if p in self._programs[-n - 1].processes))) for n in mine
        ]
        known = {name for n in mine for name in self._programs[-n - 1].processes}
        return out if mine and known.issuperset(names) else [(device, 0), *out]

    def running(self, calls: npt.NDArray[Any]) -> tuple[dict[int, int], npt.NDArray[Any]]:
        """Return by program that calls or is called the device it runs on, and the edges that say so."""
        since = np.full(len(self._programs) + 1, np.iinfo(np.int64).max)
        for end in ("stands", "on"):
            below = calls[end] < 0
            np.minimum.at(since, -calls[end][below], calls["since"][below])
        met = np.flatnonzero(since != np.iinfo(np.int64).max)
        hosts = {-n: self._programs[n - 1].asset for n in met.tolist()}
        runs = np.zeros(len(met), TABLE)
        runs["stands"], runs["on"] = -met, list(hosts.values())
        runs["kind"], runs["since"], runs["sure"] = KIND["runs on"], since[met], 100
        runs["witness"][:, 0] = runs["on"]
        return hosts, runs


def _key(asset: Numbers, word: Numbers) -> Numbers:
    """Return one number for a device and a text."""
    return (asset << 32) | word
