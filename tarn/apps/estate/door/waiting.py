"""Undecided sightings in memory: by which identifiers later evidence may settle them."""

import sqlite3
from collections.abc import Iterable

from tarn.apps.estate.door.prepare import identifiers_of, stored_sightings


class Waiting:
    """Rows of undecided sightings by the identifiers they have."""

    def __init__(self) -> None:
        self.forget()

    def forget(self) -> None:
        """Drop what is remembered."""
        self._last = 0
        self._rows: dict[str, set[int]] = {}
        self._keys: dict[int, list[str]] = {}

    def refresh(self, db: sqlite3.Connection) -> None:
        """Learn of undecided sightings that came since, from whatever process."""
        (newest,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_sighting").fetchone()
        for stored in stored_sightings(db, "WHERE g.verdict = 'undecided' AND g.id > ? ORDER BY g.id", (self._last,)):
            self.add(stored["row"], [i.key for i in identifiers_of(stored["document"])])
        self._last = newest

    def add(self, row: int, keys: list[str]) -> None:
        """Note an undecided sighting."""
        self._keys[row] = keys
        for key in keys:
            self._rows.setdefault(key, set()).add(row)

    def drop(self, row: int) -> None:
        """Forget one that is settled."""
        for key in self._keys.pop(row, []):
            self._rows[key].discard(row)

    def sharing(self, keys: Iterable[str]) -> set[int]:
        """Return the rows that have one of these identifiers."""
        if not self._rows:
            return set()
        return set().union(*(self._rows.get(key, ()) for key in keys))
