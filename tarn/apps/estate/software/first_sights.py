"""When each listed name was first seen on a device of whoever asks: carried on from one state of evidence to the next.

Reading it whole goes through every installation there ever was; so what is the whole company's lies on disk, too.
"""

import json

import numpy as np

from tarn.apps.estate.asking.places import Sql, within
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.shelf import Column, Shelf
from tarn.apps.estate.store.stamps import EVIDENCE, stamp
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import scope

First = dict[int, int]
"""By number of a listed name the moment it was first seen (seconds since 1970)."""

_first: Remembered[First] = Remembered("first sights of names", EVIDENCE, most=4)
_SHELF = Shelf("first-sights")
_MOST_READ = 50_000
"""Devices read anew up to which first sights are carried on; with more all of it is read as quickly."""


def first_sights() -> First:
    """Return when each listed name was first seen by whoever asks."""
    return _first.get(scope(), _read, _carried_on)


def of_mine() -> Sql:
    """Return the condition that an installation `i` is on a device whoever asks may see."""
    limited = scope()
    if limited is None:
        return Sql("1")
    mine = within(terms.refresh(raw_connection()), limited)
    seen = f"SELECT s.asset_id FROM estate_assetspan s WHERE s.valid_to IS NULL AND {mine.text}"
    return Sql(f"i.asset_id IN ({seen})", mine.values)


def _among(condition: str, *values: object) -> First:
    """Return the first sights among installations `i` that are whoever asks's, and of which a condition holds."""
    mine = of_mine()
    out: First = {}
    # Open and closed spans have an index each: one condition over both would read the whole table.
    for part in ("i.valid_to IS NULL", "i.valid_to IS NOT NULL"):
        cursor = raw_connection().execute(
            f"SELECT i.listing_id, min(i.valid_from) FROM estate_installspan i WHERE {condition} AND {part} "
            f"AND {mine.text} GROUP BY i.listing_id",
            [*values, *mine.values],
        )
        for name, first in cursor:
            out[name] = min(first, out.get(name, first))
    return out


def _read() -> First:
    if scope() is None and (kept := _SHELF.read(stamp(EVIDENCE))) is not None:
        held = dict(zip(kept.columns["listing"].tolist(), kept.columns["first"].tolist(), strict=True))
        if (told := _carried_on(held, kept.sighting)) is not None:
            return told
    return _among("1")


def _carried_on(before: First, since: int) -> First | None:
    """Return first sights made of what they were before a sighting; None where too many devices were read since.

    Evidence more can only show that a name was there earlier; but for a second reading of one moment, which may take
    back what the first had begun: what was first seen at such a moment is looked for anew.
    """
    devices = touched(since, _MOST_READ)
    if devices is None:
        return None
    fresh = _among("i.asset_id IN (SELECT value FROM json_each(?))", json.dumps(devices))
    moments = {
        at for (at,) in raw_connection().execute("SELECT DISTINCT at FROM estate_sighting WHERE id > ?", (since,))
    }
    doubtful = [name for name, first in before.items() if first in moments and fresh.get(name) != first]
    told = {name: min(first, fresh.get(name, first)) for name, first in before.items() if name not in set(doubtful)}
    told |= {name: first for name, first in fresh.items() if name not in told and name not in before}
    return told | (_among("i.listing_id IN (SELECT value FROM json_each(?))", json.dumps(doubtful)) if doubtful else {})


def keep_on_disk() -> bool:
    """Put the first sights on disk, where there is anything new, for all processes; return whether they were put."""
    return _SHELF.exchange(first_sights, _columns)


def _columns(held: First) -> dict[str, Column]:
    return {
        "listing": Column("<i8", [np.fromiter(held.keys(), dtype=np.int64)]),
        "first": Column("<i8", [np.fromiter(held.values(), dtype=np.int64)]),
    }
