"""Credentials as collectors use them, their secrets opened."""

from typing import Any

from tarn.apps.discovery.models import Credential
from tarn.apps.people.sealing import unseal
from tarn.collect.credentials import (
    CloudCredential,
    HttpCredential,
    LdapCredential,
    SnmpCredential,
    SshCredential,
    WinrmCredential,
)
from tarn.collect.credentials import Credential as Opened


def opened(credential: Credential) -> Opened:
    """Return a credential as collectors use it. Raises SealBroken."""
    secrets = unseal(bytes(credential.sealed), credential.name)
    common: dict[str, Any] = {
        "port": credential.port,
        "timeout": credential.timeout,
        "reach": tuple(credential.reach),
    }
    if credential.protocol == "ssh":
        return SshCredential(credential.name, credential.user, **{**common, **secrets})
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
