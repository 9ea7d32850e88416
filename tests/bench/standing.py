"""What stands on what: the graph against igraph on bare arrays, grouping of programs, services, and the inquiry."""

import random
import resource
from collections.abc import Iterable
from typing import Any

import igraph
import numpy as np

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.inputs import ServiceIn
from tarn.apps.services.inquiry.asked import inquire
from tarn.apps.services.kept.change import checked
from tarn.apps.services.kept.falling import map_of
from tarn.apps.services.kept.members import all_members
from tarn.apps.services.standing.edges import graph
from tarn.core.programs.features import Seen
from tarn.core.programs.grouping import grouped
from tarn.core.standing.columns import Edges, Words
from tarn.core.standing.edge import Edge
from tarn.core.standing.falling import falls, singles, stops
from tarn.core.standing.graph import Graph
from tarn.core.standing.talk import Known, Row, Talk, talk, talk_again, tellings
from tests.bench.figures import Figure, best, timed
from tests.bench.synthetic import DAY, START
from tests.documents import sighting

PROCESSES, SERVICES = 200_000, 200


def core(devices: int) -> list[Figure]:
    """Return the figures of the graph alone, of so many devices with ten edges each."""
    edges = _edges(devices)
    pairs = [(e.stands, e.on) for e in edges]
    bare_built = best(lambda: igraph.Graph(n=devices, edges=pairs, directed=True), 2)
    columns = Edges.of(edges)
    shuffled = columns.table[np.random.default_rng(7).permutation(len(columns))]

    def build() -> Graph:
        return _ready(Graph(Edges(shuffled, columns.words), {}, {}))

    built = best(build, 3)
    there, bare = build(), igraph.Graph(n=devices, edges=pairs, directed=True)
    hub = int(np.bincount(columns.table["on"]).argmax())
    floor = best(lambda: bare.subcomponent(hub, mode="in"), 3)
    impact = best(lambda: falls(there, [hub]), 3)
    with_why = best(lambda: stops(there, [hub]), 3)
    note_of = f"{impact * 1e3:.1f} ms; {with_why * 1e3:.1f} ms with why of each"
    points = timed(lambda: singles(there))
    articulated = best(lambda: bare.as_undirected().articulation_points(), 2)
    note = f"{devices:,} devices, {len(edges):,} edges"
    return [
        Figure(
            "graph_built",
            built / bare_built,
            "× igraph on bare arrays",
            "<= 2",
            f"{note}, {built:.2f} s by both ends and by means",
        ),
        Figure("impact_of_a_hub", impact / floor, "× igraph's reach", "<= 2", note_of),
        Figure("single_points", points / articulated, "× igraph's articulations", "<= 3", f"{points:.2f} s"),
        _again(devices),
    ]


def _again(devices: int) -> Figure:
    """Return how long it takes to carry the graph on after 100 devices told of their talk anew, of making all of it."""
    chance, words = random.Random(7), Words()
    hubs = max(10, devices // 200)

    def rows(of: Iterable[int]) -> list[Row]:
        return [
            (d, "out", f"p{port % 30}", f"a{chance.randrange(1, hubs)}", 1000 + port, 10, None)
            for d in of
            for port in range(10)
        ]

    told, some = rows(range(hubs, devices)), chance.sample(range(hubs, devices), 100)
    fresh = tellings(rows(some), words)
    made: list[Talk] = []

    def known() -> Known:
        owner = np.zeros(len(words), np.int64)
        for n in range(1, hubs):
            if (number := words.known(f"a{n}")) is not None:
                owner[number] = n
        return Known(100, owner, {}, lambda process, port: False, {})

    def whole() -> Graph:
        table = tellings(told, words)
        made[:] = [Talk(table, talk(table, known(), words))]
        return _ready(Graph(Edges(made[0].edges, words), {}, {}))

    def again() -> Graph:
        spoken = talk_again(made[0], fresh, some, some, known(), words)
        return _ready(Graph(Edges(spoken.edges, words), {}, {}))

    all_of_it = best(whole, 2)
    took = best(again, 3)
    return Figure("graph_again", took / all_of_it, "× all of it", "<= 0.03", f"{took:.3f} s of {all_of_it:.2f} s")


def _ready(made: Graph) -> Graph:
    made.means, made.on, made.under  # noqa: B018 - reckoned as they are asked for
    return made


def _edges(devices: int) -> list[Edge]:
    chance = random.Random(7)
    hubs = max(10, devices // 200)
    out = []
    for asset in range(hubs, devices):
        out.append(Edge(asset, hubs + (asset - hubs) // 40 % max(1, devices // 50), "plugged into", "1"))
        out += [Edge(asset, chance.randrange(hubs), "talks to", str(port)) for port in chance.sample(range(1, 60), 9)]
    return [e for e in out if e.stands != e.on]


def programs() -> list[Figure]:
    """Return the figures of grouping processes."""
    seen = [
        Seen(
            f"java -Xmx{n % 7}g -jar /opt/a{n % 900}/a{n % 900}x.jar --port {n % 60_000}",
            "java",
            f"u{n % 30}",
            str(n % 60_000),
        )
        for n in range(PROCESSES)
    ]
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    took = timed(lambda: grouped(seen))
    more = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    return [
        Figure("programs_grouped", took, "s", "<= 20", f"{PROCESSES:,} processes"),
        Figure("programs_memory", more, "MB more at most", "<= 500"),
    ]


def kept() -> list[Figure]:
    """Return the figures of services and the inquiry, on the estate that was built."""

    rows = raw_connection().execute("SELECT name, address FROM estate_assetspan WHERE valid_to IS NULL LIMIT 2000")
    hosts = [(name, address) for name, address in rows.fetchall() if address]
    called = [address for _, address in hosts[:20]]
    talk = [
        sighting(name, 6, source="bench", placement={"address": address}, connections=_calls(called, n))
        for n, (name, address) in enumerate(hosts)
    ]
    for _ in take_in(talk):
        pass
    built = timed(lambda: graph(None))
    for n in range(SERVICES):
        name = hosts[n % len(hosts)][0]
        parts: list[Any] = [{"name": "All", "rules": [{"filter": f"name = {name} or called by [name = {name}]"}]}]
        service = checked(ServiceIn.model_validate({"name": f"Service {n}", "parts": parts}))
        service.made_by, service.made_at = "bench", START
        service.save()
    everything = timed(lambda: all_members(None))
    moved = [
        sighting(name, 7, source="bench", placement={"address": a}, hardware={"memory": 1 << 30})
        for name, a in hosts[:1000]
    ]
    for _ in take_in(moved):
        pass
    again = timed(lambda: all_members(None))
    six = [name for name, _ in hosts[:6]]
    inquire(six, None)
    asked = best(lambda: inquire(six, None), 3)
    numbers = raw_connection().execute(
        "SELECT a.number FROM estate_asset a JOIN estate_assetspan s ON s.asset_id = a.id AND s.valid_to IS NULL LIMIT 490"
    )
    chosen = question(f"number in ({', '.join(n for (n,) in numbers)})")
    map_of(chosen)
    drawn = best(lambda: map_of(chosen), 3)
    past = START + int(6.5 * DAY)
    then = timed(lambda: graph(past))
    return [
        Figure("graph_of_estate", built, "s", "<= 5", f"{len(graph(None).edges):,} edges of {len(hosts):,} devices"),
        Figure("graph_of_past_day", then / built, "× now", "<= 2"),
        Figure("services_again", again / everything, "× all of them", "<= 0.1", f"{SERVICES} in {everything:.2f} s"),
        Figure("inquiry_of_six", asked * 1e3, "ms", "<= 300"),
        Figure("picture_of_500", drawn * 1e3, "ms", "<= 400", "what stands on what, without the drawing itself"),
    ]


def _calls(called: list[str], n: int) -> list[dict[str, Any]]:
    return [
        {"direction": "out", "process": f"p{port}", "peer": called[(n + port) % len(called)], "port": 1000 + port}
        for port in range(8)
    ]
