"""Moving sightings from one asset to another: joining halves, merging, splitting, withdrawing an import."""

import json
import sqlite3

from tarn.apps.estate.door.index import IdentityIndex
from tarn.apps.estate.door.prepare import identifiers_of, stored_sightings
from tarn.apps.estate.door.words import Words
from tarn.apps.estate.store.database import begin_generation


class Moving:
    """The door's part that moves sightings. Every asset concerned is derived anew from what it has then."""

    words: Words
    index: IdentityIndex
    _generation: int

    def replay(self, db: sqlite3.Connection, *assets: int) -> None:
        """Derive everything held of assets anew."""
        raise NotImplementedError

    def _new_asset(self, db: sqlite3.Connection, at: int) -> int:
        raise NotImplementedError

    def _absorb(self, db: sqlite3.Connection, others: tuple[int, ...], asset: int) -> None:
        """Make one asset of several that a sighting has shown to be the same device."""
        for other in others:
            db.execute("UPDATE estate_sighting SET asset_id = ? WHERE asset_id = ?", (asset, other))
            self.index.transfer(db, other, asset)
            db.execute("UPDATE estate_asset SET sources = 0, packages = 0 WHERE id = ?", (other,))
        self.replay(db, *others, asset)
        self._next_generation(db)

    def _next_generation(self, db: sqlite3.Connection) -> None:
        """Have other processes look again at who holds what; this one knows."""
        self._generation = begin_generation(db)

    def _move(
        self, db: sqlite3.Connection, documents: list[str], number: str | None, *, withdrawn: bool = False
    ) -> list[str]:
        """Move sightings to another asset, to a new one, or to none, and derive every asset concerned anew.

        Returns why nothing was done, if nothing was.
        """
        self.index.write(db)
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
            target = self._new_asset(db, min(at for _, _, at in rows))
            self.index.write(db)
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
        self._identify_anew(db, concerned)
        self.replay(db, *concerned)
        self._next_generation(db)
        return []

    def _identify_anew(self, db: sqlite3.Connection, assets: list[int]) -> None:
        """Work out which identifiers assets hold from the sightings they have now.

        An asset that has none left gives its number to the one its sightings went to, so that what names it by
        that number still finds it.
        """
        marks = ",".join(map(str, assets))
        self.index.remove(db, assets)
        self.words.load_kinds(db)
        held: dict[int, dict[str, None]] = {asset: {} for asset in assets}
        for stored in stored_sightings(db, f"WHERE g.asset_id IN ({marks}) ORDER BY g.asset_id, g.at, g.id"):
            asset = stored["asset"]
            found = identifiers_of(stored["document"])
            held[asset] |= dict.fromkeys(i.key for i in found if i.kind != "tarn" or self._emptied(db, i.value, asset))
        for asset, keys in held.items():
            if keys:
                self.index.add(asset, [f"tarn:A-{asset:05d}", *keys])
            else:
                db.execute("UPDATE estate_asset SET sources = 0, packages = 0 WHERE id = ?", (asset,))
        self.index.write(db)

    def _emptied(self, db: sqlite3.Connection, number: str, but: int) -> bool:
        """Whether the asset of a number has no sightings left."""
        row = db.execute(
            "SELECT a.id, (SELECT count(*) FROM estate_sighting g WHERE g.asset_id = a.id) FROM estate_asset a "
            "WHERE a.number = ?",
            (number,),
        ).fetchone()
        return row is not None and row[0] != but and row[1] == 0
