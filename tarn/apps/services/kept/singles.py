"""Single points of failure, and what one more of something would mend of each."""

from collections.abc import Sequence

from tarn.apps.services.kept.health import Standing
from tarn.apps.services.results import SingleOut
from tarn.apps.services.standing.impact import end
from tarn.apps.services.standing.plates import plates
from tarn.core.standing.edge import EdgeKind
from tarn.core.standing.falling import Mend, Single

MENDED = 30
"""Single points, the worst, of which it is said what one more of something would mend."""
_ONE_MORE: dict[EdgeKind, str] = {
    "plugged into": "a second way to the network",
    "powered by": "a second source of power",
    "guest of": "another host",
    "mounts": "another that has the files",
    "talks to": "another that answers port {}",
}


def told_singles(found: Sequence[Single], stood: Standing) -> list[SingleOut]:
    """Return single points as pages tell them, in their order."""
    known = plates([s.asset for s in found], stood.at)
    return [
        {
            **end(s.asset, known),
            "stops": s.stops,
            "weakened": s.weakened,
            "services": len(s.services),
            "mends": [_words(m, stood) for m in stood.mends_of(s.asset)] if n < MENDED else [],
        }
        for n, s in enumerate(found)
        if s.asset in known
    ]


def _words(mend: Mend, stood: Standing) -> str:
    """Return in words what one more of something would mend."""
    many = len(mend.wanting)
    kept = ", ".join(stood.services[s].name for s in mend.services[:3] if s in stood.services)
    saves = ["one would not stop" if mend.saved == 1 else f"{mend.saved} would not stop"] if mend.saved else []
    saves += [f"nor would {kept}" if saves else f"{kept} would not stop"] if kept else []
    more = _ONE_MORE[mend.kind].format(mend.over)
    return f"{more} for {many} device{'s' * (many != 1)}: {', '.join(saves)}"
