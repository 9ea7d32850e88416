"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.estate.register.results import NamedDevice


class PersonFacts(TypedDict):
    """What is known of a person whatever they hold."""

    name: str
    department: str
    title: str
    email: str
    account: str
    sources: list[str]
    joined_at: str | None
    left_at: str | None


class PersonRowOut(PersonFacts):
    holds: int
    signed_in: int
    filter: str


class UsedDeviceOut(NamedDevice):
    theirs: bool


class HeldBeforeOut(TypedDict):
    id: int
    name: str | None
    since: str
    until: str | None


class TheirSoftwareOut(TypedDict):
    name: str
    devices: int


class PersonPageOut(PersonFacts):
    groups: list[str]
    filter: str
    held: list[NamedDevice]
    used: list[UsedDeviceOut]
    before: list[HeldBeforeOut]
    software: list[TheirSoftwareOut]
