"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

from ninja import Schema


class RuleIn(Schema):
    name: str
    filter: str
    action: Literal["adopt", "aside"] = "adopt"
    reason: str = ""
    in_force: bool = False
    organisation: int | None = None
