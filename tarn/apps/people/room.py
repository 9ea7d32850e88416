"""Room on the disk: before there is none left, writing stops in order and says so; what is there stays whole."""

import logging
import shutil
import time
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings

log = logging.getLogger(__name__)
LEAST_SHARE, LEAST = 5, 2 << 30
"""Percent of the disk, and bytes, of which either has to be free for anything to be written."""
_LOOKED_EVERY = 3.0


class NoRoomError(RuntimeError):
    """There is too little room left to write; nothing was written."""


@dataclass
class Room:
    """How much of the disk with the data is free: bytes, and percent of it."""

    free: int
    share: int

    @property
    def enough(self) -> bool:
        """Whether anything may still be written."""
        return self.share >= LEAST_SHARE or self.free > LEAST

    def words(self) -> str:
        """Return what is wrong and what to do."""
        return (
            f"The disk with Tarn's data is nearly full: {self.free / 1e6:,.0f} MB, {self.share} % are left. Nothing "
            "more is written until there is room; outposts and reporters keep what they have, and go on then."
        )


_last: list[tuple[float, Room]] = []


def room() -> Room:
    """Return the room there is, looked at every few seconds; too little is said in the log when it is first seen."""
    now = time.monotonic()
    if _last and now - _last[0][0] < _LOOKED_EVERY:
        return _last[0][1]
    usage = shutil.disk_usage(Path(settings.HOME))
    found = Room(usage.free, usage.free * 100 // max(1, usage.total))
    if not found.enough and (not _last or _last[0][1].enough):
        log.error(found.words())
    _last[:] = [(now, found)]
    return found


def need_room() -> None:
    """Raise NoRoomError where there is too little left to write."""
    found = room()
    if not found.enough:
        raise NoRoomError(found.words())


def forget_room() -> None:
    """Look anew at the next asking."""
    _last.clear()
