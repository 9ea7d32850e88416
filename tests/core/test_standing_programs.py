"""Programs as parts of the graph: what stops when a program does, and what a device still does without one of its own."""

from hypothesis import given
from hypothesis import strategies as st

from tarn.core.standing.edge import Edge
from tarn.core.standing.falling import mends, singles, stops
from tarn.core.standing.graph import graph_of, order_of_return
from tarn.core.standing.layers import laid_out
from tarn.core.standing.programs import Program, graph_with
from tarn.core.standing.services import Part, Watching
from tests.core.edges import edges

WEB, DATA, NAMES, USER, MONITOR, SWITCH = range(1, 7)
TIXLINE, EXPORTER, HERON = -1, -2, -3


def program(asset, name, *ports):
    return Program(asset, name, frozenset(ports), frozenset({name}))


def call(caller, called, over, process, *witnesses):
    return Edge(caller, called, "talks to", over, process, witnesses=witnesses or (caller,))


PROGRAMS = [program(WEB, "tixline", "80"), program(WEB, "exporter", "9100"), program(DATA, "heron", "5432")]
CALLS = [
    call(USER, WEB, "80", "browser"), call(MONITOR, WEB, "9100", "watcher"), call(WEB, DATA, "5432", "tixline"),
    call(WEB, NAMES, "389", "cron"), Edge(WEB, SWITCH, "plugged into", "port3"), Edge(DATA, SWITCH, "plugged into", "port4"),
]  # fmt: skip


def fates(graph, *gone):
    return {f.asset: f.fate for f in stops(graph, gone)}


def test_a_device_goes_on_weakened_while_another_program_of_it_answers():
    graph = graph_with(CALLS, PROGRAMS)
    assert fates(graph, DATA) == {HERON: "stops", TIXLINE: "stops", WEB: "weakened", USER: "weakened"}
    web = next(f for f in stops(graph, [DATA]) if f.asset == WEB)
    assert ([(e.stands, e.on) for e in web.because], web.left) == ([(TIXLINE, HERON)], (EXPORTER,))
    alone = graph_with([e for e in CALLS if e.stands != MONITOR], PROGRAMS)
    assert fates(alone, DATA)[WEB] == "stops", "nothing it is called for is left"
    assert fates(graph, NAMES) == {WEB: "weakened"}, "cron answers nobody"
    assert fates(graph, SWITCH)[EXPORTER] == fates(graph, SWITCH)[WEB] == "stops"


def test_a_program_alone_may_stop_and_its_device_says_which():
    graph = graph_with(CALLS, PROGRAMS)
    assert fates(graph, HERON) == {DATA: "stops", TIXLINE: "stops", WEB: "weakened", USER: "weakened"}
    data = next(f for f in stops(graph, [HERON]) if f.asset == DATA)
    assert [(e.stands, e.on, e.kind) for e in data.because] == [(DATA, HERON, "runs on")]
    assert order_of_return(graph, {DATA, HERON, TIXLINE}) == [[DATA], [HERON], [TIXLINE]]


def test_who_calls_namelessly_may_be_any_program_that_is_called():
    told_by_the_other_end = [*CALLS[:2], call(WEB, DATA, "5432", "heron", DATA)]
    graph = graph_with(told_by_the_other_end, PROGRAMS)
    assert fates(graph, DATA)[TIXLINE] == fates(graph, DATA)[EXPORTER] == fates(graph, DATA)[WEB] == "stops"


def test_a_service_loses_a_member_of_which_a_program_stops():
    graph = graph_with(CALLS, PROGRAMS)
    watching = Watching({7: [Part("Web", frozenset({WEB}))]}, graph.hosts)
    (fate,) = watching.fates([DATA, HERON, TIXLINE], [WEB])
    assert (fate.service, fate.fate) == (7, "stops")
    worst = singles(graph, services=watching)[0]
    assert (worst.asset, worst.stops, worst.services) == (SWITCH, 2, (7,))
    by_asset = {s.asset: s for s in singles(graph, services=watching)}
    assert (by_asset[DATA].stops, by_asset[DATA].weakened, by_asset[DATA].services) == (0, 2, (7,))
    assert not by_asset.keys() & graph.hosts.keys()
    (mend,) = mends(graph, DATA, watching)
    assert (mend.kind, mend.over, mend.wanting, mend.saved, mend.services) == ("talks to", "5432", (WEB,), 0, (7,))


def test_programs_have_a_layer_of_their_own_and_a_pair_is_one_box():
    pair = [*PROGRAMS, program(NAMES, "heron", "389")]
    graph = graph_with(CALLS, pair)
    every = {a for e in graph.edges for a in (e.stands, e.on)}
    boxes, _ = laid_out(graph, every, lambda n: graph.names.get(n, n))
    assert {b.assets for b in boxes if b.layer == "applications"} == {(TIXLINE,), (EXPORTER,), (HERON, -4)}
    assert {a for b in boxes if b.layer == "computers" for a in b.assets} == {WEB, DATA, NAMES}


calls = st.lists(
    st.builds(call, st.integers(1, 9), st.integers(1, 9), st.sampled_from(["80", "5432"]), st.just("p")), max_size=25
)
plugs = edges(st.integers(1, 9), st.integers(20, 22), ["plugged into"], most=9)


@given(calls, plugs, st.sets(st.sampled_from([*range(1, 10), 20, 21, 22]), min_size=1, max_size=3))
def test_one_program_that_does_all_a_device_does_changes_nothing(called, plugged, gone):
    told = [*called, *plugged]
    whole = graph_with(told, [program(n, "p", "80", "5432") for n in range(1, 10)])
    devices = {f.asset: f.fate for f in stops(whole, gone) if f.asset not in whole.hosts}
    assert devices == fates(graph_of(told), *gone)
    for f in stops(whole, gone):
        assert f.because


@given(calls, st.sets(st.integers(1, 9), min_size=1, max_size=2))
def test_telling_programs_apart_never_makes_more_stop(called, gone):
    apart = graph_with(called, [program(n, f"p{port}", port) for n in range(1, 10) for port in ("80", "5432")])
    stopped = {f.asset for f in stops(apart, gone) if f.fate == "stops"}
    assert {a for a in stopped if a > 0} <= {f.asset for f in stops(graph_of(called), gone) if f.fate == "stops"}


@given(calls, plugs)
def test_single_points_are_all_whose_going_stops_another_device(called, plugged):
    graph = graph_with(
        [*called, *plugged], [program(n, f"p{port}", port) for n in range(1, 10) for port in ("80", "5432")]
    )
    assert {s.asset for s in singles(graph)} == {
        n for n in [*range(1, 10), 20, 21, 22] if any(f.fate == "stops" and f.asset > 0 for f in stops(graph, [n]))
    }
