"""Backup and restore: one file with the database as of one moment, the keys, the papers' files, and a list of it."""

import hashlib
import json
import re
import shutil
import sqlite3
import tarfile
import tempfile
import time
from importlib.metadata import version
from pathlib import Path
from typing import Any

from cryptography.fernet import Fernet, InvalidToken, MultiFernet

from tarn.site.home import SECRETS, home, keys
from tarn.site.running import Runs, alone

DATABASE, SESSION, LIST = "tarn.sqlite3", "session.key", "backup.json"
PROGRAM = "tarn"
PAPER = re.compile(r"^papers/[0-9a-f]{64}$")
"""What people keep with assets, by its SHA-256; a content is never changed, so it may be copied while Tarn runs."""


class KeepingError(RuntimeError):
    """A backup that could not be written or put in place; nothing was changed."""


def write_backup(file: Path) -> str:
    """Write a backup; return what was done in words. Raises KeepingError."""
    if file.exists():
        raise KeepingError(f"{file} is there already; name another file.")
    part = file.with_name(file.name + ".part")
    try:
        with tempfile.TemporaryDirectory(dir=home()) as folder:
            copy = Path(folder) / DATABASE
            with sqlite3.connect(home() / DATABASE) as live, sqlite3.connect(copy) as kept:
                live.backup(kept)
            inside = {DATABASE: copy}
            inside |= {name: keys() / name for name in (SECRETS, SESSION) if (keys() / name).exists()}
            papers = sorted((home() / "papers").glob("*"))
            inside |= {name: p for p in papers if PAPER.match(name := f"papers/{p.name}")}
            told = {
                "program": PROGRAM,
                "release": version(PROGRAM),
                "made_at": time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime()),
                "migrations": _migrations(copy),
                "files": {name: _digest(path) for name, path in inside.items()},
            }
            (Path(folder) / LIST).write_text(json.dumps(told, indent=1))
            with tarfile.open(part, "w:gz", compresslevel=3) as archive:
                for name, path in {LIST: Path(folder) / LIST, **inside}.items():
                    archive.add(path, name)
            part.chmod(0o600)
            part.rename(file)
    except (OSError, sqlite3.Error) as error:
        part.unlink(missing_ok=True)
        raise KeepingError(f"the backup could not be written: {error}") from None
    return f"Written: {file} ({file.stat().st_size / 1e6:.1f} MB). It holds the key to the credentials; keep it safe."


def read_backup(file: Path, *, force: bool) -> str:
    """Put a backup in place; return what was done in words. Raises KeepingError.

    Everything is checked before anything is touched; what was there is moved aside, and back if the exchange fails.
    """
    if not file.exists():
        raise KeepingError(f"there is no file {file}.")
    if (home() / DATABASE).exists() and not force:
        raise KeepingError(f"{home()} holds data already; stop Tarn and say --force to replace it.")
    try:
        with alone("restore a backup"), tempfile.TemporaryDirectory(dir=home()) as folder:
            names = _unpacked(file, Path(folder))
            _check(file, Path(folder), names)
            _exchange(Path(folder), names)
    except Runs as error:
        raise KeepingError(str(error)) from None
    files = sum(bool(PAPER.match(n)) for n in names)
    listed = ", ".join(n for n in (DATABASE, SECRETS, SESSION) if n in names)
    return f"Put in place from {file}: {listed}" + (f" and {files} files of papers." if files else ".")


def put_in_place(what: str, folder: Path, names: list[str]) -> None:
    """Put files that were fetched into a folder in place, once they are found whole; whoever calls has the data alone.
    Raises KeepingError; nothing was changed then.
    """
    _check_database(what, folder)
    known = {(app, name) for app, name in _migrations(folder / DATABASE)}
    _check_release(what, known)
    _check_papers(what, folder, names)
    _check_key(what, folder)
    _exchange(folder, names)


def check_backup(file: Path) -> None:
    """Unpack a backup aside and look at all of it, as restoring does; nothing is put in place. Raises KeepingError."""
    with tempfile.TemporaryDirectory(dir=home()) as folder:
        _check(file, Path(folder), _unpacked(file, Path(folder)))


def _unpacked(file: Path, folder: Path) -> list[str]:
    try:
        with tarfile.open(file) as archive:
            names = archive.getnames()
            fixed = (LIST, DATABASE, SECRETS, SESSION)
            if DATABASE not in names or any(n not in fixed and not PAPER.match(n) for n in names):
                raise KeepingError(f"{file} is no backup of Tarn.")
            archive.extractall(folder, filter="data")
    except (tarfile.TarError, EOFError, OSError) as error:
        raise KeepingError(f"{file} cannot be read: {error}") from None
    return names


def _check(file: Path, folder: Path, names: list[str]) -> None:
    """Refuse a backup that is not what its list says, or that this release and these keys cannot use."""
    if LIST not in names:
        raise KeepingError(f"{file} has no list of what is in it ({LIST}): it is of a release before there was one.")
    try:
        told: dict[str, Any] = json.loads((folder / LIST).read_text())
        program, release, files = told["program"], told["release"], dict(told["files"])
        known = {(str(app), str(name)) for app, name in told["migrations"]}
    except (ValueError, KeyError, TypeError) as error:
        raise KeepingError(f"the list in {file} cannot be read: {error}.") from None
    if program != PROGRAM:
        raise KeepingError(f"{file} is a backup of “{program}”, not of Tarn.")
    _check_release(file, known, f" ({release})")
    if missing := sorted(set(files) - set(names)):
        raise KeepingError(f"{missing[0]} is missing from {file}, though its list names it.")
    if more := sorted(set(names) - set(files) - {LIST}):
        raise KeepingError(f"{more[0]} is in {file}, though its list does not name it.")
    for name, digest in files.items():
        if _digest(folder / name) != digest:
            raise KeepingError(f"{name} in {file} is not what it was when the backup was made.")
    _check_papers(file, folder, names)
    _check_database(file, folder)
    _check_key(file, folder)


def _check_database(what: Path | str, folder: Path) -> None:
    verdict = _asked(folder / DATABASE, "PRAGMA integrity_check")
    if verdict != "ok":
        raise KeepingError(f"the database in {what} is damaged: {verdict}")


def _check_release(what: Path | str, known: set[tuple[str, str]], of: str = "") -> None:
    if later := sorted(known - _shipped()):
        raise KeepingError(
            f"{what} is of a later release{of}; this one is {version(PROGRAM)} and does not know "
            f"{later[0][0]} {later[0][1]}. Install that release first."
        )


def _check_papers(what: Path | str, folder: Path, names: list[str]) -> None:
    if wrong := next((n for n in names if PAPER.match(n) and _digest(folder / n) != n.partition("/")[2]), None):
        raise KeepingError(f"{wrong} in {what} does not hold what its name says.")


def _check_key(file: Path | str, folder: Path) -> None:
    if not (folder / SECRETS).exists():
        raise KeepingError(f"{file} lacks the key that opens its secrets ({SECRETS}).")
    try:
        box = MultiFernet([Fernet(k) for k in (folder / SECRETS).read_text().split()])
    except (ValueError, IndexError) as error:
        raise KeepingError(f"the key in {file} is none: {error}.") from None
    sealed = _asked(folder / DATABASE, "SELECT sealed FROM discovery_credential LIMIT 1")
    if sealed is not None:
        try:
            box.decrypt(bytes(sealed))
        except InvalidToken:
            raise KeepingError(f"the key in {file} does not open the secrets in it.") from None


def _exchange(folder: Path, names: list[str]) -> None:
    """Put files in place, the papers first and the database last; on any failure what was there comes back."""
    aside = Path(tempfile.mkdtemp(dir=home(), prefix="before-restore-"))
    moved: list[tuple[Path, Path]] = []
    made: list[Path] = []

    def put(source: Path, target: Path) -> None:
        if target.exists():
            moved.append((aside / f"{len(moved)}", target))
            target.replace(moved[-1][0])
        shutil.move(source, target)
        made.append(target)

    try:
        (home() / "papers").mkdir(exist_ok=True)
        for leftover in (f"{DATABASE}-wal", f"{DATABASE}-shm"):
            if (home() / leftover).exists():
                moved.append((aside / leftover, home() / leftover))
                (home() / leftover).replace(moved[-1][0])
        shutil.rmtree(home() / "states", ignore_errors=True)  # copies of what was: they are made anew
        for name in sorted(names, key=lambda n: (n == DATABASE, n in (SECRETS, SESSION))):
            if name != LIST:
                put(folder / name, (keys() if name in (SECRETS, SESSION) else home()) / name)
    except OSError as error:
        for target in made:
            target.unlink(missing_ok=True)
        for kept, target in reversed(moved):
            kept.replace(target)
        raise KeepingError(f"it could not be put in place, and what was there is back: {error}") from None
    finally:
        shutil.rmtree(aside, ignore_errors=True)


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _asked(database: Path, statement: str) -> Any:
    db = sqlite3.connect(database)
    try:
        row = db.execute(statement).fetchone()
    except sqlite3.DatabaseError as error:
        raise KeepingError(f"the database in the backup is damaged: {error}") from None
    finally:
        db.close()
    return row[0] if row else None


def _migrations(database: Path) -> list[list[str]]:
    db = sqlite3.connect(database)
    try:
        return [list(row) for row in db.execute("SELECT app, name FROM django_migrations ORDER BY 1, 2")]
    finally:
        db.close()


def _shipped() -> set[tuple[str, str]]:
    """Return the migrations this release knows."""
    from django.db.migrations.loader import MigrationLoader

    loader = MigrationLoader(None)
    replaced = {key for m in loader.disk_migrations.values() for key in m.replaces}
    return set(loader.disk_migrations) | replaced
