"""Secrets at rest: encrypted with a key kept outside the database."""

import json

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings

from tarn.apps.discovery.models import Credential
from tarn.collect.credentials import Credential as Opened
from tarn.collect.credentials import SnmpCredential, SshCredential


class SealBroken(RuntimeError):
    """A secret that this Tarn's key does not open: the key file was lost or exchanged."""


def seal(secrets: dict[str, str]) -> bytes:
    """Encrypt a credential's secrets."""
    return Fernet(settings.TARN_SECRETS_KEY).encrypt(json.dumps(secrets).encode())


def _secrets(credential: Credential) -> dict[str, str]:
    try:
        opened = Fernet(settings.TARN_SECRETS_KEY).decrypt(bytes(credential.sealed))
    except InvalidToken:
        raise SealBroken(
            f"The secret of “{credential.name}” cannot be opened with this installation's key; enter it anew."
        ) from None
    return dict(json.loads(opened))


def opened(credential: Credential) -> Opened:
    """Return a credential as collectors use it. Raises SealBroken."""
    secrets = _secrets(credential)
    if credential.protocol == "ssh":
        return SshCredential(
            credential.name,
            credential.user,
            secrets.get("password", ""),
            secrets.get("key", ""),
            secrets.get("passphrase", ""),
            credential.port,
            credential.timeout,
        )
    return SnmpCredential(
        credential.name,
        "v3" if credential.protocol == "snmp-v3" else "v2c",
        community=secrets.get("community", ""),
        user=credential.user,
        auth=credential.auth or "sha256",
        auth_secret=secrets.get("auth", ""),
        privacy=credential.privacy or "aes128",
        privacy_secret=secrets.get("privacy", ""),
        port=credential.port,
        timeout=credential.timeout,
    )
