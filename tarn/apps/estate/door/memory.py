"""What the door remembers between batches: words, who holds which identifier, and what waits for a decision."""

import sqlite3

from tarn.apps.estate.door.index import IdentityIndex
from tarn.apps.estate.door.prepare import Prepared
from tarn.apps.estate.door.waiting import Waiting
from tarn.apps.estate.door.words import Words
from tarn.apps.estate.store.database import begin_generation, generation


class Memory:
    """The door's memory. It is true as long as only this process writes, or `refresh` is called first."""

    def __init__(self) -> None:
        self.words, self.index, self.waiting = Words(), IdentityIndex(), Waiting()
        self._generation = -1

    def forget(self) -> None:
        """Drop what is remembered, after a transaction was rolled back or the tables were rebuilt."""
        self.words.forget()
        self.index.forget()
        self.waiting.forget()

    def refresh(self, db: sqlite3.Connection) -> None:
        """Learn what other processes have written since. Call it inside the write transaction."""
        if (present := generation(db)) != self._generation:
            # A rebuild has exchanged the tables: the numbers remembered are of another time.
            self.forget()
            self._generation = present
        self.words.load_kinds(db)
        self.index.refresh(db)
        self.waiting.refresh(db)

    def next_generation(self, db: sqlite3.Connection) -> None:
        """Have other processes look again at who holds what; this one knows."""
        self._generation = begin_generation(db)

    def source(self, db: sqlite3.Connection, prepared: Prepared) -> int:
        """Return the number of the source a sighting is from."""
        source = prepared.sighting.source
        return self.words.source(db, source.kind, source.name)

    def new_asset(self, db: sqlite3.Connection, at: int) -> int:
        """Add an asset that nothing is held of yet; return it."""
        asset = int(db.execute("SELECT coalesce(max(id), 0) + 1 FROM estate_asset").fetchone()[0])
        number = f"A-{asset:05d}"
        db.execute(
            "INSERT INTO estate_asset (id, number, first_seen, last_seen, sources, packages, sure, guess, "
            "guess_reasons) VALUES (?, ?, ?, ?, 0, 0, 0, '', '[]')",
            (asset, number, at, at),
        )
        self.index.add(asset, [f"tarn:{number}"])
        return asset
