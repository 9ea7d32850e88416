"""What wants a hand in counts: those that lie open, and what they say that nobody did anything about."""

import time

from tarn.apps.counts.models import Count
from tarn.apps.counts.reads.shown import unsettled
from tarn.apps.people.scope import visible
from tarn.apps.people.wanting import Want, Wanted, named, several

DAYS = 14
"""Days after which an open count is spoken of."""


def _open() -> Wanted:
    old = list(visible(Count).filter(state="open", made_at__lt=time.time() - DAYS * 86_400))
    text = several(len(old), "count has been open for two weeks", "counts have been open for two weeks")
    return Wanted(tuple(c.number for c in old), text, "/lifecycle", {"tab": "counts"}, named(c.name for c in old))


def _unsettled() -> Wanted:
    closed = {c: n for c in visible(Count).filter(state="closed").order_by("-pk")[:20] if (n := unsettled(c))}
    things = tuple(f"{c.number} {n}" for c, n in closed.items())
    text = several(len(closed), "closed count has lines nobody settled", "closed counts have lines nobody settled")
    beside = named(c.name for c in closed)
    if len(closed) == 1:
        return Wanted(things, text, f"/counts/{next(iter(closed)).pk}", {}, beside)
    return Wanted(things, text, "/lifecycle", {"tab": "counts"}, beside)


WANTS = (
    Want("counts-open", "note", "decide", "See which", _open),
    Want("counts-unsettled", "warn", "decide", "Settle them", _unsettled),
)
