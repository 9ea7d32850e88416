"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from ninja import Schema
from typing_extensions import TypedDict


class NamedDevice(TypedDict):
    """An asset by what people know it by."""

    id: int
    number: str
    name: str | None
    kind: str | None
    place: str | None
    department: str | None


class PastedOut(Schema):
    numbers: list[str]
    missing: list[str]
    several: dict[str, list[str]]


class NumberOut(TypedDict):
    id: int
    number: str


class AskOut(TypedDict):
    total: int
    of: int
    sentence: str
    as_of: str | None
    rows: list[dict[str, Any]]


class PartOut(TypedDict):
    label: str
    count: int
    filter: str
    held: bool


class BandOut(TypedDict):
    name: str
    parts: list[PartOut]


class DecisionOut(TypedDict):
    assets: int
    entry: int


class TakenOut(TypedDict):
    document: str
    verdict: str
    asset: int | None
    reasons: list[str]


class ChangeOut(TypedDict):
    at: str
    section: str
    thing: str
    verb: str
    before: str | None
    after: str | None


class DossierOut(TypedDict):
    plate: dict[str, Any]
    claims: dict[str, list[dict[str, Any]]]
    items: dict[str, list[dict[str, Any]]]
    software: list[dict[str, Any]]
    sightings: list[dict[str, Any]]
    guess: str
    sure: int
    guess_reasons: list[str]
    began: str
    as_of: str | None


class MovedOut(TypedDict):
    asset: int
    entry: int


class EnteredOut(TypedDict):
    asset: int


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


class Estimates(TypedDict):
    estimate: EstimateOut
    by_kind: list[LabelledEstimate]
    by_place: list[LabelledEstimate]


class CrossCheckOut(Estimates):
    total: int
    sources: list[CountedWitness]
    patterns: list[PatternOut]


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
