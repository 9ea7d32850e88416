"""What reads of exposure return and the API hands on."""

from typing_extensions import TypedDict


class FindingOut(TypedDict):
    """A device open to an advisory: by which release, since when, until when (null while it is), and why."""

    device: str
    advisory: str
    aliases: list[str]
    product: str
    release: str
    status: str
    since: str
    until: str | None
    score: float | None
    exploited: bool
    grade: str
    because: str
