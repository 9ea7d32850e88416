"""The one door through which evidence enters: from sightings to identity to spans."""

import sqlite3
from collections import deque
from collections.abc import Iterable, Sequence

from tarn.apps.estate.door.deriving import derive_anew
from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.plan import NeedsWritten, Plan, Taken
from tarn.apps.estate.door.prepare import Prepared, prepare
from tarn.apps.estate.door.ruling import carry_out
from tarn.core.senders import misdated
from tarn.core.sightings import Sighting

BATCH = 100
"""Sightings a transaction: large enough to share its statements, small enough to let others write."""


class Door:
    """Takes sightings in. One instance a process; it remembers words and identifiers between batches."""

    def __init__(self) -> None:
        self._memory = Memory()

    def forget(self) -> None:
        """Drop what is remembered, after a transaction was rolled back or the tables were rebuilt."""
        self._memory.forget()

    def take_in(self, db: sqlite3.Connection, sightings: Sequence[Sighting], received: int) -> list[Taken]:
        """Take in one batch, inside a transaction the caller has begun. Returns one result a sighting, in order.

        What comes out does not depend on how sightings are parted into batches.
        """
        self._memory.refresh(db)
        held = _already_held(db, sightings)
        work: deque[Prepared] = deque()
        results: dict[int, Taken] = {}
        places: dict[str, int] = {}
        for place, sighting in enumerate(sightings):
            if sighting.id in held or sighting.id in places:
                results[place] = Taken(sighting.id, "already held", None)
            elif why := misdated(sighting.second, received):
                results[place] = Taken(sighting.id, "refused", None, [why])
            else:
                places[sighting.id] = place
                work.append(prepare(sighting))
        for taken in self._carry_through(db, work, received):
            results[places[taken.document]] = taken
        return [results[place] for place in range(len(sightings))]

    def _carry_through(self, db: sqlite3.Connection, work: deque[Prepared], received: int) -> Iterable[Taken]:
        """Plan as many as can be planned in one go, write them, and go on with the rest."""
        again: set[int] = set()
        late: set[int] = set()
        while work or again:
            plan = Plan(db, self._memory, work, received, late)
            ruling: Taken | None = None
            wanted: set[int] = set()
            try:
                while ruling is None and (again or work):
                    if again:
                        row = min(again)
                        gained = plan.settle(row)
                        again.discard(row)
                    else:
                        taken, gained = plan.take(work[0])
                        if taken.verdict == "ruling":
                            ruling = taken
                        else:
                            work.popleft()
                            yield taken
                    again |= self._memory.waiting.sharing(gained)
            except NeedsWritten as missing:  # what needs it is planned first of the next
                wanted = {missing.late} if missing.late is not None else set()
            plan.write()
            if ruling is not None or not (work or again):
                wanted = set(late)
            derive_anew(db, self._memory, sorted(wanted))
            late -= wanted
            if ruling is not None:
                ruling.reasons = carry_out(db, self._memory, work.popleft())
                ruling.changed = True
                yield ruling


def _already_held(db: sqlite3.Connection, sightings: Iterable[Sighting]) -> set[str]:
    ids = [s.id for s in sightings]
    marks = ",".join("?" * len(ids))
    return {d for (d,) in db.execute(f"SELECT document FROM estate_sighting WHERE document IN ({marks})", ids)}
