"""What people say when they make or change a feed; the API reads it, actions take it."""

from typing import Any

from ninja import Schema


class FeedIn(Schema):
    name: str
    kind: str
    settings: dict[str, Any] = {}
    route: str = "direct"
    schedule: str = ""
    loss_share: int = 20
    version: int = 0
