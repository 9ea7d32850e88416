"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Any, Literal

from ninja import Schema


class WatchIn(Schema):
    name: str
    report: str
    rule: str
    condition: str = "new"
    number: int = 0
    to: list[str]
    attach: str = ""
    quiet: str = ""
    on: bool = True
    insists: bool = False
    gathered: bool = False
    version: int | None = None
    organisation: int | None = None


class ReportIn(Schema):
    name: str
    text: str = ""
    room: str = "Estate"
    access: Literal["all", "read", "own"] = "all"
    definition: dict[str, Any]
    version: int | None = None
    organisation: int | None = None
