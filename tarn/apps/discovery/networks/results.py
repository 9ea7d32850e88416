"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class NetworkOut(TypedDict):
    id: int
    range: str
    name: str
    place: str
    never_probe: bool
    outside: bool
    at_once: int
    pause_ms: int
    outposts: list[str]
    organisation: int | None
    quiet: str
    quiet_words: str
    quiet_minutes: int
