"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class CredentialIn(Schema):
    name: str
    protocol: Literal["snmp-v1", "snmp-v2c", "snmp-v3", "ssh", "winrm", "ldap", "http", "cloud"]
    port: int | None = None
    timeout: float | None = None
    user: str = ""
    auth: str = ""
    privacy: str = ""
    preference: int = 100
    plain: bool = False
    verify: bool = False
    places: list[str] = []
    reach: list[str] = []
    outposts: list[int] = []
    acts: bool = False
    known_to_all: bool = False
    organisation: int | None = None
    secrets: dict[str, str] = {}
    version: int = 0
