"""The continuous copy: Litestream copies the database as it is written, this what lies beside it."""

import json
import logging
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from tarn.site.copying.places import CopyError, Place, configuration
from tarn.site.home import SECRETS, home, keys
from tarn.site.keeping import DATABASE, PAPER, SESSION

log = logging.getLogger("tarn.copy")
OWNER = "owner.json"
LOOKED_EVERY, WATCHED_EVERY = 2.0, 10.0
"""Seconds between two looks for new files, and for whether somebody else has taken the copy over."""


def litestream() -> str:
    """Return the path of Litestream's program. Raises CopyError."""
    beside = Path(sys.executable).with_name("litestream")
    found = str(beside) if beside.exists() else shutil.which("litestream")
    if not found:
        raise CopyError("Litestream is not installed: pip install 'tarn[copy]'.")
    return found


def surroundings() -> dict[str, str]:
    """Return the environment Litestream runs in: of authorities of the company's own it is told as Go programs are."""
    told = dict(os.environ)
    bundle = told.pop("AWS_CA_BUNDLE", "")
    return {**told, "SSL_CERT_FILE": bundle} if bundle else told


@dataclass(frozen=True)
class Owner:
    """Whose copy it is: a data directory, by a word it was given, and the machine it is on."""

    word: str
    host: str
    since: str

    @classmethod
    def here(cls) -> "Owner":
        """Return this data directory as an owner."""
        file = home() / "copy.json"
        if not file.exists():
            file.write_text(json.dumps({"word": secrets.token_hex(8)}))
        word = str(json.loads(file.read_text())["word"])
        return cls(word, socket.gethostname(), time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime()))


def owner_of(place: Place) -> Owner | None:
    """Return whose copy lies at a place; None where it is nobody's yet. Raises CopyError."""
    told = place.get(OWNER)
    try:
        return None if told is None else Owner(**json.loads(told))
    except (ValueError, TypeError):
        raise CopyError(f"{OWNER} at {place.said} cannot be read; nobody can say whose copy it is.") from None


def claim(place: Place, *, take_over: bool = False) -> None:
    """Make a copy this data directory's own. Raises CopyError where it is another's: two must not write to one."""
    mine, held = Owner.here(), owner_of(place)
    if held is not None and held.word != mine.word and not take_over:
        raise CopyError(
            f"The copy at {place.said} is written by {held.host} since {held.since}. Two must not write to one copy: "
            "name another place, or, if that one is gone for good, say --take-over."
        )
    if held is None or held.word != mine.word:
        place.put(OWNER, json.dumps(mine.__dict__).encode())


@contextmanager
def told_litestream(place: Place) -> Iterator[Path]:
    """Have a file of what Litestream is told, for as long as this lasts."""
    file = home() / f"litestream-{os.getpid()}.json"
    file.write_text(configuration(home() / DATABASE, place))
    try:
        yield file
    finally:
        file.unlink(missing_ok=True)


def beside(folder: Path | None = None) -> dict[str, Path]:
    """Return what lies beside the database and belongs to it, by its name in a copy: papers and keys."""
    papers = sorted(((folder or home()) / "papers").glob("*"))
    found = {name: path for path in papers if PAPER.match(name := f"papers/{path.name}")}
    return found | {name: keys() / name for name in (SECRETS, SESSION) if (keys() / name).exists()}


class Copying:
    """Keeps a copy at a place until it is asked to stop, or somebody takes it over."""

    def __init__(self, place: Place) -> None:
        self.place, self.stopping = place, False
        self.known = place.names("papers/")
        self.keys: dict[str, bytes] = {}

    def run(self) -> None:
        """Copy. Raises CopyError where the copy was taken over."""
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, lambda *_: setattr(self, "stopping", True))
        with told_litestream(self.place) as told:
            child, starts, begun, watched = None, 0, 0.0, 0.0
            try:
                while not self.stopping:
                    if child is None or child.poll() is not None:
                        starts = 0 if time.monotonic() - begun > 60 else starts + 1
                        if child is not None:
                            log.error("Litestream ended (code %s); it is started again", child.returncode)
                            time.sleep(min(30, 2**starts))
                        child = subprocess.Popen([litestream(), "replicate", "-config", str(told)], env=surroundings())
                        begun = time.monotonic()
                    if time.monotonic() - watched > WATCHED_EVERY:
                        watched = time.monotonic()
                        self._still_ours()
                        note_state(self.place)
                    self.copy_files()
                    time.sleep(LOOKED_EVERY)
            finally:
                if child is not None and child.poll() is None:
                    child.terminate()
                    child.wait(20)

    def _still_ours(self) -> None:
        held = owner_of(self.place)
        if held is not None and held.word != Owner.here().word:
            raise CopyError(
                f"{held.host} has taken the copy at {self.place.said} over since {held.since}: nothing more is "
                "written to it from here. Stop this Tarn; what it wrote since is not in the copy."
            )

    def copy_files(self) -> int:
        """Copy what is new beside the database; return how many files that were."""
        copied = 0
        for name, path in beside().items():
            if PAPER.match(name):
                if name in self.known:
                    continue  # named by what is in it: it never changes
                self.place.put(name, path.read_bytes())
                self.known.add(name)
                copied += 1
            elif self.keys.get(name) != (content := path.read_bytes()):
                self.place.put(name, content)
                self.keys[name] = content
                copied += 1
        return copied


def note_state(place: Place) -> None:
    """Note how far the copy is behind, for whoever looks how Tarn is."""
    written = max((p.stat().st_mtime for p in home().glob(f"{DATABASE}*") if p.is_file()), default=0.0)
    newest = place.newest()
    behind = None if newest is None else max(0.0, written - newest)
    told = {"at": time.time(), "place": place.said, "behind": behind}
    part = home() / "copy.beat.part"
    part.write_text(json.dumps(told))
    part.replace(home() / "copy.beat")
