"""What else must be on a device for it to be open: a second thing that a configuration asks for (NVD's AND).

Where nobody read what could tell, the finding is kept as under investigation: it is not dropped.
"""

import json
from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding.deriving import Things, all_things
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.status import weigh
from tarn.core.exposure.told import STATUSES, Need

Interval = tuple[int, int]
_UNSURE = STATUSES.index("under investigation")


@dataclass(frozen=True)
class _Asked:
    """One need: the things that would meet it, whether none of them may be there, and of which part they are."""

    things: frozenset[int]
    negated: bool
    part: str


@dataclass(frozen=True)
class Needs:
    """The needs of some statements; `things`: all that any of them asks for."""

    of: dict[int, tuple[_Asked, ...]]
    things: frozenset[int]

    @classmethod
    def read(cls, statements: Iterable[int]) -> "Needs":
        """Return what these statements need."""
        wanted = sorted(set(statements))
        if not wanted:
            return cls({}, frozenset())
        there = all_things()
        rows = raw_connection().execute(
            "SELECT id, body FROM exposure_statementrow WHERE id IN (SELECT value FROM json_each(?))",
            [json.dumps(wanted)],
        )
        of = {number: tuple(_asked(n, there) for n in read_statement(body).needs) for number, body in rows}
        return cls(of, frozenset(t for asked in of.values() for one in asked for t in one.things))

    def met(self, rows: list[tuple[Any, ...]], where: Any) -> Iterator[tuple[Any, ...]]:
        """Yield findings in the times their needs are met; under investigation where that is not known."""
        times: dict[tuple[int, int], list[Interval]] = defaultdict(list)
        for thing in self.things:
            a, b = np.searchsorted(where["thing"], (thing, thing + 1))
            for _, asset, begins, ends in where[a:b].tolist():
                times[thing, asset].append((begins, ends))
        read = _parts_read()
        for vulnerability, asset, thing, begins, ends, status, statement, *_ in rows:
            spans, sure = [(begins, ends)], True
            for asked in self.of.get(statement, ()):
                there = [i for t in asked.things for i in times.get((t, asset), ())]
                if not there and asset not in read[asked.part]:
                    sure = False
                    continue
                spans = _without(spans, there) if asked.negated else _both(spans, there)
            for from_, to in spans:
                yield vulnerability, asset, thing, from_, to, status if sure else _UNSURE, statement, 0, 0


def _asked(need: Need, there: Things) -> _Asked:
    found = set()
    for statement in need.statements:
        for number in there.named(statement.subject.key):
            verdict = weigh(there.by_number[number], statement)
            if verdict is not None and verdict.status in ("affected", "under investigation"):
                found.add(number)
    parts = {s.subject.cpe.part for s in need.statements if s.subject.cpe is not None}
    return _Asked(frozenset(found), need.negated, "a" if parts == {"a"} else "o")


def _parts_read() -> dict[str, frozenset[int]]:
    """Return the assets whose software, and whose system, were ever read."""
    db = raw_connection()
    software = db.execute("SELECT DISTINCT asset_id FROM estate_sectionstate WHERE section = 'packages'")
    system = db.execute("SELECT DISTINCT asset_id FROM estate_assetspan WHERE os_name_id IS NOT NULL")
    return {"a": frozenset(a for (a,) in software), "o": frozenset(a for (a,) in system)}


def _both(spans: list[Interval], there: list[Interval]) -> list[Interval]:
    cut = [(max(a, c), min(b, d)) for a, b in spans for c, d in there]
    return _joined([(a, b) for a, b in cut if a < b])


def _without(spans: list[Interval], there: list[Interval]) -> list[Interval]:
    for begins, ends in there:
        spans = [i for a, b in spans for i in ((a, min(b, begins)), (max(a, ends), b)) if i[0] < i[1]]
    return spans


def _joined(spans: list[Interval]) -> list[Interval]:
    out: list[Interval] = []
    for begins, ends in sorted(spans):
        if out and begins <= out[-1][1]:
            out[-1] = (out[-1][0], max(out[-1][1], ends))
        else:
            out.append((begins, ends))
    return out
