"""Room between transactions: long work is done in pieces bounded in time, between which others write first."""

import time
from collections.abc import Iterable, Iterator
from itertools import islice
from typing import TypeVar

from tarn.apps.people.turns import can_wait

T = TypeVar("T")

AIM = 0.15
"""Seconds a piece should take; how many things that is follows from how long the last ones took."""
LEAST, MOST = 3, 1000


class Breath:
    """Parts work into pieces: each as large as fits into AIM seconds, by how long the last one took."""

    def __init__(self, size: int = 8) -> None:
        self.size = size

    def pieces(self, things: Iterable[T]) -> Iterator[list[T]]:
        """Yield the things piece by piece, each of which lets others write first; a stream is read as it is needed."""
        stream = iter(things)
        while piece := list(islice(stream, self.size)):
            began = time.monotonic()
            with can_wait():
                yield piece
            self.took(len(piece), time.monotonic() - began)

    def took(self, number: int, seconds: float) -> None:
        """Note how long so many things took; the next piece is measured by it, at most twice as large."""
        fits = int(number * AIM / max(seconds, 0.001))
        self.size = max(LEAST, min(MOST, fits, self.size * 2))
