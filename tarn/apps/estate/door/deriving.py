"""Everything held of assets derived anew from their sightings, each told in order of time."""

import sqlite3
from collections.abc import Collection

from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.prepare import prepare, stored_sightings
from tarn.apps.estate.door.state import State
from tarn.apps.estate.door.tables import SPAN_TABLES
from tarn.apps.estate.door.telling import tell
from tarn.core.sightings import read_sighting

_OF_ASSET = ("estate_sectionstate", "estate_sourceseen")
_SPANS_OF_ASSET = ("estate_assetspan", *dict.fromkeys(t.name for t in SPAN_TABLES.values()))


def derive_anew(db: sqlite3.Connection, memory: Memory, assets: Collection[int]) -> None:
    """Drop what is held of assets, and tell all their sightings again."""
    if not assets:
        return
    among = ",".join(map(str, assets))
    for table in _OF_ASSET:
        db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among})")
    for table in _SPANS_OF_ASSET:
        # Open and closed spans have an index each: one condition over both would read the whole table.
        db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among}) AND valid_to IS NULL")
        db.execute(f"DELETE FROM {table} WHERE asset_id IN ({among}) AND valid_to IS NOT NULL")
    # One whose sightings all went to another asset has nothing left.
    db.execute(f"UPDATE estate_asset SET sources = 0, packages = 0 WHERE id IN ({among})")
    state = State(db, memory.words, [])
    for asset in assets:
        state.need_asset(asset, empty=True)
    for stored in stored_sightings(db, f"WHERE g.asset_id IN ({among}) ORDER BY g.asset_id, g.at, g.id"):
        prepared = prepare(read_sighting(stored["document"]))
        tell(db, state, prepared, stored["asset"], memory.source(db, prepared))
    state.touched_installs.update(assets)
    state.write()
