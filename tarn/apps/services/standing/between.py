"""What came, went and moved between two days: the edges of one day held against those of another."""

import time

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import BetweenOut, EdgeChange
from tarn.core.standing.between import differences

MOST = 1_000


def between(asked: Question, since: int) -> BetweenOut:
    """Return the differences with either end in a selection, from an earlier day to the one asked of."""
    at = asked.at
    before, _ = seen(since)
    after, _ = seen(at)
    mine = set(ids(asked))
    told = [d for d in differences(before.edges, after.edges) if mine & {d.edge.stands, d.edge.on, *d.led}]
    ends = {a for d in told for a in (d.edge.stands, d.edge.on, *d.led)}
    known = plates(ends, since) | plates(ends, at)
    rows: list[EdgeChange] = [
        {
            "what": d.what,
            "stands": end(d.edge.stands, known),
            "on": end(d.edge.on, known),
            "kind": d.edge.kind,
            "over": d.edge.over,
            "before": end(d.before.on, known) if d.before is not None else None,
            "before_over": d.before.over if d.before is not None else "",
        }
        for d in told
        if d.edge.stands in known and d.edge.on in known and all(a in known for a in d.led)
    ]
    order = {"moved": 0, "went": 1, "came": 2}
    rows.sort(key=lambda r: (order[r["what"]], r["kind"], r["stands"]["name"], r["on"]["name"], r["over"]))
    return {
        "since": iso(since),
        "until": iso(at if at is not None else int(time.time())),
        "came": sum(r["what"] == "came" for r in rows),
        "went": sum(r["what"] == "went" for r in rows),
        "moved": sum(r["what"] == "moved" for r in rows),
        "rows": rows[:MOST],
    }
