"""Statuses of what new evidence brought: found for the devices it is of, once it is there."""

from tarn.apps.estate.store.database import generation, raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import forgets_too
from tarn.apps.exposure.finding.deriving import refresh_things

_seen: dict[str, tuple[int, int]] = {}
forgets_too(_seen.clear)


def catch_up() -> int:
    """Add what is new on devices since this process last looked; return how many things that was."""
    db = raw_connection()
    (newest,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_sighting").fetchone()
    database = db.execute("PRAGMA database_list").fetchone()[2]
    now, before = (generation(db), newest), _seen.get(database)
    if before == now:
        return 0
    devices = touched(before[1]) if before is not None and before[0] == now[0] else None
    found = refresh_things(devices)
    _seen[database] = now
    return found
