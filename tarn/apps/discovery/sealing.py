"""Secrets at rest: encrypted with a key kept outside the database."""

import json
from typing import Any

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings

from tarn.apps.discovery.models import Credential
from tarn.collect.credentials import (
    CloudCredential,
    HttpCredential,
    LdapCredential,
    SnmpCredential,
    SshCredential,
    WinrmCredential,
)
from tarn.collect.credentials import Credential as Opened


class SealBroken(RuntimeError):
    """A secret that this Tarn's key does not open: the key file was lost or exchanged."""


def seal(secrets: dict[str, str]) -> bytes:
    """Encrypt a credential's secrets."""
    return Fernet(settings.TARN_SECRETS_KEY).encrypt(json.dumps(secrets).encode())


def unseal(sealed: bytes, name: str) -> dict[str, str]:
    """Return secrets that were sealed; `name` says whose. Raises SealBroken."""
    try:
        opened = Fernet(settings.TARN_SECRETS_KEY).decrypt(sealed)
    except InvalidToken:
        raise SealBroken(
            f"The secret of “{name}” cannot be opened with this installation's key; enter it anew."
        ) from None
    return dict(json.loads(opened))


def opened(credential: Credential) -> Opened:
    """Return a credential as collectors use it. Raises SealBroken."""
    secrets = unseal(bytes(credential.sealed), credential.name)
    common: dict[str, Any] = {"port": credential.port, "timeout": credential.timeout}
    if credential.protocol == "ssh":
        return SshCredential(credential.name, credential.user, **secrets, **common)
    if credential.protocol == "http":
        return HttpCredential(credential.name, credential.auth, credential.user, secrets.get("password", ""), **common)
    if credential.protocol == "cloud":
        return CloudCredential(credential.name, credential.user, secrets.get("password", ""), **common)
    if credential.protocol in ("winrm", "ldap"):
        common |= {"plain": credential.plain, "verify": credential.verify, "password": secrets.get("password", "")}
        if credential.protocol == "ldap":
            return LdapCredential(credential.name, credential.user, **common)
        return WinrmCredential(credential.name, credential.user, manner=credential.auth, **common)
    return SnmpCredential(
        credential.name,
        credential.protocol.removeprefix("snmp-"),
        community=secrets.get("community", ""),
        user=credential.user,
        auth=credential.auth or "sha256",
        auth_secret=secrets.get("auth", ""),
        privacy=credential.privacy or "aes128",
        privacy_secret=secrets.get("privacy", ""),
        **common,
    )
