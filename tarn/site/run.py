"""`tarn run`: web server and worker under one command, each started again when it ends by itself."""

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import FrameType

LONGEST_WAIT = 60.0
"""Seconds between two starts of a part that keeps ending, at the most."""
STEADY = 120.0
"""Seconds after which a part that ends is held to have run well: it is started again at once."""
GRACE = 25.0
"""Seconds a part has to end when it is asked to."""


def wait_before(starts: int) -> float:
    """Return how long to wait before a part is started again that ended soon after each of so many starts."""
    return 0.0 if starts <= 1 else min(LONGEST_WAIT, 2.0 ** (starts - 2))


@dataclass
class Part:
    """A part that runs: its command, and how its starts went."""

    name: str
    command: list[str]
    child: subprocess.Popen[bytes] | None = None
    starts: int = 0
    began: float = 0.0
    not_before: float = field(default=0.0)


class Keeper:
    """Keeps parts running until it is asked to stop."""

    def __init__(self, commands: Mapping[str, list[str]]) -> None:
        self.parts = [Part(name, command) for name, command in commands.items()]
        self.stopping = False

    def run(self) -> int:
        """Start everything and look after it; return 0 once all has ended in order."""
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._stop_wished)
        try:
            while not self.stopping:
                for part in self.parts:
                    self._look_after(part, time.monotonic())
                if all(part.child is not None for part in self.parts):
                    _tell_system("READY=1")
                time.sleep(0.2)
        finally:
            _tell_system("STOPPING=1")
            self._end_all()
        return 0

    def _stop_wished(self, number: int, frame: FrameType | None) -> None:
        self.stopping = True

    def _look_after(self, part: Part, now: float) -> None:
        if part.child is not None and part.child.poll() is not None:
            if now - part.began > STEADY:
                part.starts = 0
            part.not_before = now + wait_before(part.starts + 1)
            said = f"the {part.name} ended by itself (code {part.child.returncode}); started again"
            _say(said, part.not_before - now)
            part.child = None
        if part.child is None and now >= part.not_before:
            part.child = subprocess.Popen(part.command, env=dict(os.environ), start_new_session=True)
            part.starts, part.began = part.starts + 1, now

    def _end_all(self) -> None:
        running = [part.child for part in self.parts if part.child is not None and part.child.poll() is None]
        for child in running:
            os.killpg(child.pid, signal.SIGTERM)
        until = time.monotonic() + GRACE
        for child in running:
            try:
                child.wait(max(0.1, until - time.monotonic()))
            except subprocess.TimeoutExpired:
                os.killpg(child.pid, signal.SIGKILL)
                child.wait()


def _say(text: str, wait: float) -> None:
    print(f"tarn: {text}{f' in {wait:.0f} s' if wait >= 1 else ''}.", file=sys.stderr, flush=True)


def _tell_system(text: str) -> None:
    """Tell systemd how this stands (sd_notify(3)), where it is asked to be told."""
    address = os.environ.get("NOTIFY_SOCKET", "")
    if not address:
        return
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as door:
        door.connect("\0" + address[1:] if address.startswith("@") else address)
        door.send(text.encode())


def commands(port: int, host: str, processes: int, jobs: int) -> dict[str, list[str]]:
    """Return what `tarn run` starts."""
    tarn = [sys.executable, "-m", "tarn.site.cli_main"]
    copied = {"copy": [*tarn, "copy"]} if os.environ.get("TARN_COPY") else {}
    return {
        "web server": [*tarn, "serve", "--port", str(port), "--host", host, "--processes", str(processes)],
        "worker": [*tarn, "worker", "--workers", str(jobs)],
        **copied,
    }
