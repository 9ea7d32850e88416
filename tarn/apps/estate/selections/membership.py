"""Who answers a filter now, remembered: after new evidence only devices it is of are asked again."""

import json
from functools import lru_cache

from tarn.apps.estate.asking.ask import Question, ids, question
from tarn.apps.estate.selections.unmoved import EDGES, reads_of
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered, forgets_too
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, Stamp, stamp
from tarn.apps.people.scope import Asker, asker

_MOST_HELD = 500
_members: Remembered[frozenset[int]] = Remembered("members of filters", EVIDENCE, DEFINITIONS, most=_MOST_HELD)


def members_of(text: str, who: Asker | None = None) -> frozenset[int]:
    """Return the devices that answer a filter now, for who asks. Raises FilterError.

    What goes by the clock, by rulings or by who is with the company is asked anew each time; what asks how devices
    stand to each other, of all devices after any evidence: a guest is one by what its host tells.
    """
    who = who or asker()
    asked = question(text, None, who)
    if asked.fleeting:
        return frozenset(ids(asked))

    def carried_on(before: frozenset[int], since: int) -> frozenset[int] | None:
        if EDGES in reads_of(asked.checked):
            return None
        now = stamp(EVIDENCE)
        devices = _touched(now, since)
        return None if devices is None else (before - devices) | frozenset(_among(asked, devices))

    # Two organisations may each have a set of one name, so whose names are meant is part of it.
    return _members.get((text, asked.branch, who.organisations), lambda: frozenset(ids(asked)), carried_on)


@lru_cache(maxsize=8)
def _touched(now: Stamp, since: int) -> frozenset[int] | None:
    """Return the devices with evidence after a sighting's number as the data stands; many filters ask for the same."""
    found = touched(since)
    return None if found is None else frozenset(found)


def _among(asked: Question, devices: frozenset[int]) -> list[int]:
    statement = f"SELECT s.asset_id {asked.source} AND s.asset_id IN (SELECT value FROM json_each(?))"
    return [a for (a,) in raw_connection().execute(statement, [*asked.where.values, json.dumps(sorted(devices))])]


forgets_too(_touched.cache_clear)
