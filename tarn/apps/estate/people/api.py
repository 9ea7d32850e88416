"""People and their devices over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.people import persons as reads

router = Router(tags=["people"])


class PersonRowOut(Schema):
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


class HeldDeviceOut(Schema):
    id: int
    number: str
    name: str | None
    kind: str | None
    place: str | None
    department: str | None


class UsedDeviceOut(HeldDeviceOut):
    theirs: bool


class HeldBeforeOut(Schema):
    id: int
    name: str | None
    since: str
    until: str | None


class TheirSoftwareOut(Schema):
    name: str
    devices: int


class PersonPageOut(Schema):
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


@router.get("/persons", response=list[PersonRowOut])
def people(request: HttpRequest, as_of: str | None = None) -> Any:
    """Return the people of the company with how many devices they hold; those who left and still hold some first."""
    return reads.people(read_dial(as_of))


@router.get("/persons/one", response=PersonPageOut)
def person(request: HttpRequest, name: str, as_of: str | None = None) -> Any:
    """Return one person: what they hold, where they sign in, what they held before."""
    found = reads.person(name, read_dial(as_of))
    if found is None:
        raise HttpError(404, f"Nobody called “{name}” is known, and nobody of that name holds a device.")
    return found
