"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class OutpostOut(TypedDict):
    id: int
    name: str
    networks: list[int]
    ranges: list[str]
    state: str
    says: Words
    made_at: int
    last_seen: int | None
    release: str
    skew: float
    kept: int
    at_work: int
    handed: int


class JoinOut(TypedDict):
    id: int
    name: str
    command: str
