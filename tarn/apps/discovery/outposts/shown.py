"""Outposts as they are shown: whether they are at their post, what they are at, and what is wrong."""

import time

from tarn.apps.discovery.models import Lease, Outpost, RunAddress
from tarn.apps.discovery.outposts.leasing import LISTENS
from tarn.apps.discovery.outposts.results import OutpostOut
from tarn.apps.people.scope import visible

MOST_SKEW = 60
"""Seconds a clock may be off before the page speaks of it."""


def outpost(held: Outpost) -> OutpostOut:
    """Return one outpost."""
    networks = sorted(held.network_set.all(), key=lambda n: n.range)
    state, says = _state(held)
    return {
        "id": held.pk,
        "name": held.name,
        "networks": [n.pk for n in networks],
        "ranges": [n.range for n in networks],
        "state": state,
        "says": says,
        "made_at": held.made_at,
        "last_seen": held.last_seen,
        "release": held.release,
        "skew": held.skew,
        "kept": held.kept,
        "at_work": RunAddress.objects.filter(lease__outpost=held, outcome="waiting").count()
        if Lease.objects.filter(outpost=held).exists()
        else 0,
        "handed": held.handed,
    }


def outposts() -> list[OutpostOut]:
    """Return all outposts that were not withdrawn."""
    return [
        outpost(o) for o in visible(Outpost).filter(withdrawn_at=None).prefetch_related("network_set").order_by("name")
    ]


def _state(held: Outpost) -> tuple[str, str]:
    if held.last_seen is None:
        return "not joined", "It has not joined yet: run its command on a machine in its network."
    if held.trouble:
        return "refused", held.trouble
    if held.last_seen < time.time() - LISTENS:
        return "away", "Not heard from; its networks are not looked at until it is back. What it found is kept there."
    if abs(held.skew) > MOST_SKEW:
        way = "ahead" if held.skew > 0 else "behind"
        return "at its post", f"Its clock is {abs(held.skew):.0f} s {way}; what it dates is corrected by that."
    return "at its post", ""
