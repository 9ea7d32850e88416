"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class SweepIn(Schema):
    name: str
    ranges: list[str]
    exclusions: list[str] = []
    protocols: list[str] = ["snmp", "ssh", "winrm", "tls"]
    credentials: list[int] = []
    route: str = "direct"
    at_once: int = 256
    patience: float = 1.5
    schedule: str = ""
    minutes: int | None = None
    organisation: int | None = None
    version: int = 0
