"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class NetworkIn(Schema):
    range: str
    name: str
    place: str = ""
    never_probe: bool = False
    outside: bool = False
    at_once: int = 256
    pause_ms: int = 0
    quiet: str = ""
    quiet_minutes: int = 0
    organisation: int | None = None
