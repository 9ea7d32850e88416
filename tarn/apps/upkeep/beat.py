"""The worker's sign of life: a file it touches, so that whoever asks needs no database."""

import threading
import time
from pathlib import Path

from django.conf import settings

EVERY, LATE = 10.0, 60.0
"""Seconds between two signs, and after which it is held to be away."""


def _file() -> Path:
    return Path(settings.HOME) / "worker.beat"


def begin_beating() -> None:
    """Give signs of life until this process ends."""

    def beat() -> None:
        while True:
            _file().touch()
            time.sleep(EVERY)

    threading.Thread(target=beat, name="beat", daemon=True).start()


def last_beat() -> float | None:
    """Return when the worker last gave a sign, in seconds since 1970; None where it never did."""
    try:
        return _file().stat().st_mtime
    except FileNotFoundError:
        return None


def worker_is_there(now: float | None = None) -> bool:
    """Whether the worker is at work."""
    seen = last_beat()
    return seen is not None and (now or time.time()) - seen < LATE
