"""Whether Tarn runs on its data: those that serve it hold a lock together, those that exchange it need it alone."""

import faulthandler
import fcntl
import signal
from collections.abc import Iterator
from contextlib import contextmanager
from typing import IO

from tarn.site.home import home

_held: list[IO[str]] = []


class Runs(RuntimeError):
    """Tarn runs on this data, so that it cannot be exchanged under its feet."""


def _lock() -> IO[str]:
    return (home() / "running.lock").open("a")


def at_work() -> None:
    """Note, until this process ends, that it works on the data. Sent SIGUSR1 it writes what its threads are at."""
    faulthandler.register(signal.SIGUSR1, all_threads=True)
    file = _lock()
    fcntl.flock(file, fcntl.LOCK_SH)
    _held.append(file)


@contextmanager
def alone(what: str) -> Iterator[None]:
    """Have the data alone while this lasts. Raises Runs."""
    with _lock() as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Runs(f"Tarn runs on {home()}; stop it before you {what}.") from None
        yield


def is_running() -> bool:
    """Whether Tarn works on this data just now."""
    try:
        with alone("look"):
            return False
    except Runs:
        return True
