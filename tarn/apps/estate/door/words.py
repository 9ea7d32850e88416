"""Words kept once: sources, terms, listings and releases, by number."""

import sqlite3

from tarn.apps.estate.door.naming import Catalogue
from tarn.apps.estate.store.stamps import count_up
from tarn.core.text import fold
from tarn.core.versions import SYSTEMS, version_key


class Words:
    """Looks words up and adds them, remembering what it has seen.

    A transaction that is rolled back may leave numbers here that do not exist: call `forget` then.
    """

    def __init__(self) -> None:
        self.catalogue = Catalogue()
        self.forget()

    def forget(self) -> None:
        """Drop what is remembered."""
        self.catalogue.forget()
        self._sources: dict[tuple[str, str], int] = {}
        self.source_kinds: dict[int, str] = {}
        self._terms: dict[tuple[str, str], int] = {}
        self._listings: dict[str, tuple[int, bool]] = {}
        self._releases: dict[tuple[int, str], tuple[int, str]] = {}

    def load_kinds(self, db: sqlite3.Connection) -> None:
        """Learn the kind of every source."""
        self.source_kinds = dict(db.execute("SELECT id, kind FROM estate_source").fetchall())

    def kind_of(self, db: sqlite3.Connection, source: int) -> str:
        """Return the kind of a source by its number."""
        if source not in self.source_kinds:
            self.load_kinds(db)
        return self.source_kinds[source]

    def source(self, db: sqlite3.Connection, kind: str, name: str) -> int:
        """Return a source's number, adding it if new."""
        known = self._sources.get((kind, name))
        if known is None:
            known = _number(
                db,
                "SELECT id FROM estate_source WHERE kind = ? AND name = ?",
                "INSERT INTO estate_source (kind, name) VALUES (?, ?)",
                (kind, name),
            )
            self._sources[kind, name] = known
            self.source_kinds[known] = kind
        return known

    def term(self, db: sqlite3.Connection, field: str, text: str) -> int:
        """Return a term's number, adding it if new."""
        known = self._terms.get((field, text))
        if known is None:
            row = db.execute("SELECT id FROM estate_term WHERE field = ? AND text = ?", (field, text)).fetchone()
            if row is None:
                row = db.execute(
                    "INSERT INTO estate_term (field, text, folded) VALUES (?, ?, ?) RETURNING id",
                    (field, text, fold(text)),
                ).fetchone()
            known = self._terms[field, text] = row[0]
        return known

    def release(
        self, db: sqlite3.Connection, name: str, version: str, publisher: str, system: str = ""
    ) -> tuple[int, int]:
        """Return the numbers of a listed name and of its release. A publisher or system learnt later is filled in."""
        held = self._listings.get(name)
        if held is None:
            folded = fold(name)
            row = db.execute("SELECT id, publisher FROM estate_listing WHERE name_fold = ?", (folded,)).fetchone()
            if row is None:
                row = db.execute(
                    "INSERT INTO estate_listing (name, name_fold, publisher, first_version, role, edition, arch, "
                    "language, understood, why) VALUES (?, ?, ?, ?, 'product', '', '', '', 1, '[]') "
                    "RETURNING id, publisher",
                    (name, folded, publisher, version),
                ).fetchone()
                self.catalogue.put(db, row[0], name, publisher, version)
            held = self._listings[name] = (row[0], bool(row[1]))
        listing, has_publisher = held
        if publisher and not has_publisher:
            db.execute("UPDATE estate_listing SET publisher = ? WHERE id = ? AND publisher = ''", (publisher, listing))
            self._listings[name] = (listing, True)
            self.catalogue.put(db, listing, name, publisher, version)
            _catalogue_changed(db)
        release, told = self._releases.get((listing, version), (0, ""))
        if not release:
            release = _number(
                db,
                "SELECT id FROM estate_release WHERE listing_id = ? AND version = ?",
                "INSERT INTO estate_release (listing_id, version, version_key, system) VALUES (?, ?, ?, ?)",
                (listing, version),
                version_key(version, system),
                system,
            )
            (told,) = db.execute("SELECT system FROM estate_release WHERE id = ?", [release]).fetchone()
        if system and (not told or SYSTEMS.index(system) < SYSTEMS.index(told)):
            told = system
            key = version_key(version, system)
            db.execute("UPDATE estate_release SET system = ?, version_key = ? WHERE id = ?", (system, key, release))
            _catalogue_changed(db)
        self._releases[listing, version] = (release, told)
        return listing, release


def _catalogue_changed(db: sqlite3.Connection) -> None:
    """Count that something is told anew of what is listed already; what is new is known by its number."""
    count_up(db, "catalogue")


def _number(db: sqlite3.Connection, find: str, add: str, key: tuple[object, ...], *more: object) -> int:
    row = db.execute(add + " ON CONFLICT DO NOTHING RETURNING id", (*key, *more)).fetchone()
    if row is None:
        row = db.execute(find, key).fetchone()
    return int(row[0])
