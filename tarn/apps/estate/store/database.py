"""The driver's own connection, for statements the ORM cannot say."""

import sqlite3
from typing import cast

from django.db import connection


def raw_connection() -> sqlite3.Connection:
    """Return the driver's connection behind Django's, opened if need be."""
    connection.ensure_connection()
    return cast(sqlite3.Connection, connection.connection)


def generation(db: sqlite3.Connection) -> int:
    """Return a number that rises when a rebuild exchanges the tables (SQLite's user_version)."""
    return int(db.execute("PRAGMA user_version").fetchone()[0])


def begin_generation(db: sqlite3.Connection) -> int:
    """Have all processes read anew what they remember, once the caller's transaction is kept; return its number."""
    number = generation(db) + 1
    db.execute(f"PRAGMA user_version = {number}")
    return number
