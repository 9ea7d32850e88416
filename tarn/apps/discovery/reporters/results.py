"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class EnrolOut(TypedDict):
    id: int
    name: str
    made_at: int
    withdrawn: bool
    reporters: int
    last_seen: int | None


class ScriptsOut(TypedDict):
    id: int
    name: str
    posix: str
    powershell: str


class ReportedOut(TypedDict):
    asset: str
    host: str
    again: bool
    unread: list[str]
