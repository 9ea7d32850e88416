"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any, Literal

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class SyncOut(TypedDict):
    id: int
    state: str
    made_at: int
    ended_at: int | None
    since: int | None
    counts: dict[str, int]
    faults: list[dict[str, str]]
    message: Words
    loss: dict[str, int] | None
    asked_by: str | None


class SourceOut(TypedDict):
    id: int
    name: str
    kind: str
    settings: dict[str, Any]
    take: list[str]
    credential: int | None
    route: str
    schedule: str
    schedule_words: Words
    next_at: int | None
    gone: str
    gone_days: int
    loss_share: int
    organisation: int | None
    version: int
    devices: int
    missing: int
    last_sync: SyncOut | None


class SourcePage(TypedDict):
    source: SourceOut
    syncs: list[SyncOut]


class SampleRow(TypedDict):
    key: str
    label: Words
    facts: dict[str, Any]


class FaultOut(TypedDict):
    says: Words
    count: int


class TestOut(TypedDict):
    found: int
    took_ms: int
    problem: Words
    remedy: Words
    faults: list[FaultOut]
    sample: list[SampleRow]


class PickOut(TypedDict):
    names: int
    addresses: list[str]
    unknown: list[str]


class TargetOut(TypedDict):
    name: str
    label: Words
    type: str
    section: str


class SettingOut(TypedDict):
    name: str
    label: Words
    type: Literal["text", "number", "choice"]
    needed: Words
    usual: str | int
    options: list[str]
    least: int
    most: int


class SourceKindOut(TypedDict):
    name: str
    text: Words
    protocol: str
    must: Words
    mapped: bool
    about: bool
    form: list[SettingOut]
    prepared: dict[str, dict[str, Any]]


class ChoicesOut(TypedDict):
    kinds: list[SourceKindOut]
    targets: list[TargetOut]
    units: list[str]
