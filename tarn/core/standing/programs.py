"""Programs as parts of the graph: what calls and what is called on a device is a program that runs there."""

from collections import defaultdict
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from tarn.core.standing.edge import ASKED, Edge
from tarn.core.standing.graph import Graph, graph_of


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
    kept = tuple(edges)
    answers = {(p.asset, port): -n for n, p in enumerate(programs, 1) for port in p.ports}
    on_device: dict[int, list[int]] = defaultdict(list)
    for n, program in enumerate(programs, 1):
        on_device[program.asset].append(-n)
    called = {answers[end] for end in {(e.on, e.over) for e in kept if e.kind in ASKED} & answers.keys()}
    out: list[Edge] = []
    met: dict[int, int] = {}
    for edge in kept:
        if edge.kind not in ASKED or (edge.on not in on_device and edge.stands not in on_device):
            out.append(edge)
            continue
        on = answers.get((edge.on, edge.over), edge.on)
        for caller in _callers(edge, on_device.get(edge.stands, ()), programs, called):
            mine = programs[-caller - 1].processes if caller < 0 else ()
            process = ", ".join(p for p in edge.process.split(", ") if p in mine) or edge.process
            out.append(edge._replace(stands=caller, on=on, process=process))
            for number in (caller, on):
                if number < 0:
                    met[number] = min(edge.since, met.get(number, edge.since))
    hosts = {number: programs[-number - 1].asset for number in sorted(met, reverse=True)}
    out += [Edge(n, asset, "runs on", since=met[n], witnesses=(asset,)) for n, asset in hosts.items()]
    return graph_of(out, hosts, {n: programs[-n - 1].name for n in hosts})


def _callers(edge: Edge, here: Sequence[int], programs: Sequence[Program], called: set[int]) -> list[int]:
    """Return who of a device calls: its programs, by their numbers, or the device."""
    if not here:
        return [edge.stands]
    # What only the called end tells of names its own process.
    names = set(edge.process.split(", ")) - {""} if edge.stands in edge.witnesses else set()
    if not names:
        return [edge.stands, *(n for n in here if n in called)]
    mine = [n for n in here if names & programs[-n - 1].processes]
    known = {name for n in mine for name in programs[-n - 1].processes}
    return mine if mine and names <= known else [edge.stands, *mine]
