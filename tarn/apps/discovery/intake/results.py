"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict


class RuleOut(Schema):
    id: int
    name: str
    filter: str
    action: str
    reason: str
    in_force: bool
    decided: int


class IntakeRehearsedOut(TypedDict):
    count: int
    first: list[str]


class WaitingOut(TypedDict):
    waiting: int
