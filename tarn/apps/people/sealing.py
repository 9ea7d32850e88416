"""Secrets at rest: encrypted with a key kept outside the database."""

import json

from cryptography.fernet import Fernet, InvalidToken, MultiFernet
from django.conf import settings


class SealBroken(RuntimeError):
    """A secret that this Tarn's key does not open: the key file was lost or exchanged."""


def _box() -> MultiFernet:
    return MultiFernet([Fernet(k) for k in settings.TARN_SECRETS_KEYS])


def seal(secrets: dict[str, str]) -> bytes:
    """Encrypt a credential's secrets."""
    return _box().encrypt(json.dumps(secrets).encode())


def unseal(sealed: bytes, name: str) -> dict[str, str]:
    """Return secrets that were sealed; `name` says whose. Raises SealBroken."""
    try:
        opened = _box().decrypt(sealed)
    except InvalidToken:
        raise SealBroken(
            f"The secret of “{name}” cannot be opened with this installation's key; enter it anew."
        ) from None
    return dict(json.loads(opened))


def reseal(sealed: bytes, name: str) -> bytes:
    """Return secrets sealed anew with the first key there is. Raises SealBroken."""
    return seal(unseal(sealed, name))
