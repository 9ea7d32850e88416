"""What evidence came after a sighting: of which devices, and of when. By it what is remembered is carried on."""

from tarn.apps.estate.store.database import raw_connection

MOST_TOUCHED = 5_000
"""Devices with new evidence up to which a state is carried on from the last and not read anew."""


def touched(since: int, most: int = MOST_TOUCHED) -> list[int] | None:
    """Return the devices whose evidence came after a sighting's number; None where they are too many to go by.

    Within one generation of the tables everything a device has changes with sightings of its own: whatever moves
    sightings from one device to another begins a new generation.
    """
    cursor = raw_connection().execute(
        "SELECT DISTINCT asset_id FROM estate_sighting WHERE id > ? AND asset_id IS NOT NULL LIMIT ?",
        (since, most + 1),
    )
    assets = [a for (a,) in cursor]
    return None if len(assets) > most else assets


def earliest(since: int) -> int | None:
    """Return the first moment that evidence after a sighting's number is of; None where none came."""
    row = raw_connection().execute("SELECT min(at) FROM estate_sighting WHERE id > ?", [since]).fetchone()
    return None if row[0] is None else int(row[0])


def stays(at: int, since: int) -> bool:
    """Whether what held at a moment still does after evidence that came after a sighting: none of it is of then, or of
    before."""
    first = earliest(since)
    return first is None or first > at
