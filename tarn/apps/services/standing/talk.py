"""Who speaks with whom: talk between groups of devices, as a matrix and as a list."""

from collections import Counter, defaultdict

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.services.standing.edges import behind
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import TalkCell, TalkOut
from tarn.core.standing.edge import Edge

BY = ("kind", "place", "name")
MOST_GROUPS = 60


def talk(asked: Question, by: str) -> TalkOut:
    """Return the talk with either end in a selection, by what its devices are. Raises KeyError for an unknown `by`."""
    if by not in BY:
        raise KeyError(by)
    mine = set(ids(asked))
    there, seeable = seen(asked.at)
    translated = behind(asked.at).within(seeable).touching(mine)
    told = [(e, False) for e in there.edges.of_kind("talks to").touching(mine)] + [(e, True) for e in translated]
    known = plates({a for e, _ in told for a in (e.stands, e.on)}, asked.at)
    cells: dict[tuple[str, str], list[Edge]] = defaultdict(list)
    out_of, into = Counter[str](), Counter[str]()
    for e, through in told:
        if e.stands in known and e.on in known:
            caller, called = (str(known[a][by] or f"no {by}") for a in (e.stands, e.on))
            caller = f"behind {known[e.stands]['name']}" if through else caller
            cells[caller, called].append(e)
            out_of[caller] += 1
            into[called] += 1
    rows: list[TalkCell] = []
    for (caller, called), of in sorted(cells.items(), key=lambda c: (-len(c[1]), c[0])):
        callers = {e.stands for e in of}
        ports = Counter(e.over for e in of)
        rows.append(
            {
                "caller": caller,
                "called": called,
                "edges": len(of),
                **counted(callers, known),
                "quiet": sum(e.quiet for e in of),
                "ports": [port for port, _ in ports.most_common(6)],
            }
        )
    return {
        "by": by,
        "callers": [n for n, _ in sorted(out_of.items(), key=lambda x: (-x[1], x[0]))[:MOST_GROUPS]],
        "called": [n for n, _ in sorted(into.items(), key=lambda x: (-x[1], x[0]))[:MOST_GROUPS]],
        "cells": rows,
    }
