"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict


class HookOut(Schema):
    id: int
    name: str
    made_at: int
    used_at: int | None


class MadeOut(TypedDict):
    id: int
    name: str
    url: str
    secret: str


class HookTakenOut(TypedDict):
    verdict: str
    asset: int | None
