"""Who answers a filter now, remembered: after new evidence only devices it is of are asked again."""

import json
import re
import threading
from collections import OrderedDict
from functools import lru_cache

from tarn.apps.estate.asking.ask import Question, ids, question
from tarn.apps.estate.asking.branches import standing_in
from tarn.apps.estate.models import KeptSet
from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.installs import touched
from tarn.apps.estate.reads.terms import stamp
from tarn.apps.people.scope import scope, visible
from tarn.core.filters.parse import parse
from tarn.core.filters.walk import sets_in

_MOST_HELD = 500
_BESIDE_EVIDENCE = re.compile(r"now|today|ruling", re.IGNORECASE)
"""What makes a filter mean something else without new evidence and without anybody defining anything anew."""

_held: "OrderedDict[tuple[object, ...], tuple[int, frozenset[int]]]" = OrderedDict()
_lock = threading.Lock()


def _defined() -> tuple[object, ...]:
    """Return what changes whenever a set, a phrase, a tree or a field of the company's own is defined anew."""
    return tuple(
        raw_connection()
        .execute(
            "SELECT (SELECT group_concat(id || ':' || version || name) FROM estate_keptset), "
            '(SELECT group_concat(name || "values") FROM estate_phrase), '
            "(SELECT group_concat(field || name || '<' || under) FROM estate_branch), "
            "(SELECT group_concat(id || ':' || version) FROM estate_ownfield)"
        )
        .fetchone()
    )


def members_of(text: str) -> frozenset[int]:
    """Return the devices that answer a filter now. Raises FilterError.

    What goes by the clock, by rulings or by who is with the company is asked anew each time.
    """
    asked = question(text)
    db_name, generation, newest, _ = stamp(raw_connection())
    # Two organisations may each have a set of one name, so whose names are meant is part of it.
    defined = (*_defined(), scope())
    if "people_person" in asked.where.text or not _steady(text, defined):
        return frozenset(ids(asked))
    key = (db_name, generation, text, standing_in(), defined)
    with _lock:
        since, before = _held.get(key, (None, frozenset[int]()))
    if since == newest:
        return before
    devices = _touched(db_name, generation, newest, since) if since is not None else None
    if devices is None:
        found = frozenset(ids(asked))
    else:
        found = (before - devices) | frozenset(_among(asked, devices))
    with _lock:
        _held[key] = int(str(newest)), found
        _held.move_to_end(key)
        while len(_held) > _MOST_HELD:
            _held.popitem(last=False)
    return found


@lru_cache(maxsize=8)
def _touched(database: object, generation: object, newest: object, since: int) -> frozenset[int] | None:
    """Return the devices with evidence after a sighting's number up to the newest; many filters ask for the same."""
    found = touched(since)
    return None if found is None else frozenset(found)


@lru_cache(maxsize=_MOST_HELD)
def _steady(text: str, defined: tuple[object, ...]) -> bool:
    """Whether neither a filter nor a set it asks for goes by the clock or by rulings. A circle was refused before."""
    if _BESIDE_EVIDENCE.search(text):
        return False
    named = visible(KeptSet).filter(name__in=sets_in(parse(text)))
    return all(_steady(held, defined) for held in named.values_list("filter", flat=True))


def _among(asked: Question, devices: frozenset[int]) -> list[int]:
    statement = f"SELECT s.asset_id {asked.source} AND s.asset_id IN (SELECT value FROM json_each(?))"
    return [a for (a,) in raw_connection().execute(statement, [*asked.where.values, json.dumps(sorted(devices))])]


def forget_members() -> None:
    """Drop what is remembered, after the tables were exchanged in this process."""
    with _lock:
        _held.clear()
        _touched.cache_clear()
        _steady.cache_clear()
