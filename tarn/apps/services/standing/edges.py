"""What stands on what, as of any moment, and by programs: remembered, and carried on as evidence comes."""

from collections.abc import Hashable
from dataclasses import dataclass

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, Ground
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.programs import programs, programs_of
from tarn.apps.services.standing.resolved import Resolved, carried_on, resolve, since_step
from tarn.apps.services.standing.told import guests as told_guests
from tarn.core.standing.columns import Edges
from tarn.core.standing.graph import Graph, graph_of
from tarn.core.standing.programs import Apart, apart_again, told_apart

DAY = 86_400


def _noise_said() -> Hashable:
    return tuple(raw_connection().execute("SELECT id, process, port FROM services_noise").fetchall())


NOISE = Ground("noise", _noise_said)
_resolved: Remembered[Resolved] = Remembered("what stands on what", EVIDENCE, NOISE, most=3, one_at_a_time=True)


def graph(at: int | None) -> Graph:
    """Return what stands on what as of a moment."""
    return _stood(at).graph


def _stood(at: int | None) -> Resolved:
    return _resolved.get(at, lambda: resolve(at), lambda before, since: carried_on(before, at, since))


def behind(at: int | None) -> Edges:
    """Return the talk of somebody behind a way out, whose address is translated there, as of a moment."""
    return _stood(at).behind


def version() -> int:
    """Return a number that is another whenever any edge has come or gone."""
    return _stood(None).version


def full(at: int | None) -> Graph:
    """Return what stands on what as of a moment, programs on devices told apart: by it is reckoned what stops."""
    return _full.get(at, lambda: _by_program(at), lambda before, since: _again(before, at, since)).apart.graph


@dataclass(frozen=True)
class _Full:
    """A graph by programs, and up to which step its edges were resolved."""

    apart: Apart
    step: int


def _by_program(at: int | None) -> _Full:
    stood = _stood(at)
    return _Full(told_apart(stood.graph.edges, programs(at)), stood.steps[-1].number)


def _again(before: _Full, at: int | None, since: int) -> _Full | None:
    stood, devices = _stood(at), touched(since)
    step = stood.steps[-1].number
    if at is not None:
        return before if step == before.step else None
    changed = since_step(stood, before.step)
    if devices is None or changed is None:
        return None
    apart = apart_again(before.apart, stood.graph.edges, changed, programs_of(devices))
    return None if apart is None else _Full(apart, step)


_full: Remembered[_Full] = Remembered(
    "what stands on what, by program", EVIDENCE, NOISE, RECOGNISERS, DEFINITIONS, most=3, one_at_a_time=True
)


def guests(at: int | None) -> Graph:
    """Return who is a guest of whom as of a moment: the part of the graph that is asked for most."""
    return _hosted.get(at, lambda: graph_of(told_guests(at, {})))


_hosted: Remembered[Graph] = Remembered("guests and hosts", EVIDENCE, most=3)
