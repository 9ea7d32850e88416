"""The register's identifiers in memory: which assets hold each."""

import sqlite3
from collections.abc import Callable, Iterable

from tarn.core.identity import Held
from tarn.core.signs import KnownAsset


class IdentityIndex:
    """Identifier to assets. Rows are only ever added, so keeping up costs a look past the last row read."""

    def __init__(self) -> None:
        self.forget()

    def forget(self) -> None:
        """Drop everything; the next `refresh` reads the table anew."""
        self._held: dict[str, int | tuple[int, ...]] = {}
        self._last = self._last_span = 0
        self._owners: dict[int, str] = {}
        self._new: list[tuple[str, int]] = []

    def refresh(self, db: sqlite3.Connection) -> None:
        """Take in what other processes have added since. Call it inside the write transaction."""
        for row, key, asset in db.execute(
            "SELECT id, key, asset_id FROM estate_identifier WHERE id > ? ORDER BY id", (self._last,)
        ):
            self._last = row
            self._note(key, asset)
        for row, asset, owner in db.execute(
            "SELECT s.id, s.asset_id, t.text FROM estate_assetspan s LEFT JOIN estate_term t "
            "ON t.id = s.organisation_id WHERE s.id > ? ORDER BY s.id",
            (self._last_span,),
        ):
            self._last_span = row
            self.own(asset, owner)

    def own(self, asset: int, organisation: str | None) -> None:
        """Note which organisation an asset belongs to."""
        if organisation:
            self._owners[asset] = organisation
        else:
            self._owners.pop(asset, None)

    def held_within(self, organisation: str) -> Callable[[str], Held]:
        """Return the look-up for evidence of one organisation: what belongs to another holds nothing for it.

        So two organisations' devices are never taken for one, whatever numbers and names they share.
        """

        def look_up(key: str) -> Held:
            found = tuple(a for a in self.holders(key) if self._owners.get(a, organisation) == organisation)
            return found[0] if len(found) == 1 else found or None

        return look_up

    def _note(self, key: str, asset: int) -> None:
        before = self._held.get(key)
        if before is None:
            self._held[key] = asset
        elif isinstance(before, int):
            if before != asset:
                self._held[key] = (before, asset)
        elif asset not in before:
            self._held[key] = (*before, asset)

    @property
    def held(self) -> Callable[[str], Held]:
        """Return the look-up of an identifier's holders as they are kept: one, several or none."""
        return self._held.get

    def holders(self, key: str) -> tuple[int, ...]:
        """Return the assets that hold an identifier."""
        found = self._held.get(key)
        if found is None:
            return ()
        return (found,) if isinstance(found, int) else found

    def add(self, asset: int, keys: list[str]) -> list[str]:
        """Record identifiers an asset has been seen with; those it already has are left alone. Returns the new ones."""
        gained = [key for key in keys if asset not in self.holders(key)]
        for key in gained:
            self._note(key, asset)
            self._new.append((key, asset))
        return gained

    def remove(self, db: sqlite3.Connection, assets: Iterable[int]) -> None:
        """Drop every identifier that assets hold, in memory and in the table."""
        self.write(db)
        dropped = set(assets)
        among = ",".join(map(str, dropped))
        for (key,) in db.execute(f"SELECT DISTINCT key FROM estate_identifier WHERE asset_id IN ({among})").fetchall():
            rest = tuple(a for a in self.holders(key) if a not in dropped)
            if rest:
                self._held[key] = rest[0] if len(rest) == 1 else rest
            else:
                self._held.pop(key, None)
        db.execute(f"DELETE FROM estate_identifier WHERE asset_id IN ({among})")

    def transfer(self, db: sqlite3.Connection, other: int, asset: int) -> None:
        """Give everything one asset holds to another, in memory and in the table."""
        self.write(db)
        keys = [k for (k,) in db.execute("SELECT key FROM estate_identifier WHERE asset_id = ? ORDER BY id", (other,))]
        db.execute("DELETE FROM estate_identifier WHERE asset_id = ?", (other,))
        for key in keys:
            rest = tuple(a for a in self.holders(key) if a != other)
            if rest:
                self._held[key] = rest[0] if len(rest) == 1 else rest
            else:
                del self._held[key]
        self.add(asset, keys)
        self.write(db)

    def write(self, db: sqlite3.Connection) -> None:
        """Write what was added."""
        if self._new:
            db.executemany("INSERT INTO estate_identifier (key, asset_id) VALUES (?, ?)", self._new)
            self._new = []
            (self._last,) = db.execute("SELECT max(id) FROM estate_identifier").fetchone()


def known(
    db: sqlite3.Connection,
    index: IdentityIndex,
    asset: int,
    name_fold: str,
    address: str | None,
    last_seen: int,
    also: frozenset[str],
) -> KnownAsset:
    """Return what is held of a candidate, for weighing a match."""
    index.write(db)
    held = [k for (k,) in db.execute("SELECT key FROM estate_identifier WHERE asset_id = ?", (asset,))]
    return KnownAsset(held, name_fold.partition(".")[0], address, last_seen, also)
