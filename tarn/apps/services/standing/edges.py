"""What stands on what, as of any moment, and by programs: remembered, and carried on as evidence comes."""

from collections.abc import Hashable

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, Ground
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.programs import programs
from tarn.apps.services.standing.resolved import Resolved, carried_on, resolve
from tarn.apps.services.standing.told import guests as told_guests
from tarn.core.standing.columns import Edges
from tarn.core.standing.graph import Graph, graph_of
from tarn.core.standing.programs import graph_with

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
    return _full.get(at, lambda: graph_with(graph(at).edges, programs(at)))


_full: Remembered[Graph] = Remembered(
    "what stands on what, by program", EVIDENCE, NOISE, RECOGNISERS, DEFINITIONS, most=3, one_at_a_time=True
)


def guests(at: int | None) -> Graph:
    """Return who is a guest of whom as of a moment: the part of the graph that is asked for most."""
    return _hosted.get(at, lambda: graph_of(told_guests(at, {})))


_hosted: Remembered[Graph] = Remembered("guests and hosts", EVIDENCE, most=3)
