"""Putting a copy in place, as of its newest moment or an earlier one; and standing by to take over."""

import subprocess
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import httpx

from tarn.site.copying.copy import claim, litestream, surroundings, told_litestream
from tarn.site.copying.places import CopyError, Place
from tarn.site.home import SECRETS, home
from tarn.site.keeping import DATABASE, PAPER, SESSION, KeepingError, put_in_place
from tarn.site.running import Runs, alone

BETWEEN = 2.0
"""Seconds between two looks at the first."""


def moment(said: str) -> datetime:
    """Read a moment such as 2026-11-30T14:05 or …:05Z; without a zone it is UTC. Raises CopyError."""
    try:
        told = datetime.fromisoformat(said)
    except ValueError:
        raise CopyError(f"“{said}” is no moment; write it as 2026-11-30T14:05Z.") from None
    return told.replace(tzinfo=UTC) if told.tzinfo is None else told.astimezone(UTC)


def restore_copy(place: Place, at: datetime | None, *, force: bool) -> str:
    """Put a copy in place; return what was done in words. Raises CopyError, and nothing was changed."""
    if (home() / DATABASE).exists() and not force:
        raise CopyError(f"{home()} holds data already; stop Tarn and say --force to replace it.")
    try:
        with alone("restore a copy"), tempfile.TemporaryDirectory(dir=home()) as folder:
            names = _fetched(place, Path(folder), at)
            put_in_place(f"the copy at {place.said}", Path(folder), names)
    except (Runs, KeepingError) as fault:
        raise CopyError(str(fault)) from None
    papers = sum(bool(PAPER.match(name)) for name in names)
    when = f"as of {at:%Y-%m-%d %H:%M:%S} UTC" if at else "as of its newest moment"
    return f"Put in place from {place.said}, {when}: {DATABASE} and {papers} files of papers."


def _fetched(place: Place, folder: Path, at: datetime | None) -> list[str]:
    with told_litestream(place) as told:
        command = [litestream(), "restore", "-config", str(told), "-o", str(folder / DATABASE)]
        if at is not None:
            command += ["-timestamp", at.strftime("%Y-%m-%dT%H:%M:%SZ")]
        done = subprocess.run([*command, str(home() / DATABASE)], capture_output=True, text=True, env=surroundings())
    if done.returncode or not (folder / DATABASE).exists():
        said = (done.stderr or done.stdout).strip().splitlines()
        raise CopyError(
            f"The copy at {place.said} gives no database{_when(at)}: {said[-1] if said else 'nothing is there'}."
        )
    names = [DATABASE]
    (folder / "papers").mkdir()
    for name in sorted({*place.names("papers/"), SECRETS, SESSION}):
        if (PAPER.match(name) or name in (SECRETS, SESSION)) and (content := place.get(name)) is not None:
            (folder / name).write_bytes(content)
            names.append(name)
    return names


def _when(at: datetime | None) -> str:
    return f" as of {at:%Y-%m-%d %H:%M:%S} UTC" if at else ""


def lives(first: str) -> bool:
    """Whether the first answers that it is ready to serve."""
    try:
        return httpx.get(f"{first.rstrip('/')}/api/readyz", timeout=5, trust_env=False).status_code == 200
    except httpx.HTTPError:
        return False


def wait_until_gone(first: str, patience: float) -> None:
    """Return once the first has not answered for so many seconds; it has to have answered once before."""
    while not lives(first):
        time.sleep(BETWEEN)
    heard = time.monotonic()
    while time.monotonic() - heard < patience:
        time.sleep(BETWEEN)
        if lives(first):
            heard = time.monotonic()


def take_over(place: Place) -> str:
    """Make the copy this machine's own and put it in place; return what was done in words. Raises CopyError."""
    claim(place, take_over=True)
    return restore_copy(place, None, force=True)
