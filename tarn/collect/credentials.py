"""Credentials as collectors use them: opened, in memory, never printed, each with where it may be used."""

from dataclasses import dataclass, field

from tarn.collect.problems import Problem
from tarn.core.reach import read_reach

Places = tuple[str, ...] | None
"""Where a credential may be used, as `core.reach` writes it; None for one that was typed for the errand at hand."""


@dataclass(frozen=True, slots=True)
class SnmpCredential:
    """SNMP v1 or v2c (a community) or v3 (USM: user, authentication and privacy)."""

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
    reach: Places = None


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
    reach: Places = None


@dataclass(frozen=True, slots=True)
class WinrmCredential:
    """WinRM (WS-Management, DMTF DSP0226) by `manner` ntlm, basic or kerberos; over TLS unless `plain`.

    `user` may carry its domain as DOMAIN\\user or user@domain. `verify`: whether the server's certificate
    must be one that this machine's authorities signed.
    """

    name: str
    user: str
    password: str = field(default="", repr=False)
    manner: str = "ntlm"
    plain: bool = False
    verify: bool = False
    port: int = 5986
    timeout: float = 15.0
    reach: Places = None


@dataclass(frozen=True, slots=True)
class LdapCredential:
    """A simple bind (RFC 4513, 5.1.3) as `user`, a distinguished name or user@domain; TLS unless `plain`."""

    name: str
    user: str
    password: str = field(default="", repr=False)
    plain: bool = False
    verify: bool = False
    port: int = 636
    timeout: float = 10.0
    reach: Places = None


@dataclass(frozen=True, slots=True)
class HttpCredential:
    """HTTP by `manner`: basic or bearer (RFC 7617, RFC 6750), or `header`: the secret in the header named `user`."""

    name: str
    manner: str = "basic"
    user: str = ""
    secret: str = field(default="", repr=False)
    port: int = 443
    timeout: float = 15.0
    reach: Places = None


@dataclass(frozen=True, slots=True)
class CloudCredential:
    """A key pair of a cloud account: `user` its public id, `secret` the key requests are signed with."""

    name: str
    user: str
    secret: str = field(default="", repr=False)
    port: int = 443
    timeout: float = 15.0
    reach: Places = None


Credential = SnmpCredential | SshCredential | WinrmCredential | LdapCredential | HttpCredential | CloudCredential


def account(credential: Credential) -> str:
    """Return the directory account a credential signs in with, or "" where a refusal can lock none.

    Only an account with a domain is one that many computers share and count refusals for.
    """
    user = getattr(credential, "user", "")
    shared = isinstance(credential, WinrmCredential | LdapCredential) and ("\\" in user or "@" in user or "=" in user)
    return user.lower() if shared else ""


def exposed(credential: Credential) -> int:
    """Return how much of a secret a device learns that takes the sign-in: 0 nothing, 1 something to work on, 2 all.

    A key signs and is not shown (RFC 4252, 7); Kerberos and NTLM send answers made from the password; a password in
    SSH, WinRM's basic and a community are shown to whoever answers.
    """
    if isinstance(credential, SshCredential):
        return 0 if credential.key and not credential.password else 2
    if isinstance(credential, WinrmCredential):
        return {"kerberos": 0, "ntlm": 1}.get(credential.manner, 2)
    return 1 if isinstance(credential, SnmpCredential) and credential.version == "v3" else 2


def reaches(credential: Credential, host: str) -> bool:
    """Whether a credential may be used at an address, or at a host that is asked for under a name."""
    return credential.reach is None or read_reach(credential.reach).holds(host)


def keep_to_reach(credential: Credential, host: str) -> None:
    """Stop before anything of a credential is sent where it may not be used. Raises Problem."""
    if not reaches(credential, host):
        raise Problem("out-of-reach", credential=credential.name, host=host)


def keep_out_of_clear(credential: Credential, host: str) -> None:
    """Stop before a secret goes in clear text, unless the hosts that get it so are named one by one. Raises Problem."""
    if credential.reach is not None and read_reach(credential.reach).wide:
        raise Problem("in-clear", credential=credential.name, host=host)
