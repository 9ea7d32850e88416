"""The cross-check over HTTP: thin; parse, call, shape."""

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from tarn.apps.discovery.crosscheck.why_unseen import unseen
from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial
from tarn.apps.estate.register import crosscheck as reads

router = Router(tags=["cross-check"])


class WitnessOut(Schema):
    name: str
    kind: str


class CountedWitness(WitnessOut):
    count: int


class PatternOut(Schema):
    mask: int
    members: list[int]
    count: int


class EstimateOut(Schema):
    known: int
    unseen: float
    low: float
    high: float
    method: str
    refusal: str
    dependent: list[list[str]]


class LabelledEstimate(EstimateOut):
    label: str


class CrossCheckOut(Schema):
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


class UnseenOut(Schema):
    asset: int
    name: str
    kind: str | None
    place: str | None
    known_to: list[WitnessOut]
    unseen_by: list[BlindSpot]


class SaidTwice(Schema):
    asset: int
    first: str
    second: str


class DisagreementOut(Schema):
    field: str
    first: str
    second: str
    count: int
    devices: list[SaidTwice]


@router.get("/crosscheck", response=CrossCheckOut)
def crosscheck(request: HttpRequest, filter: str = "", as_of: str = "") -> Any:
    """Return who sees what of a selection, and how many nobody has seen."""
    return reads.crosscheck(question(filter, read_dial(as_of), standing=None))


@router.get("/crosscheck/devices", response=list[UnseenOut])
def devices(request: HttpRequest, filter: str = "", as_of: str = "", mask: int | None = None) -> Any:
    """Return devices of one combination of sources, or those that some source should see and does not; and why."""
    return unseen(question(filter, read_dial(as_of), standing=None), mask)


@router.get("/crosscheck/disagreements", response=list[DisagreementOut])
def disagreements(request: HttpRequest, filter: str = "") -> Any:
    """Return where two sources say different things, by field and pair."""
    return reads.disagreements(question(filter, None, standing=None))
