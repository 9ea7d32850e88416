"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class NamedDevice(TypedDict):
    """An asset by what people know it by."""

    id: int
    number: str
    name: str | None
    kind: str | None
    place: str | None
    department: str | None


class PastedOut(TypedDict):
    """`numbers`: asset numbers in the order given, each once; `missing`: words no device is known by; `several`: by
    word the numbers of the devices that share it, all of which are taken."""

    numbers: list[str]
    missing: list[str]
    several: dict[str, list[str]]


class NumberOut(TypedDict):
    id: int
    number: str


class AskOut(TypedDict):
    total: int
    of: int
    sentence: Words
    as_of: str | None
    rows: list[dict[str, Any]]


class PartOut(TypedDict):
    label: Words
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
    reasons: list[Words]


class ChangeOut(TypedDict):
    at: str
    section: str
    thing: str
    verb: str
    before: str | None
    after: str | None


class ClaimOut(TypedDict):
    """One source's word on a field: since when it says so, and when it last did."""

    source_kind: str
    source: str
    value: str | int | float | bool | None
    since: str
    confirmed: str
    believed: bool
    agrees: bool


class FieldClaims(TypedDict):
    """All that is said of a field, the one believed first, and why it is."""

    why: Words
    said: list[ClaimOut]


class InstalledOut(TypedDict):
    name: str
    publisher: str
    version: str
    since: str
    since_first_reading: bool
    source_kinds: list[str]


class ReadingOut(TypedDict):
    section: str
    collector: str
    complete: bool
    note: Words
    took_ms: int | None


class SightingOut(TypedDict):
    document: str
    source_kind: str
    source: str
    at: str
    address: str | None
    verdict: str
    reasons: list[Words]
    clock_skew: int | None
    readings: list[ReadingOut]


class RibbonDay(TypedDict):
    """A day's number of changes by what they touched."""

    day: str
    software: int
    hardware: int
    facts: int


Plate = dict[str, Any]
"""An asset's own fields by their names, and its `id`; the names are those of the registry of fields."""


class PeekOut(TypedDict):
    plate: Plate
    claims: dict[str, FieldClaims]
    ribbon: list[RibbonDay]
    until: str


class WaitingDevice(TypedDict):
    """A found device, with the guess at its kind, how sure that is in percent, and why."""

    id: int
    name: str | None
    number: str
    kind: str | None
    manufacturer: str | None
    model: str | None
    serial: str | None
    place: str | None
    address: str | None
    mac: str | None
    first_seen: str
    last_seen: str
    aside_reason: Words | None
    guess: str
    sure: int
    reasons: list[Words]


class UndecidedOut(TypedDict):
    """A sighting whose asset a person must decide: what it says of itself, and whose it may be."""

    document: str
    source_kind: str
    source: str
    address: str | None
    at: str
    reasons: list[Words]
    says: dict[str, Any]
    candidates: list[Plate]


class DossierOut(TypedDict):
    plate: Plate
    claims: dict[str, FieldClaims]
    items: dict[str, list[dict[str, Any]]]
    software: list[InstalledOut]
    sightings: list[SightingOut]
    guess: str
    sure: int
    guess_reasons: list[Words]
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
    method: Words
    refusal: Words
    dependent: list[list[str]]


class LabelledEstimate(EstimateOut):
    label: Words


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
