"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class PersonRowOut(TypedDict):
    name: str
    department: str
    title: str
    email: str
    account: str
    sources: list[str]
    joined_at: str | None
    left_at: str | None
    holds: int
    signed_in: int
    filter: str


class HeldDeviceOut(TypedDict):
    id: int
    number: str
    name: str | None
    kind: str | None
    place: str | None
    department: str | None


class UsedDeviceOut(HeldDeviceOut):
    theirs: bool


class HeldBeforeOut(TypedDict):
    id: int
    name: str | None
    since: str
    until: str | None


class TheirSoftwareOut(TypedDict):
    name: str
    devices: int


class PersonPageOut(TypedDict):
    name: str
    department: str
    title: str
    email: str
    account: str
    groups: list[str]
    sources: list[str]
    joined_at: str | None
    left_at: str | None
    filter: str
    held: list[HeldDeviceOut]
    used: list[UsedDeviceOut]
    before: list[HeldBeforeOut]
    software: list[TheirSoftwareOut]
