"""The driver's own connection, for statements the ORM cannot say."""

import sqlite3
from typing import cast

from django.db import connection


def raw_connection() -> sqlite3.Connection:
    """Return the driver's connection behind Django's, opened if need be."""
    connection.ensure_connection()
    return cast(sqlite3.Connection, connection.connection)
