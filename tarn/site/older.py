"""What knowing less would free: how much of the database is only needed to tell of days before a given one."""

import json
from dataclasses import dataclass
from typing import Any

from tarn.apps.estate.store.database import raw_connection

_DATED = {
    "estate_sighting": ("at", "when a device was seen, by whom, and why it was taken to be that one"),
    "people_auditentry": ("at", "who did what, and taking it back"),
    "reports_letter": ("made_at", "what watches wrote"),
}
_BODIES = "what was read of devices and has been read otherwise since"
_SPANS = "how it was before a change"


@dataclass(frozen=True)
class Older:
    """Rows that only tell of days before the asked one: in which table, how many of all, the bytes they take about, and
    what could not be told without them.
    """

    table: str
    rows: int
    of: int
    bytes: int
    lost: str


def older(before: int) -> list[Older]:
    """Return what only tells of days before a moment (seconds since 1970), the largest first. Nothing is removed.

    Bytes are the table's pages, with its indexes (SQLite `dbstat`), shared out by rows; of what was read, the bytes it
    has. A change counts once what it replaced had ended by then.
    """
    db = raw_connection()
    size = _sizes(db)
    found = [_counted(db, size, t, f"{at} < {before}", lost) for t, (at, lost) in _DATED.items()]
    spans = db.execute(
        "SELECT m.name FROM sqlite_master m JOIN pragma_table_info(m.name) c ON c.name = 'valid_to'"
        " WHERE m.type = 'table'"
    ).fetchall()
    found += [_counted(db, size, table, f"valid_to <= {before}", _SPANS) for (table,) in spans]
    found.append(_bodies(db, before))
    return sorted((one for one in found if one.rows), key=lambda one: (-one.bytes, one.table))


def _sizes(db: Any) -> dict[str, int]:
    """Return each table's bytes, its indexes included."""
    rows = db.execute(
        "SELECT m.tbl_name, sum(s.pgsize) FROM dbstat s JOIN sqlite_master m ON m.name = s.name"
        " WHERE s.aggregate = TRUE GROUP BY m.tbl_name"
    )
    return dict(rows.fetchall())


def _counted(db: Any, size: dict[str, int], table: str, condition: str, lost: str) -> Older:
    rows, every = db.execute(f'SELECT count(*) FILTER (WHERE {condition}), count(*) FROM "{table}"').fetchone()
    return Older(table, rows, every, size[table] * rows // every if every else 0, lost)


def _bodies(db: Any, before: int) -> Older:
    """What was read and stands in no sighting since, nor is how things are."""
    needed = {bytes(hash) for (hash,) in db.execute("SELECT hash FROM estate_sectionstate")}
    for (head,) in db.execute("SELECT head FROM estate_sighting WHERE at >= ?", (before,)):
        needed.update(bytes.fromhex(reading["hash"]) for reading in json.loads(head) if reading.get("hash"))
    rows = every = size = 0
    for hash, length in db.execute("SELECT hash, length(body) FROM estate_sectionbody"):
        every += 1
        if bytes(hash) not in needed:
            rows, size = rows + 1, size + length
    return Older("estate_sectionbody", rows, every, size, _BODIES)
