"""Lists that stand whole each time they come: chances of use by day, and what is in use."""

from typing import Any

from tarn.core.exposure.told import Document

_FRESH = "CREATE TEMP TABLE IF NOT EXISTS fresh_chance (name TEXT PRIMARY KEY, chance REAL, percentile REAL)"
_DIFFERS = (
    "EXISTS (SELECT 1 FROM fresh_chance f WHERE f.name = c.name AND (f.chance != c.chance "
    "OR f.percentile != c.percentile))"
)
_TOLD = "EXISTS (SELECT 1 FROM exposure_alias a WHERE a.name = c.name)"


def take_lists(db: Any, feed: int, document: Document, at: int) -> None:
    """Take in what a document lists of chances and of use, in place of what the list before said."""
    if document.chances:
        _chances(db, document, at)
    if document.format == "used list":
        _used(db, feed, document, at)


def _chances(db: Any, document: Document, at: int) -> None:
    """The past is kept of vulnerabilities some advisory tells of; of others only what is said now."""
    db.execute(_FRESH)
    db.execute("DELETE FROM fresh_chance")
    db.executemany(
        "INSERT OR REPLACE INTO fresh_chance VALUES (?, ?, ?)",
        [(c.id, c.chance, c.percentile) for c in document.chances],
    )
    db.execute(
        f"UPDATE exposure_chance AS c SET ends = ? WHERE c.ends IS NULL AND c.begins < ? AND {_TOLD} AND "
        f"({_DIFFERS} OR NOT EXISTS (SELECT 1 FROM fresh_chance f WHERE f.name = c.name))",
        [at, at],
    )
    db.execute(
        "UPDATE exposure_chance AS c SET (chance, percentile, begins) = "
        "(SELECT f.chance, f.percentile, max(c.begins, ?) FROM fresh_chance f WHERE f.name = c.name) "
        f"WHERE c.ends IS NULL AND {_DIFFERS}",
        [at],
    )
    db.execute(
        "INSERT INTO exposure_chance (name, chance, percentile, begins) SELECT f.name, f.chance, f.percentile, ? "
        "FROM fresh_chance f WHERE NOT EXISTS "
        "(SELECT 1 FROM exposure_chance c WHERE c.name = f.name AND c.ends IS NULL)",
        [at],
    )
    db.execute("DELETE FROM fresh_chance")


def _used(db: Any, feed: int, document: Document, at: int) -> None:
    standing = {
        name: (since, action, bool(ransom))
        for name, since, action, ransom in db.execute(
            "SELECT name, since, action, ransom FROM exposure_use WHERE feed_id = ? AND ends IS NULL", [feed]
        )
    }
    listed = {u.id: (u.since, u.action, u.ransom) for u in document.used}
    ended = [(at, feed, name) for name, told in standing.items() if listed.get(name) != told]
    db.executemany("UPDATE exposure_use SET ends = ? WHERE feed_id = ? AND name = ? AND ends IS NULL", ended)
    db.executemany(
        "INSERT INTO exposure_use (feed_id, name, since, action, ransom, begins) VALUES (?, ?, ?, ?, ?, ?)",
        [(feed, name, *told, at) for name, told in listed.items() if standing.get(name) != told],
    )
