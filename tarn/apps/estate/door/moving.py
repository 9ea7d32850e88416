"""Moving sightings from one asset to another: joining halves, merging, splitting, withdrawing an import.

Every asset concerned is derived anew from what it has then.
"""

import json
import sqlite3

from tarn.apps.estate.door.deriving import derive_anew
from tarn.apps.estate.door.memory import Memory
from tarn.apps.estate.door.prepare import identifiers_of, stored_sightings


def absorb(db: sqlite3.Connection, memory: Memory, others: tuple[int, ...], asset: int) -> None:
    """Give one asset all that several have, which a sighting has shown to be the same device.

    What is held of them all has to be derived anew after that.
    """
    for other in others:
        db.execute("UPDATE estate_sighting SET asset_id = ? WHERE asset_id = ?", (asset, other))
        memory.index.transfer(db, other, asset)
    memory.next_generation(db)


def move(
    db: sqlite3.Connection, memory: Memory, documents: list[str], number: str | None, *, withdrawn: bool = False
) -> list[str]:
    """Move sightings to another asset, to a new one, or to none, and derive every asset concerned anew.

    Returns why nothing was done, if nothing was.
    """
    memory.index.write(db)
    rows = db.execute(
        "SELECT id, asset_id, at FROM estate_sighting WHERE document IN (SELECT value FROM json_each(?)) "
        "AND asset_id IS NOT NULL",
        (json.dumps(documents),),
    ).fetchall()
    if len(rows) != len(set(documents)):
        return ["some of these sightings are not held, or belong to no asset"]
    target: int | None
    if withdrawn:
        target = None
    elif number is None:
        target = memory.new_asset(db, min(at for _, _, at in rows))
        memory.index.write(db)
    else:
        found = db.execute("SELECT id FROM estate_asset WHERE number = ?", (number.upper(),)).fetchone()
        if found is None:
            return [f"there is no asset {number}"]
        (target,) = found
    concerned = sorted({asset for _, asset, _ in rows} | ({target} if target else set()))
    for row, asset, _ in rows:
        if asset != target:
            verdict = "withdrawn" if withdrawn else "ruled"
            said = f"withdrawn from A-{asset:05d}" if withdrawn else f"a person moved it here from A-{asset:05d}"
            db.execute(
                "UPDATE estate_sighting SET asset_id = ?, verdict = ?, reasons = ? WHERE id = ?",
                (target, verdict, json.dumps([said]), row),
            )
    _identify_anew(db, memory, concerned)
    derive_anew(db, memory, concerned)
    memory.next_generation(db)
    return []


def _identify_anew(db: sqlite3.Connection, memory: Memory, assets: list[int]) -> None:
    """Work out which identifiers assets hold from the sightings they have now.

    An asset that has none left gives its number to the one its sightings went to, so that what names it by
    that number still finds it.
    """
    marks = ",".join(map(str, assets))
    memory.index.remove(db, assets)
    memory.words.load_kinds(db)
    held: dict[int, dict[str, None]] = {asset: {} for asset in assets}
    for stored in stored_sightings(db, f"WHERE g.asset_id IN ({marks}) ORDER BY g.asset_id, g.at, g.id"):
        asset = stored["asset"]
        identifiers = identifiers_of(stored["document"])
        held[asset] |= dict.fromkeys(i.key for i in identifiers if i.kind != "tarn" or _emptied(db, i.value, asset))
    for asset, keys in held.items():
        if keys:
            memory.index.add(asset, [f"tarn:A-{asset:05d}", *keys])
    memory.index.write(db)


def _emptied(db: sqlite3.Connection, number: str, but: int) -> bool:
    """Whether the asset of a number has no sightings left."""
    row = db.execute(
        "SELECT a.id, (SELECT count(*) FROM estate_sighting g WHERE g.asset_id = a.id) FROM estate_asset a "
        "WHERE a.number = ?",
        (number,),
    ).fetchone()
    return row is not None and row[0] != but and row[1] == 0
