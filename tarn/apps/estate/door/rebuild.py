"""Rebuilding everything that follows from sightings, beside the tables, and comparing or exchanging them."""

import sqlite3
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from tarn.apps.estate.door.prepare import stored_sightings
from tarn.apps.estate.door.tables import SPAN_TABLES, TERMS
from tarn.apps.estate.door.take_in import BATCH, Door
from tarn.apps.estate.store.database import begin_generation
from tarn.core.sightings import read_sighting

_CATALOGUE = ("estate_source", "estate_term", "estate_listing", "estate_release", "estate_product")
_ITEMS = tuple(
    t.name for t in dict.fromkeys(SPAN_TABLES.values()) if t.name not in ("estate_fieldspan", "estate_installspan")
)
_SPANS = ("estate_assetspan", "estate_fieldspan", "estate_installspan", *_ITEMS)
DERIVED = (
    "estate_sectionstate",
    "estate_sourceseen",
    "estate_identifier",
    *_SPANS,
    "estate_asset",
    *_CATALOGUE,
)
"""Tables that follow from sightings alone, dependants first."""

_COPIED = (*DERIVED, "estate_sighting", "estate_sectionbody", "estate_namingrule", "estate_counter")


@dataclass(frozen=True)
class Difference:
    """Rows a table has on one side only, with an example."""

    table: str
    only_held: int
    only_rebuilt: int
    example: str


def rebuild_beside(db: sqlite3.Connection, folder: Path, progress: Callable[[int], None] = lambda n: None) -> Path:
    """Rebuild into a database file of its own from the sightings `db` holds; return the file."""
    handle, name = tempfile.mkstemp(suffix=".sqlite3", prefix="rebuild-", dir=folder)
    path = Path(name)
    import os

    os.close(handle)
    beside = sqlite3.connect(path, isolation_level=None)
    try:
        marks = ",".join("?" * len(_COPIED))
        for (statement,) in db.execute(
            f"SELECT sql FROM sqlite_master WHERE tbl_name IN ({marks}) AND sql IS NOT NULL ORDER BY type DESC", _COPIED
        ):
            beside.execute(statement)
        beside.execute("PRAGMA synchronous=OFF")
        for rule in db.execute("SELECT * FROM estate_namingrule"):
            beside.execute(f"INSERT INTO estate_namingrule VALUES ({','.join('?' * len(rule))})", rule)
        door = Door()
        stream = stored_in_order(db)
        done = 0
        while batch := list(islice(stream, BATCH)):
            for received in dict.fromkeys(b["received"] for b in batch):
                some = [read_sighting(b["document"]) for b in batch if b["received"] == received]
                beside.execute("BEGIN IMMEDIATE")
                door.take_in(beside, some, received)
                beside.execute("COMMIT")
            done += len(batch)
            progress(done)
    finally:
        beside.close()
    return path


def stored_in_order(db: sqlite3.Connection):  # type: ignore[no-untyped-def]
    """Yield all stored sightings in the order they came in, a thousand a statement."""
    last = 0
    while True:
        some = list(stored_sightings(db, "WHERE g.id > ? ORDER BY g.id LIMIT 1000", (last,)))
        if not some:
            return
        yield from some
        last = some[-1]["row"]


def _readable(table: str, columns: list[str], schema: str) -> str:
    """Return a SELECT of a table's rows with numbers of words replaced by the words, so that both sides compare."""

    def looked_up(column: str) -> str:
        word = column.removesuffix("_id")
        if table == "estate_assetspan" and word in TERMS:
            return f"(SELECT w.text FROM {schema}.estate_term w WHERE w.id = t.{column})"
        if column == "source_id":
            return f"(SELECT w.kind || '/' || w.name FROM {schema}.estate_source w WHERE w.id = t.source_id)"
        if column == "listing_id":
            return f"(SELECT w.name_fold FROM {schema}.estate_listing w WHERE w.id = t.listing_id)"
        if column == "release_id":
            return f"(SELECT w.version FROM {schema}.estate_release w WHERE w.id = t.release_id)"
        return f't."{column}"'

    picked = ", ".join(looked_up(c) for c in columns)
    return f"SELECT {picked} FROM {schema}.{table} t"


def differences(db: sqlite3.Connection, rebuilt: Path) -> list[Difference]:
    """Compare the held tables with the rebuilt ones, row by row, whatever their numbers."""
    db.execute("ATTACH DATABASE ? AS rebuilt", (str(rebuilt),))
    out = []
    try:
        for table in (*_SPANS, "estate_sectionstate", "estate_sourceseen", "estate_identifier", "estate_asset"):
            columns = [
                r[1] for r in db.execute(f"PRAGMA table_info({table})") if r[1] != "id" or table == "estate_asset"
            ]
            held, other = _readable(table, columns, "main"), _readable(table, columns, "rebuilt")
            only_held = db.execute(f"{held} EXCEPT {other}").fetchall()
            only_rebuilt = db.execute(f"{other} EXCEPT {held}").fetchall()
            if only_held or only_rebuilt:
                example = dict(zip(columns, (only_held or only_rebuilt)[0], strict=True))
                side = "held only" if only_held else "rebuilt only"
                out.append(Difference(table, len(only_held), len(only_rebuilt), f"{side}: {example}"))
    finally:
        db.execute("DETACH DATABASE rebuilt")
    return out


def exchange(db: sqlite3.Connection, rebuilt: Path) -> None:
    """Put the rebuilt tables in place of those held, in one transaction."""
    db.execute("ATTACH DATABASE ? AS rebuilt", (str(rebuilt),))
    try:
        db.execute("PRAGMA foreign_keys=OFF")
        db.execute("BEGIN IMMEDIATE")
        try:
            db.execute("UPDATE main.estate_sighting SET asset_id = NULL")
            for table in DERIVED:
                db.execute(f"DELETE FROM main.{table}")
            for table in reversed(DERIVED):
                names = ", ".join(f'"{r[1]}"' for r in db.execute(f"PRAGMA main.table_info({table})"))
                db.execute(f"INSERT INTO main.{table} ({names}) SELECT {names} FROM rebuilt.{table}")
            db.execute(
                "UPDATE main.estate_sighting AS m SET (asset_id, verdict, reasons, candidates, source_id) = "
                "(SELECT r.asset_id, r.verdict, r.reasons, r.candidates, r.source_id FROM rebuilt.estate_sighting r "
                "WHERE r.document = m.document)"
            )
            begin_generation(db)
            db.execute("COMMIT")
        except BaseException:
            db.execute("ROLLBACK")
            raise
    finally:
        db.execute("PRAGMA foreign_keys=ON")
        db.execute("DETACH DATABASE rebuilt")
