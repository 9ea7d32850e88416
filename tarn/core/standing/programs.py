"""Programs as parts of the graph: what calls and what is called on a device is a program that runs there."""

from collections.abc import Collection, Container, Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from tarn.core.standing.columns import KIND, TABLE, Edges, Flags, Numbers, Words, marked, ranges
from tarn.core.standing.edge import ASKED, KINDS, Edge
from tarn.core.standing.graph import Graph

_ASKED = np.array([kind in ASKED for kind in KINDS])


class Program(NamedTuple):
    """A program as it runs on a device: the ports it answers, in figures, and the names its processes go by."""

    asset: int
    name: str
    ports: frozenset[str]
    processes: frozenset[str]


@dataclass(frozen=True)
class Apart:
    """A graph in which programs are told apart from their devices, and what it is carried on by. `calls`: the rows that
    lead from or to a device with programs."""

    graph: Graph
    calls: npt.NDArray[Any]
    here: "_Here"


def graph_with(edges: Iterable[Edge], programs: Sequence[Program]) -> Graph:
    """Return the graph of devices and of the programs on them that call or are called (`told_apart`)."""
    return told_apart(edges, programs).graph


def told_apart(edges: Iterable[Edge], programs: Sequence[Program]) -> Apart:
    """Return the graph of devices and of the programs on them that call or are called. A program's number is below
    zero: the first is -1, in the order they are given.

    A call leads to the program that answers the port, and from the one whose process calls. Where nobody knows which
    process calls, each program on the caller that is called itself may be the one, and so may be the device. Where
    nobody knows what answers or calls, the device does.
    """
    told = edges if isinstance(edges, Edges) else Edges.of(edges)
    here = _Here(told.words).with_more(programs)
    concerned = here.concerned(told.table)
    calls = told.table[concerned]
    return _made(told, here, concerned, here.apart(calls, here.called(calls)))


_SPARE = 100
"""As many numbers, and as many again as there are programs, may be of programs that are no more."""


def apart_again(
    before: Apart, edges: Edges, changed: Collection[int], fresh: Mapping[int, Sequence[Program]]
) -> Apart | None:
    """Return what `told_apart` would, numbers aside, after edges with an end among `changed` are others and the
    programs of some devices, in `fresh` with all of theirs, may be; None where too little is left to go by."""
    gone = {n for device in fresh for n in before.here.on.get(device, ())}
    left = sum(p is not None for p in before.here.programs) - len(gone)
    if len(before.here.programs) > 2 * left + _SPARE:
        return None
    here = before.here.with_more([p for of in fresh.values() for p in of], fresh)
    table, old = edges.table, before.calls
    told_anew = {*changed, *fresh}
    device = before.here.device_of
    at, to = device(old["stands"]), device(old["on"])
    ends = marked(told_anew, table["stands"], table["on"], at, to)
    concerned = here.concerned(table)
    # Whether a program is called says whether it may be the one that calls: so whom these call comes with them.
    from_these = table["on"][concerned & ends[table["stands"]]]
    with_callees = ends.copy()
    with_callees[from_these] = True
    with_callees[to[ends[at]]] = True
    again = table[concerned & (with_callees[table["stands"]] | ends[table["on"]])]
    of_callers = marked(again["stands"].tolist(), table["on"], table["stands"])
    called = here.called(table[concerned & of_callers[table["on"]]])
    kept = old[~(with_callees[at] | ends[to])]
    return _made(edges, here, concerned, np.concatenate([kept, here.apart(again, called)]))


def _made(told: Edges, here: "_Here", concerned: Flags, calls: npt.NDArray[Any]) -> Apart:
    hosts, runs = here.running(calls)
    table = np.concatenate([told.table[~concerned], calls, runs])
    names = {number: program.name for number in hosts if (program := here.programs[-number - 1]) is not None}
    return Apart(Graph(Edges(table, told.words), hosts, names), calls, here)


class _Here:
    """The programs there are, ready to be looked up by columns. `programs`: by number, the first is -1; None for one
    that is no more. `on`: by device the numbers of its programs."""

    def __init__(self, words: Words) -> None:
        self.programs: list[Program | None] = []
        self.on: dict[int, list[int]] = {}
        self._words = words
        self._answers, self._numbers = np.zeros(0, np.int64), np.zeros(0, np.int64)

    def with_more(self, programs: Sequence[Program], instead: Collection[int] = ()) -> "_Here":
        """Return them with more programs, `instead` of all that some devices had."""
        made = _Here(self._words)
        made.programs, made.on = list(self.programs), dict(self.on)
        for device in instead:
            for number in made.on.pop(device, ()):
                made.programs[-number - 1] = None
        keys, numbers = [], []
        for program in programs:
            made.programs.append(program)
            number = -len(made.programs)
            made.on[program.asset] = [*made.on.get(program.asset, ()), number]
            for port in program.ports:
                keys.append(program.asset << 32 | self._words.number(port))
                numbers.append(number)
        stay = ~np.isin(self._answers >> 32, list(instead))
        key = np.concatenate([self._answers[stay], np.array(keys, np.int64)])
        of = np.concatenate([self._numbers[stay], np.array(numbers, np.int64)])
        # The last of those that say they answer is the one, as in a dictionary.
        order = np.argsort(key, kind="stable")
        last = np.append(np.diff(key[order]) != 0, True) if len(order) else np.zeros(0, np.bool_)
        made._answers, made._numbers = key[order][last], of[order][last]
        return made

    def concerned(self, table: npt.NDArray[Any]) -> Flags:
        """Return which rows ask for something of, or on, a device with programs."""
        devices = marked(self.on, table["on"], table["stands"])
        return _ASKED[table["kind"]] & (devices[table["on"]] | devices[table["stands"]])

    def device_of(self, nodes: Numbers) -> Numbers:
        """Return the device each node is, or runs on."""
        return np.where(nodes < 0, self._assets[np.maximum(-nodes, 0)], nodes)

    @cached_property
    def _assets(self) -> Numbers:
        """By number, its sign left aside, the device a program runs on."""
        return np.array([0, *(0 if p is None else p.asset for p in self.programs)], np.int64)

    def called(self, table: npt.NDArray[Any]) -> set[int]:
        """Return the programs that rows call."""
        on = self.answering(table["on"], table["over"].astype(np.int64))
        return set(np.unique(on[on < 0]).tolist())

    def answering(self, on: Numbers, over: Numbers) -> Numbers:
        """Return what answers each port of each device: a program, or the device."""
        if not len(self._answers):
            return on
        wanted = _key(on, over)
        place = np.minimum(np.searchsorted(self._answers, wanted), len(self._answers) - 1)
        return np.where(self._answers[place] == wanted, self._numbers[place], on)

    def apart(self, table: npt.NDArray[Any], called: Container[int]) -> npt.NDArray[Any]:
        """Return calls between devices as calls of the programs on them; one for each that may be calling. `called`:
        programs that are called."""
        on = self.answering(table["on"], table["over"].astype(np.int64))
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

    def _callers(self, row: Any, own: bool, called: Container[int]) -> list[tuple[int, int]]:
        """Return who of a device calls, with the processes that do: its programs, by their numbers, or the device. A
        process of none: as the edge has it."""
        device = int(row["stands"])
        there = self.on.get(device, ())
        if not there:
            return [(device, 0)]
        text = self._words[int(row["process"])] if own else ""
        if not text:
            return [(device, 0), *((n, 0) for n in there if n in called)]
        names = text.split(", ")
        of = {n: program.processes for n in there if (program := self.programs[-n - 1]) is not None}
        mine = [n for n, processes in of.items() if not processes.isdisjoint(names)]
        out = [(n, self._words.number(", ".join(p for p in names if p in of[n]))) for n in mine]
        known = {name for n in mine for name in of[n]}
        return out if mine and known.issuperset(names) else [(device, 0), *out]

    def running(self, calls: npt.NDArray[Any]) -> tuple[dict[int, int], npt.NDArray[Any]]:
        """Return by program that calls or is called the device it runs on, and the edges that say so."""
        since = np.full(len(self.programs) + 1, np.iinfo(np.int64).max)
        for end in ("stands", "on"):
            below = calls[end] < 0
            np.minimum.at(since, -calls[end][below], calls["since"][below])
        met = np.flatnonzero(since != np.iinfo(np.int64).max)
        hosts = {-n: p.asset for n in met.tolist() if (p := self.programs[n - 1]) is not None}
        runs = np.zeros(len(met), TABLE)
        runs["stands"], runs["on"] = -met, list(hosts.values())
        runs["kind"], runs["since"], runs["sure"] = KIND["runs on"], since[met], 100
        runs["witness"][:, 0] = runs["on"]
        return hosts, runs


def _key(asset: Numbers, word: Numbers) -> Numbers:
    """Return one number for a device and a text."""
    return (asset << 32) | word
