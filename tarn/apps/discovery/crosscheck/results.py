"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict


class WitnessOut(TypedDict):
    name: str
    kind: str


class CountedWitness(WitnessOut):
    count: int


class PatternOut(TypedDict):
    mask: int
    members: list[int]
    count: int


class EstimateOut(TypedDict):
    known: int
    unseen: float
    low: float
    high: float
    method: str
    refusal: str
    dependent: list[list[str]]


class LabelledEstimate(EstimateOut):
    label: str


class CrossCheckOut(TypedDict):
    total: int
    sources: list[CountedWitness]
    patterns: list[PatternOut]
    estimate: EstimateOut
    by_kind: list[LabelledEstimate]
    by_place: list[LabelledEstimate]


class BlindSpot(WitnessOut):
    reason: str
    remedy: str
    where: str


class UnseenOut(TypedDict):
    asset: int
    name: str
    kind: str | None
    place: str | None
    known_to: list[WitnessOut]
    unseen_by: list[BlindSpot]


class SaidTwice(TypedDict):
    asset: int
    first: str
    second: str


class DisagreementOut(TypedDict):
    field: str
    first: str
    second: str
    count: int
    devices: list[SaidTwice]
