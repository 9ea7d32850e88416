"""Taking evidence in: the one action behind sweeps, files, hands and everything else."""

import threading
import time
from collections.abc import Iterable, Iterator
from itertools import islice

from django.db import connection, transaction

from tarn.apps.estate.asking.ask import forget_questions
from tarn.apps.estate.door.take_in import BATCH, Door, Taken
from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import terms
from tarn.core.sightings import Sighting

_door = Door()
_lock = threading.Lock()
_database: str | None = None


def take_in(sightings: Iterable[Sighting], received: int | None = None) -> Iterator[Taken]:
    """Take sightings in, a batch a transaction; yields one result a sighting.

    A batch that fails leaves nothing behind and raises; batches before it stay.
    """
    stream = iter(sightings)
    while batch := list(islice(stream, BATCH)):
        yield from take_in_batch(batch, received)


def take_in_batch(batch: list[Sighting], received: int | None = None) -> list[Taken]:
    """Take one batch in, in one transaction."""
    global _database
    with _lock:
        name = str(connection.settings_dict["NAME"])
        if _database != name:
            _door.forget()
            _database = name
        try:
            with transaction.atomic():
                return _door.take_in(raw_connection(), batch, received or int(time.time()))
        except BaseException:
            _door.forget()
            raise


def forget() -> None:
    """Have the door read its words and identifiers anew, after the tables were exchanged."""
    with _lock:
        _door.forget()
        terms.forget()
        forget_questions()
