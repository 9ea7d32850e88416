"""What people say when they make or change something here; the API reads it, actions take it."""

from ninja import Schema


class ConditionIn(Schema):
    name: str = ""
    filter: str


class BaselineIn(Schema):
    name: str
    filter: str = ""
    rules: list[ConditionIn]
    version: int | None = None
    organisation: int | None = None
