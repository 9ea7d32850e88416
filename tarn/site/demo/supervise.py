"""Looking after the parts of a running demo: a process of its own that loads nothing but the standard library.

It is told what to run by a plan in JSON, on its standard input.
"""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from types import FrameType
from typing import Any

FIRST_OFFSET, OFFSETS, STEP = 20_000, 12, 1_009
"""Where the lab's ports are raised to, how many such places are tried, and how far they lie apart.

The step is no difference of two well-known ports, so that the ports of two labs do not meet.
"""
_TRIED = (
    ("127.60.4.24", 22),
    ("127.60.4.61", 443),
    ("127.60.4.62", 8080),
    ("127.60.4.60", 389),
    ("127.60.5.121", 5986),
)
LAB_SECONDS, WEB_SECONDS = 60, 60


@dataclass
class Plan:
    """What runs: commands by name, outposts that join once the web server answers, and what is said then."""

    port: int
    ready: str
    lab: list[str]
    commands: dict[str, list[str]]
    outposts: list[dict[str, Any]]
    environment: dict[str, str]
    says: str
    offset: int | None = None

    def as_json(self) -> str:
        """Return it as it is handed over."""
        return json.dumps(asdict(self))


def is_free(address: str, port: int) -> bool:
    """Whether nothing listens on an address and port of this machine."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((address, port))
        except OSError:
            return False
    return True


def offsets(wanted: int | None) -> list[int]:
    """Return the offsets that look free; the one that was asked for is the only one."""
    if wanted is not None:
        return [wanted]
    found = [FIRST_OFFSET + n * STEP for n in range(OFFSETS)]
    return [o for o in found if all(is_free(a, p + o) for a, p in _TRIED) and is_free("127.0.0.1", o + 25)]


class Supervisor:
    """The parts that run, and whether they are to be stopped."""

    def __init__(self, plan: Plan) -> None:
        self.plan, self.stopping = plan, False
        self.children: dict[str, subprocess.Popen[bytes]] = {}
        self.environment = {**os.environ, **plan.environment}
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, self._stop_wished)

    def _stop_wished(self, number: int, frame: FrameType | None) -> None:
        self.stopping = True

    def _spawn(self, name: str, command: list[str], **more: str) -> None:
        environment = {**self.environment, **more}
        self.children[name] = subprocess.Popen(command, env=environment, start_new_session=True)

    def run(self) -> int:
        """Start everything, the lab first; wait for the wish to stop, or for a part to end by itself."""
        try:
            if not self._start_lab():
                return 0 if self.stopping else 1
            for name, command in self.plan.commands.items():
                self._spawn(name, command)
            if not self._until(lambda: not is_free("127.0.0.1", self.plan.port), WEB_SECONDS):
                return 0 if self.stopping else self._ended()
            for number, post in enumerate(self.plan.outposts, start=1):
                self._spawn(f"outpost {number}", post["command"], TARN_OUTPOST_TOKEN=post["token"])
            print(self.plan.says, flush=True)
            while not self.stopping:
                if any(c.poll() is not None for c in self.children.values()):
                    return self._ended()
                time.sleep(0.2)
            return 0
        finally:
            self._end_all()

    def _ended(self) -> int:
        for name, child in self.children.items():
            if child.poll() is not None:
                print(f"tarn: {name} ended by itself (code {child.returncode}); stopping the rest.", file=sys.stderr)
        return 1

    def _start_lab(self) -> bool:
        """Start the lab where its ports are free; what other offsets are tried is said."""
        ready = Path(self.plan.ready)
        for offset in offsets(self.plan.offset):
            ready.unlink(missing_ok=True)
            self.environment |= {
                "TARN_LAB_OFFSET": str(offset),
                "TARN_SMTP": f"127.0.0.1:{offset + 25}",
                "TARN_OIDC_URL": f"http://127.0.0.1:{offset + 26}",
            }
            self._spawn("lab", self.plan.lab)
            if self._until(ready.exists, LAB_SECONDS):
                if offset != FIRST_OFFSET:
                    print(f"The lab's ports are raised by {offset}.", flush=True)
                return True
            if self.stopping:
                return False
            self.children.pop("lab").wait()
            print(f"tarn: the lab cannot have its ports raised by {offset}; trying another place.", file=sys.stderr)
        print("tarn: no free ports for the lab; stop another demo, or set TARN_LAB_OFFSET.", file=sys.stderr)
        return False

    def _until(self, happened: Callable[[], bool], seconds: float) -> bool:
        """Wait until something has happened; False where it has not, a part has ended, or all is to stop."""
        until = time.monotonic() + seconds
        while time.monotonic() < until and not self.stopping:
            if happened():
                return True
            if any(c.poll() is not None for c in self.children.values()):
                return False
            time.sleep(0.1)
        return False

    def _end_all(self) -> None:
        for child in self.children.values():
            if child.poll() is None:
                child.terminate()
        until = time.monotonic() + 8
        for child in self.children.values():
            try:
                child.wait(max(0.1, until - time.monotonic()))
            except subprocess.TimeoutExpired:
                os.killpg(child.pid, signal.SIGKILL)


def main() -> None:
    """Run the plan in the file named as the only argument, and remove the file: it holds tokens."""
    path = Path(sys.argv[1])
    plan = Plan(**json.loads(path.read_text()))
    path.unlink()
    sys.exit(Supervisor(plan).run())


if __name__ == "__main__":
    main()
