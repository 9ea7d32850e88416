"""States on disk: columns one process writes and all others read where they lie, mapped and never copied.

A state is a file of plain columns with a head that says of which state of the data it is. It is written beside its
place and put there whole, so that a reader sees the old one or the new one; it carries its check sum, so that one cut
short, of another release or of other data is told in the log and made anew. It is a copy: losing it costs time alone.
"""

import errno
import fcntl
import json
import logging
import mmap
import os
import zlib
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from django.conf import settings
from django.db import connection

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.stamps import EVIDENCE, Newest, Stamp, stamp

log = logging.getLogger("tarn.states")
_State = TypeVar("_State")
_MAGIC = b"tarn state 1\n"
_ALIGNED = 64
"""Columns begin at multiples of so many bytes."""
_PIECE = 1 << 22


@dataclass(frozen=True)
class Column:
    """A column to be written: of which type, and its values piece by piece, in their order."""

    dtype: str
    pieces: Iterable[Any]


@dataclass(frozen=True)
class Kept:
    """A state as it lies on disk: `sighting` is the last it knows of; `columns` are read where they lie."""

    stamp: list[Any]
    sighting: int
    document: str | None
    columns: dict[str, Any]
    bytes: int


class Shelf:
    """Where the newest state of one name lies."""

    def __init__(self, name: str) -> None:
        self.name = name
        self._read: tuple[tuple[int, int], Kept | None] | None = None
        _ALL.append(self)

    @property
    def path(self) -> Path:
        """The file of the state."""
        return _folder() / f"{self.name}.state"

    @contextmanager
    def turn(self) -> Iterator[None]:
        """Have the making of this state alone, over all processes: whoever waits finds it made."""
        if not settings.TARN_STATES:
            yield
            return
        with (_folder() / f"{self.name}.lock").open("a") as file:
            fcntl.flock(file, fcntl.LOCK_EX)
            yield

    def read(self, now: Stamp) -> Kept | None:
        """Return the state where it is of this data, this generation and this release; none where it has to be made.

        What is wrong with a file is told once, in the log.
        """
        if not settings.TARN_STATES:
            return None
        try:
            seen = self.path.stat()
        except FileNotFoundError:
            return None
        known = (seen.st_ino, seen.st_mtime_ns)
        if self._read is None or self._read[0] != known:
            self._read = known, self._opened()
        kept = self._read[1]
        if kept is None or kept.stamp != _written(now.beside(EVIDENCE)):
            return None
        return kept if _stands(kept) else None

    def _opened(self) -> Kept | None:
        try:
            return _open(self.path)
        except (_Damaged, OSError, ValueError, KeyError) as fault:
            log.warning("the state “%s” is made anew: %s", self.name, fault)
            return None

    def exchange(self, make: Callable[[], _State], columns: Callable[[_State], Mapping[str, Column]]) -> bool:
        """Put the state that `make` returns on disk, where there is anything new, for all processes; return whether it
        was put. While evidence comes in it is not: the next look keeps it.
        """
        now = stamp(EVIDENCE)
        state = make()
        kept = self.read(now)
        if stamp(EVIDENCE) != now or (kept is not None and kept.sighting == _newest(now)):
            return False
        with self.turn():
            return self.write(now, columns(state))

    def write(self, now: Stamp, columns: Mapping[str, Column]) -> bool:
        """Put a state in its place, whole or not at all; return whether it was kept: there has to be room, and what is
        not kept yet (a transaction under way) is no state of the data.
        """
        if not settings.TARN_STATES or connection.in_atomic_block:
            return False
        beside = self.path.with_suffix(f".{os.getpid()}")
        newest = _newest(now)
        head = {
            "release": _release(),
            "stamp": _written(now.beside(EVIDENCE)),
            "sighting": newest,
            "document": _document(newest),
        }
        try:
            with beside.open("wb") as file:
                _write(file, head, columns)
            beside.replace(self.path)
        except OSError as fault:
            beside.unlink(missing_ok=True)
            if fault.errno not in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
                raise
            log.warning("the state “%s” was not kept, there is no room: %s", self.name, fault)
            return False
        return True


_ALL: list[Shelf] = []


def shelves() -> list[tuple[str, int]]:
    """Return the states that lie on disk, each with its bytes."""
    some = _ALL if settings.TARN_STATES else []
    return [(shelf.name, shelf.path.stat().st_size) for shelf in some if shelf.path.exists()]


def clear() -> None:
    """Take all states away, after the data was exchanged under them."""
    if not settings.TARN_STATES:
        return
    for path in _folder().glob("*.state"):
        path.unlink(missing_ok=True)


class _Damaged(ValueError):
    """A file is no state this release can read; the message says why."""


def _folder() -> Path:
    path = Path(settings.TARN_STATES)
    path.mkdir(exist_ok=True, mode=0o700)
    return path


def _release() -> str:
    from importlib.metadata import version

    return version("tarn")


def _written(stamp: Stamp) -> list[Any]:
    """A stamp as it stands in a file; without the path of the database, which a copied home may have elsewhere."""
    written: list[Any] = json.loads(json.dumps([stamp.generation, stamp.grounds]))
    return written


def _newest(now: Stamp) -> int:
    """The number of the last sighting a stamp knows of."""
    newest = now.of(EVIDENCE)
    assert isinstance(newest, Newest)
    return newest.sighting


def _document(sighting: int) -> str | None:
    row = raw_connection().execute("SELECT document FROM estate_sighting WHERE id = ?", (sighting,)).fetchone()
    return row[0] if row else None


def _stands(kept: Kept) -> bool:
    """Whether the last sighting a state knows is the one that stands: not where a backup was put in place since."""
    return _document(kept.sighting) == kept.document


def _write(file: Any, head: dict[str, Any], columns: Mapping[str, Column]) -> None:
    """Columns first, as they come; what is known of them only then stands after them, and the file ends with where."""
    file.write(_MAGIC)
    at, check, told = len(_MAGIC), 0, {}
    for name, column in columns.items():
        fill = -at % _ALIGNED
        file.write(b"\0" * fill)
        at += fill
        begins, rows = at, 0
        for piece in column.pieces:
            data = np.ascontiguousarray(piece, dtype=column.dtype)
            rows += len(data)
            octets: Any = data.view(np.uint8)
            check = zlib.crc32(octets, check)
            file.write(octets)
            at += len(octets)
        told[name] = [column.dtype, begins, rows]
    text = json.dumps({**head, "columns": told, "check": check}).encode()
    file.write(text)
    file.write(at.to_bytes(8, "little") + len(text).to_bytes(8, "little"))


def _open(path: Path) -> Kept:
    with path.open("rb") as file:
        size = os.fstat(file.fileno()).st_size
        if size < len(_MAGIC) + 16:
            raise _Damaged("it is cut short")
        mapped = mmap.mmap(file.fileno(), 0, prot=mmap.PROT_READ)
    if mapped[: len(_MAGIC)] != _MAGIC:
        raise _Damaged("it is no state of this form")
    at, long = int.from_bytes(mapped[-16:-8], "little"), int.from_bytes(mapped[-8:], "little")
    if at + long + 16 != size:
        raise _Damaged("it is cut short")
    head = json.loads(mapped[at : at + long])
    if head["release"] != _release():
        raise _Damaged(f"it is of release {head['release']}, this is {_release()}")
    columns, check = {}, 0
    for name, (dtype, begins, rows) in head["columns"].items():
        column = np.frombuffer(mapped, dtype=dtype, count=rows, offset=begins)
        octets = memoryview(mapped)[begins : begins + column.nbytes]
        for piece in range(0, len(octets), _PIECE):
            check = zlib.crc32(octets[piece : piece + _PIECE], check)
        columns[name] = column
    if check != head["check"]:
        raise _Damaged("its check sum does not fit what is in it")
    return Kept(head["stamp"], head["sighting"], head["document"], columns, size)
