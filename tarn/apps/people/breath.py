"""Room between transactions: long work is done in pieces bounded in time, with a pause in which others may write.

SQLite lets a writer that waits try again after at most 100 ms (its busy handler), so a shorter pause may pass it by.
"""

import time
from collections.abc import Iterable, Iterator
from itertools import islice
from typing import TypeVar

T = TypeVar("T")

PAUSE = 0.11
"""Seconds between two pieces: longer than a waiting writer sleeps before it tries again."""
AIM = 0.7
"""Seconds a piece should take; how many things that is follows from how long the last ones took."""
LEAST, MOST = 5, 1000


class Breath:
    """Parts work into pieces: each as large as fits into AIM seconds, by how long the last one took."""

    def __init__(self, size: int = 50) -> None:
        self.size = size

    def pieces(self, things: Iterable[T]) -> Iterator[list[T]]:
        """Yield the things piece by piece, pausing between pieces; a stream is read as it is needed."""
        stream, first = iter(things), True
        while piece := list(islice(stream, self.size)):
            if not first:
                time.sleep(PAUSE)
            first, began = False, time.monotonic()
            yield piece
            self.took(len(piece), time.monotonic() - began)

    def took(self, number: int, seconds: float) -> None:
        """Note how long so many things took; the next piece is measured by it, at most twice as large."""
        fits = int(number * AIM / max(seconds, 0.001))
        self.size = max(LEAST, min(MOST, fits, self.size * 2))
