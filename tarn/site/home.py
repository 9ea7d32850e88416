"""Where Tarn keeps its data, and the keys it makes for itself there."""

import os
import secrets
from pathlib import Path

from cryptography.fernet import Fernet


def home() -> Path:
    """Return the data directory (TARN_HOME, default `var/`), made if missing: its owner's alone, and all made in it."""
    path = Path(os.environ.get("TARN_HOME", "var")).resolve()
    path.mkdir(parents=True, exist_ok=True, mode=0o700)
    if not _kept_close:
        os.umask(0o077)
        keep_close(path)
        _kept_close.append(path)
    return path


_kept_close: list[Path] = []


_OURS = (
    "*.sqlite3*",
    "*.key",
    "*.code",
    "*.lock",
    "*.json",
    "*.log",
    "*.leases",
    "papers",
    "imports",
    "states",
    "metrics",
    "backups",
    "*.beat",
    "*.part",
    "mailbox",
    "outpost",
)
"""What Tarn keeps in its data directory, by name: nothing else there is touched, should somebody share the folder."""


def keep_close(path: Path) -> None:
    """Take from others what they might read of Tarn's own files in a folder, where it is ours to do so.

    The folder itself too, unless there is something in it that is not Tarn's.
    """
    mine = [one for pattern in _OURS for one in path.glob(pattern)]
    inside = [deeper for one in mine if one.is_dir() and not one.is_symlink() for deeper in one.rglob("*")]
    alone = {one.name for one in path.iterdir()} <= {one.name for one in mine}
    for one in [*([path] if alone else []), *mine, *inside]:
        try:
            mode, is_mine = one.lstat().st_mode, one.lstat().st_uid == os.geteuid()
            if is_mine and not one.is_symlink() and mode & 0o077:
                one.chmod(mode & 0o700)
        except FileNotFoundError:
            continue  # a file of SQLite's own that came and went


def keys() -> Path:
    """Return the folder of the keys: TARN_KEYS where they are kept outside the data, else the data directory."""
    outside = os.environ.get("TARN_KEYS")
    if not outside:
        return home()
    path = Path(outside).resolve()
    path.mkdir(parents=True, exist_ok=True, mode=0o700)
    return path


def _kept(name: str, make: "type[Fernet] | None" = None) -> str:
    path = keys() / name
    if not path.exists():
        value = Fernet.generate_key().decode() if make is Fernet else secrets.token_urlsafe(50)
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(value)
    return path.read_text().strip()


def session_key() -> str:
    """Return the key that signs sessions, made at first use."""
    return _kept("session.key")


SECRETS = "secrets.key"


def secrets_keys() -> list[bytes]:
    """Return the keys that open what is sealed, one a line in a file outside the database; the first seals anew."""
    found = [line.encode() for line in _kept(SECRETS, Fernet).split()]
    if not found:
        raise RuntimeError(f"{keys() / SECRETS} holds no key: put the right one there, or restore a backup.")
    return found


def write_secrets_keys(held: list[bytes]) -> None:
    """Put these keys in place of those there are, in one step."""
    path = keys() / SECRETS
    part = path.with_suffix(".part")
    handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "w") as file:
        file.write("\n".join(k.decode() for k in held) + "\n")
        file.flush()
        os.fsync(file.fileno())
    part.replace(path)
