"""What is told of stock-takings: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words
from tarn.core.counting import State


class SampleOut(TypedDict):
    """`of`: how many were drawn from; `at_most`: how many of those are missing at most, as far as it is known."""

    confidence: float
    tolerance: float
    of: int
    drawn: int
    at_most: int | None
    words: Words


class PlanOut(TypedDict):
    total: int
    drawn: int
    places: list["PlanPlace"]


class PlanPlace(TypedDict):
    place: str
    number: int


class TakingPlace(TypedDict):
    """A place of a count: who counts it, and what it says of those expected there."""

    place: str
    counter: str
    expected: int
    found: int
    elsewhere: int
    missing: int


TakingFigures = TypedDict(
    "TakingFigures", {"found": int, "elsewhere": int, "missing": int, "not expected": int, "unknown": int}
)
"""How many lines of each state."""


class TakingOut(TypedDict):
    id: int
    number: str
    name: str
    filter: str
    state: str
    made_by: str
    made_at: str
    ended_by: str
    ended_at: str | None
    organisation: str | None
    expected: int
    figures: TakingFigures
    sample: SampleOut | None
    version: int


class TakingWhole(TakingOut):
    places: list[TakingPlace]
    counters: list[str]
    unsettled: int


class TakingLine(TypedDict):
    """A line of a count. `expected` and `met` are the numbers it is settled by; `asset`: the device as it is now;
    `heard`: when anything heard of it last, and by which port; `beside`: what is odd about it."""

    state: State
    expected: int | None
    met: int | None
    asset: int | None
    number: str
    name: str
    kind: str
    model: str
    serial: str
    person: str
    place: str
    met_at: str | None
    met_place: str
    met_by: str
    code: str
    note: str
    times: int
    papers: int
    heard: str | None
    port: str
    standing: str
    settled: str
    beside: list[Words]


class TakingLines(TypedDict):
    total: int
    lines: list[TakingLine]


class TakingMet(TypedDict):
    """What came of something met. `trouble`: why it was not noted."""

    key: str
    id: int | None
    state: State | None
    number: str
    name: str
    place: str
    trouble: Words
    beside: list[Words]


class PackDevice(TypedDict):
    """A device as a phone without signal knows it: by its number, name, serial number and the codes of its labels."""

    number: str
    name: str
    kind: str
    model: str
    serial: str
    place: str
    heard: str | None
    codes: list[str]
    met: bool


class TakingPack(TypedDict):
    id: int
    number: str
    name: str
    state: str
    places: list[str]
    counters: dict[str, str]
    devices: list[PackDevice]
