"""Whose turn it is to write: one writer at a time over all processes, and what somebody waits for goes first.

SQLite has one writer, and no queue: whoever finds it at work sleeps longer and longer and tries again, so that one who
writes piece after piece can keep another out for many seconds. Here a turn is a lock on a file beside the database
(flock(2): gone with the process that held it), and a second file tells those who can wait that others are waiting.
Readers take no turn.
"""

import contextlib
import fcntl
import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

FIRST_LOOK, LAST_LOOK = 0.0005, 0.004
"""Seconds between two tries of one who waits."""
PATIENCE = 2.0
"""Seconds after which also what can wait is waited for no longer than others: a sweep goes on, whatever is written."""
_kind = threading.local()
_process = {"can_wait": False}


def work_in_background() -> None:
    """Say that nobody waits for what this process writes."""
    _process["can_wait"] = True


@contextlib.contextmanager
def can_wait() -> Iterator[None]:
    """Say that nobody waits for what is written within."""
    before = getattr(_kind, "can_wait", False)
    _kind.can_wait = True
    try:
        yield
    finally:
        _kind.can_wait = before


class Turns:
    """The turns of one connection to a database; `beside`: the database's file."""

    def __init__(self, beside: str) -> None:
        self._paths = (Path(f"{beside}-turn"), Path(f"{beside}-wait"))
        self._files: tuple[int, int] | None = None
        self._held = False

    def take(self, seconds: float) -> bool:
        """Wait for a turn; return whether it came within so many seconds."""
        turn, waiting = self._opened()
        patient = _process["can_wait"] or getattr(_kind, "can_wait", False)
        began, look = time.monotonic(), FIRST_LOOK
        if not patient:
            fcntl.flock(waiting, fcntl.LOCK_SH)
        try:
            while not self._tried(turn, waiting, patient):
                waited = time.monotonic() - began
                if waited > seconds:
                    return False
                if patient and waited > PATIENCE:
                    patient = False
                    fcntl.flock(waiting, fcntl.LOCK_SH)
                time.sleep(look)
                look = min(LAST_LOOK, look * 1.5)
        finally:
            fcntl.flock(waiting, fcntl.LOCK_UN)
        self._held = True
        return True

    def give(self) -> None:
        """Give the turn to the next, where it is held."""
        if self._held and self._files is not None:
            fcntl.flock(self._files[0], fcntl.LOCK_UN)
        self._held = False

    def close(self) -> None:
        """Give the turn and let go of the files."""
        self.give()
        if self._files is not None:
            for file in self._files:
                os.close(file)
            self._files = None

    def _opened(self) -> tuple[int, int]:
        if self._files is None:
            turn, waiting = (os.open(p, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600) for p in self._paths)
            self._files = (turn, waiting)
        return self._files

    @staticmethod
    def _tried(turn: int, waiting: int, patient: bool) -> bool:
        """Try once; who is patient stands back where anybody waits who is not."""
        if not patient:
            return _locked(turn)
        if not _locked(waiting):
            return False
        try:
            return _locked(turn)
        finally:
            fcntl.flock(waiting, fcntl.LOCK_UN)


def _locked(file: int) -> bool:
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True
