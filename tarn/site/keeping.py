"""Backup and restore: one file with the database, as of one moment, the keys beside it, and the files of papers."""

import re
import sqlite3
import tarfile
import tempfile
from pathlib import Path

from tarn.site.home import home

KEPT = ("tarn.sqlite3", "secrets.key", "session.key")
PAPER = re.compile(r"^papers/[0-9a-f]{64}$")
"""What people keep with assets, by its SHA-256; a content is never changed, so it may be copied while Tarn runs."""


class KeepingError(RuntimeError):
    """A backup that could not be written or put in place; nothing was changed."""


def write_backup(file: Path) -> str:
    """Write a backup; return what was done in words. Raises KeepingError."""
    if file.exists():
        raise KeepingError(f"{file} is there already; name another file.")
    source = home() / "tarn.sqlite3"
    try:
        with tempfile.TemporaryDirectory(dir=home()) as folder:
            copy = Path(folder) / "tarn.sqlite3"
            with sqlite3.connect(source) as live, sqlite3.connect(copy) as kept:
                live.backup(kept)
            part = file.with_name(file.name + ".part")
            with tarfile.open(part, "w:gz", compresslevel=3) as archive:
                archive.add(copy, "tarn.sqlite3")
                for name in KEPT[1:]:
                    if (home() / name).exists():
                        archive.add(home() / name, name)
                for paper in sorted((home() / "papers").glob("*")):
                    if PAPER.match(f"papers/{paper.name}"):
                        archive.add(paper, f"papers/{paper.name}")
            part.chmod(0o600)
            part.rename(file)
    except OSError as error:
        raise KeepingError(f"the backup could not be written: {error}") from None
    return f"Written: {file} ({file.stat().st_size / 1e6:.1f} MB). It holds the key to the credentials; keep it safe."


def read_backup(file: Path, *, force: bool) -> str:
    """Put a backup in place; return what was done in words. Raises KeepingError."""
    if not file.exists():
        raise KeepingError(f"there is no file {file}.")
    if (home() / "tarn.sqlite3").exists() and not force:
        raise KeepingError(f"{home()} holds data already; stop Tarn and say --force to replace it.")
    with tempfile.TemporaryDirectory(dir=home()) as folder:
        try:
            with tarfile.open(file) as archive:
                names = archive.getnames()
                if "tarn.sqlite3" not in names or any(n not in KEPT and not PAPER.match(n) for n in names):
                    raise KeepingError(f"{file} is no backup of Tarn.")
                archive.extractall(folder, filter="data")
        except tarfile.TarError as error:
            raise KeepingError(f"{file} cannot be read: {error}") from None
        copy = Path(folder) / "tarn.sqlite3"
        verdict = sqlite3.connect(copy).execute("PRAGMA integrity_check").fetchone()[0]
        if verdict != "ok":
            raise KeepingError(f"the database in {file} is damaged: {verdict}")
        for leftover in ("tarn.sqlite3-wal", "tarn.sqlite3-shm"):
            (home() / leftover).unlink(missing_ok=True)
        (home() / "papers").mkdir(exist_ok=True)
        for name in names:
            (Path(folder) / name).replace(home() / name)
    files = sum(n not in KEPT for n in names)
    listed = ", ".join(sorted(set(names) & set(KEPT)))
    return f"Put in place from {file}: {listed}" + (f" and {files} files of papers." if files else ".")
