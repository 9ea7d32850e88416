"""Where Tarn keeps its data, and the keys it makes for itself there."""

import os
import secrets
from pathlib import Path

from cryptography.fernet import Fernet


def home() -> Path:
    """Return the data directory (TARN_HOME, default `var/`), made if missing."""
    path = Path(os.environ.get("TARN_HOME", "var")).resolve()
    path.mkdir(parents=True, exist_ok=True)
    return path


def _kept(name: str, make: "type[Fernet] | None" = None) -> str:
    path = home() / name
    if not path.exists():
        value = Fernet.generate_key().decode() if make is Fernet else secrets.token_urlsafe(50)
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(value)
    return path.read_text().strip()


def session_key() -> str:
    """Return the key that signs sessions, made at first use."""
    return _kept("session.key")


def secrets_key() -> bytes:
    """Return the key that encrypts credentials, made at first use and kept outside the database."""
    return _kept("secrets.key", Fernet).encode()
