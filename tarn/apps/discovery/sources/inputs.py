"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Any

from ninja import Schema


class SourceIn(Schema):
    name: str
    kind: str
    settings: dict[str, Any] = {}
    take: list[str] = []
    credential: int | None = None
    route: str = "direct"
    schedule: str = ""
    gone: str = "keep"
    gone_days: int = 30
    loss_share: int = 20
    organisation: int | None = None
    version: int = 0
