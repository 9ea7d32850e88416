"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.discovery.networks.results import NetworkOut
from tarn.apps.people.speaking import Words


class StageOut(TypedDict):
    name: str
    past: int
    inside: int
    total: int


class RunOut(TypedDict):
    id: int
    sweep: int
    name: str
    route: str
    state: str
    wish: str
    asked_by: str | None
    made_at: int
    started_at: int | None
    ended_at: int | None
    total: int
    done: int
    seconds: int
    rate: float
    remaining_seconds: int | None
    outcomes: dict[str, int]
    stages: list[StageOut]
    message: Words
    tick: int


class SweepOut(TypedDict):
    id: int
    name: str
    ranges: list[str]
    exclusions: list[str]
    protocols: list[str]
    credentials: list[int]
    route: str
    at_once: int
    patience: float
    schedule: str
    schedule_words: Words
    next_at: int | None
    minutes: int | None
    organisation: int | None
    version: int
    last_run: RunOut | None


class RangesOut(TypedDict):
    probe: int
    left_out: int
    first: str
    last: str


class CollectorOut(TypedDict):
    collector: str
    ran: bool
    why: Words
    took_ms: int
    sections: int


class OffersOut(TypedDict):
    address: str
    run: int
    sweep: str
    outpost: str
    at: int | None
    offers: list[CollectorOut]


class AddressOut(TypedDict):
    address: str
    stage: int
    outcome: str
    code: str
    reason: Words
    remedy: Words
    credential: str
    outpost: str
    taken_for: str
    ports: list[int]
    asset_id: int | None
    took_ms: int | None


class ReasonOut(TypedDict):
    code: str
    reason: Words
    remedy: Words
    count: int
    addresses: list[str]
    credential: int | None


class ComparedOut(TypedDict):
    run: int
    ended_at: int | None
    changes: dict[str, list[str]]


class RunPage(TypedDict):
    run: RunOut
    addresses: list[AddressOut]
    networks: list[NetworkOut]
    reasons: list[ReasonOut]
    compared: ComparedOut | None
