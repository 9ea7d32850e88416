"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class FillRuleIn(Schema):
    name: str = ""
    filter: str = ""
    fills: str = ""
    reads: str = ""
    formula: str = ""
    pattern: str = ""
    compose: str = ""
    table: dict[str, str] = {}
    when: str = "always"
    version: int = 0


class RehearseIn(FillRuleIn):
    number: int | None = None
    on: str = ""
