"""What is told here: the reads return it, the API hands it on as it is."""

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.estate.register.results import UndecidedOut, WaitingDevice
from tarn.apps.people.speaking import Words


class RuleOut(Schema):
    id: int
    name: str
    filter: str
    action: str
    reason: Words
    in_force: bool
    decided: int


class IntakeRehearsedOut(TypedDict):
    count: int
    first: list[str]


class WaitingOut(TypedDict):
    waiting: int


class IntakeGroupOut(TypedDict):
    """Found devices that look alike; `sure` of the one least sure, `first_seen` of the one first seen."""

    kind: str
    manufacturer: str
    model: str
    place: str
    sure: int
    first_seen: str
    devices: list[WaitingDevice]


class IntakeOut(TypedDict):
    groups: list[IntakeGroupOut]
    total: int
    shown: int
    undecided: list[UndecidedOut]
