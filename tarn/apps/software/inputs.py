"""What people say when they make or change something here; the API reads it, actions take it."""

from typing import Literal

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


class SoftwareRulingIn(Schema):
    names: list[str]
    subject: Literal["product", "publisher", "phrase"] = "product"
    verdict: Literal["permitted", "tolerated", "barred", "none yet"]
    low: str = ""
    high: str = ""
    department: str = ""
    until: int | None = None
    review_at: int | None = None
    why: str = ""
    organisation: int | None = None
