"""Merging and splitting assets: a person's ruling on whose sightings are whose. Both can be undone."""

import json
import time
import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import NothingDecided
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.sections import SameAs
from tarn.core.sightings import compose, make_reading


def merge(user: Any, into: int, other: int) -> int:
    """Hold two assets to be one: everything known of `other` becomes `into`'s. Returns the audit entry."""
    require(user, "decide")
    numbers = numbers_of([into, other])
    if into == other or len(numbers) < 2:
        raise NothingDecided("Name another asset that exists.")
    documents = _documents(other)
    if not documents:
        raise NothingDecided(f"{numbers[other]} has no sightings: it was merged before.")
    with transaction.atomic():
        _move(user, documents, numbers[into])
        undo = {
            "action": "move sightings",
            "documents": documents,
            "asset": numbers[other],
            "back": numbers[into],
            "whole": False,
        }
        detail = {"merged": numbers[other], "sightings": len(documents)}
        return int(record(user, "merged assets", numbers[into], detail=detail, undo=undo).pk)


def split(user: Any, asset: int, documents: list[str], sources: list[str] | None = None) -> tuple[int, int]:
    """Hold some of an asset's sightings, or all that some sources gave, to be of another device: a new asset.

    Returns it and the audit entry.
    """
    require(user, "decide")
    held, wanted = set(_documents(asset)), list(dict.fromkeys([*documents, *_of_sources(asset, sources or [])]))
    number = numbers_of([asset]).get(asset)
    if number is None or not wanted or not set(wanted) <= held:
        raise NothingDecided("Choose sightings of this asset.")
    if set(wanted) == held:
        raise NothingDecided("Leave at least one sighting with this asset: all of them would only re-name it.")
    with transaction.atomic():
        _move(user, wanted, None)
        row = raw_connection().execute("SELECT asset_id FROM estate_sighting WHERE document = ?", (wanted[0],))
        made = int(row.fetchone()[0])
        fresh = numbers_of([made])[made]
        undo = {"action": "move sightings", "documents": wanted, "asset": number, "back": fresh}
        detail = {"split off": fresh, "sightings": len(wanted)}
        return made, int(record(user, "split an asset", number, detail=detail, undo=undo).pk)


@undoer("move sightings", needs="decide")
def _undo(user: Any, undo: dict[str, Any]) -> dict[str, Any]:
    """Move sightings back. Doing a merge again takes all that the other asset has by then."""
    documents = undo["documents"]
    if undo.get("whole"):
        documents = _documents(next(a for a, n in _numbered(undo["back"])))
    _move(user, documents, undo["asset"])
    again = "whole" in undo and not undo["whole"]
    return {**undo, "documents": documents, "asset": undo["back"], "back": undo["asset"], "whole": again}


def _numbered(number: str) -> list[tuple[int, str]]:
    return raw_connection().execute("SELECT id, number FROM estate_asset WHERE number = ?", (number,)).fetchall()


def _documents(asset: int) -> list[str]:
    rows = raw_connection().execute("SELECT document FROM estate_sighting WHERE asset_id = ? ORDER BY id", (asset,))
    return [d for (d,) in rows]


def withdraw(username: str, documents: list[str]) -> None:
    """Take sightings back in somebody's name: they stay as evidence, but are of no asset any more.

    Called inside a transaction.
    """
    cursor = raw_connection().execute(
        "SELECT document FROM estate_sighting WHERE asset_id IS NOT NULL "
        "AND document IN (SELECT value FROM json_each(?))",
        (json.dumps(documents),),
    )
    rows = [d for (d,) in cursor]
    if rows:
        _ruled(username, SameAs(sightings=tuple(rows), withdrawn=True))


def _of_sources(asset: int, sources: list[str]) -> list[str]:
    marks = ",".join("?" * len(sources))
    rows = raw_connection().execute(
        "SELECT g.document FROM estate_sighting g JOIN estate_source o ON o.id = g.source_id "
        f"WHERE g.asset_id = ? AND o.name IN ({marks}) ORDER BY g.id",
        (asset, *sources),
    )
    return [d for (d,) in rows]


def _move(user: Any, documents: list[str], number: str | None) -> None:
    _ruled(user.username, SameAs(sightings=tuple(documents), asset=number))


def _ruled(username: str, ruling: SameAs) -> None:
    now = datetime.fromtimestamp(int(time.time()), UTC)
    reading = make_reading("same_as", ruling, "hand")
    taken = next(iter(take_in([compose(("hand", username), now, [reading], id=uuid.uuid4().hex)])))
    if taken.reasons:
        raise NothingDecided(f"Nothing was decided: {taken.reasons[0]}.")
