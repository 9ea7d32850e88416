"""Taking evidence in: the one action behind sweeps, files, hands and everything else."""

import threading
import time
from collections.abc import Callable, Iterable, Iterator
from itertools import islice

from django.db import connection, transaction

from tarn.apps.estate.door.plan import Taken
from tarn.apps.estate.door.take_in import BATCH, Door
from tarn.apps.estate.store import remembered as store
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.room import need_room
from tarn.core.senders import set_back
from tarn.core.sightings import Sighting

_door = Door()
_lock = threading.Lock()
_database: str | None = None
_uncommitted: Callable[[], None] | None = None
"""What runs when the caller's transaction is committed; until then the door remembers what may yet vanish."""


def take_in(sightings: Iterable[Sighting], received: int | None = None) -> Iterator[Taken]:
    """Take sightings in, a batch a transaction; yields one result a sighting.

    A batch that fails leaves nothing behind and raises; batches before it stay.
    """
    stream = iter(sightings)
    while batch := list(islice(stream, BATCH)):
        yield from take_in_batch(batch, received)


def take_in_batch(batch: list[Sighting], received: int | None = None) -> list[Taken]:
    """Take one batch in, in one transaction, or in the caller's where one is open."""
    global _database
    need_room()
    _need_time(received)
    with _lock:
        name = str(connection.settings_dict["NAME"])
        if _database != name or _rolled_back():
            _door.forget()
            _database = name
        try:
            with transaction.atomic():
                taken = _door.take_in(raw_connection(), batch, received or int(time.time()))
        except BaseException:
            _door.forget()
            raise
        _watch()
        return taken


class ClockSetBack(RuntimeError):
    """The clock here is behind what was written; nothing was written."""


def _need_time(received: int | None) -> None:
    last = raw_connection().execute("SELECT received_at FROM estate_sighting ORDER BY id DESC LIMIT 1").fetchone()
    if why := set_back(last[0] if last else None, received or int(time.time())):
        raise ClockSetBack(why)


def _rolled_back() -> bool:
    """Whether a transaction around an earlier batch was rolled back: its commit is no longer due, and never came."""
    return _uncommitted is not None and not any(entry[1] is _uncommitted for entry in connection.run_on_commit)


def _watch() -> None:
    """Note whether what was taken in stands only once the caller's transaction is committed."""
    global _uncommitted

    def committed() -> None:
        global _uncommitted
        _uncommitted = None

    _uncommitted = committed if connection.in_atomic_block else None
    if _uncommitted is not None:
        transaction.on_commit(committed)


def forget() -> None:
    """Have everything that is remembered read anew, after the tables were exchanged."""
    with _lock:
        _door.forget()
    store.forget()
