"""How what is known of vulnerabilities stands: a ground that what is remembered may rest on."""

import sqlite3
from collections.abc import Hashable
from functools import partial

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.stamps import Ground, count_up


def changed(db: sqlite3.Connection) -> None:
    """Count that documents, statuses, or what people say of them are others than before."""
    count_up(db, "advisories")


def changed_own(db: sqlite3.Connection) -> None:
    """Count that rules of our own find others than before."""
    count_up(db, "own findings")


def _number(name: str) -> Hashable:
    row = raw_connection().execute("SELECT number FROM estate_counter WHERE name = ?", [name]).fetchone()
    return row[0] if row else 0


ADVISORIES = Ground("advisories", partial(_number, "advisories"))
"""Documents come by feeds; whatever is derived of them, or said of them by people, is counted."""
OWN = Ground("own findings", partial(_number, "own findings"))
"""What rules of our own find, as it is walked on with evidence and the clock."""
