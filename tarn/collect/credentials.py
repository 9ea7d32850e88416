"""Credentials as collectors use them: opened, in memory, never printed."""

from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True)
class SnmpCredential:
    """SNMP v2c (a community) or v3 (USM: user, authentication and privacy)."""

    name: str
    version: str
    community: str = field(default="", repr=False)
    user: str = ""
    auth: str = "sha256"
    auth_secret: str = field(default="", repr=False)
    privacy: str = "aes128"
    privacy_secret: str = field(default="", repr=False)
    port: int = 161
    timeout: float = 2.0


@dataclass(frozen=True, slots=True)
class SshCredential:
    """SSH with a password or a private key (with its passphrase, if it has one)."""

    name: str
    user: str
    password: str = field(default="", repr=False)
    key: str = field(default="", repr=False)
    passphrase: str = field(default="", repr=False)
    port: int = 22
    timeout: float = 8.0


Credential = SnmpCredential | SshCredential
