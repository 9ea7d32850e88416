"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class ChangedOut(TypedDict):
    changed: int


class RenamedOut(TypedDict):
    name: str
    before: str
    after: str
