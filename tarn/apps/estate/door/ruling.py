"""People's rulings on sightings: whose an undecided one is, and moving some to another asset or away."""

import json
import sqlite3
from typing import Any

from tarn.apps.estate.door.deriving import derive_anew
from tarn.apps.estate.door.matching import matched
from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.moving import move
from tarn.apps.estate.door.prepare import Prepared, prepare, stored_sightings
from tarn.apps.estate.door.state import State
from tarn.core.sections import RULING
from tarn.core.sightings import read_sighting


def carry_out(db: sqlite3.Connection, memory: Memory, prepared: Prepared) -> list[str]:
    """Carry out a ruling; return why nothing was done, if nothing was."""
    ruling = prepared.chosen[RULING].facts
    if ruling.sightings:
        return move(db, memory, list(ruling.sightings), ruling.asset, withdrawn=ruling.withdrawn)
    return _decide(db, memory, ruling)


def _decide(db: sqlite3.Connection, memory: Memory, ruling: Any) -> list[str]:
    """Say whose an undecided sighting is, and look again at the other undecided ones."""
    row = db.execute(
        "SELECT id, at FROM estate_sighting WHERE document = ? AND asset_id IS NULL", (ruling.sighting,)
    ).fetchone()
    if row is None:
        return [f"no undecided sighting {ruling.sighting}"]
    if ruling.asset is None:
        asset = memory.new_asset(db, row[1])
    else:
        holders = memory.index.holders(f"tarn:{ruling.asset.upper()}")
        if not holders:
            return [f"there is no asset {ruling.asset}"]
        asset = holders[0]
    _attach(db, memory, row[0], asset, "ruled", ["a person decided"])
    for stored in list(stored_sightings(db, "WHERE g.verdict = 'undecided' ORDER BY g.id")):
        again = prepare(read_sighting(stored["document"]))
        result = matched(db, memory, State(db, memory.words, []), again)
        if result.verdict == "same" and result.asset is not None:
            why = ["settled by a ruling on another sighting"]
            _attach(db, memory, stored["row"], result.asset, "same", why)
    memory.index.write(db)
    return []


def _attach(db: sqlite3.Connection, memory: Memory, row: int, asset: int, verdict: str, reasons: list[str]) -> None:
    """Give an undecided sighting to an asset, which is derived anew."""
    db.execute(
        "UPDATE estate_sighting SET asset_id = ?, verdict = ?, reasons = ?, candidates = '[]' WHERE id = ?",
        (asset, verdict, json.dumps(reasons), row),
    )
    stored = next(stored_sightings(db, "WHERE g.id = ?", (row,)))
    identifiers = prepare(read_sighting(stored["document"])).found
    memory.index.add(asset, [i.key for i in identifiers if i.kind != "tarn"])
    memory.waiting.drop(row)
    derive_anew(db, memory, [asset])
