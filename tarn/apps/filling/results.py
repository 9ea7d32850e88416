"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class FillRuleOut(TypedDict):
    id: int
    name: str
    filter: str
    fills: str
    reads: str
    formula: str
    pattern: str
    compose: str
    table: dict[str, str]
    when: str
    in_force_at: int | None
    version: int
    filled: int
    stands: str


class FilledAssetOut(TypedDict):
    asset: int
    name: str
    read: str
    before: Any
    value: Any
    outcome: str
    words: Words


class FillRehearsalOut(TypedDict):
    assets: int
    counts: dict[str, int]
    rows: list[FilledAssetOut]
    notes: list[str]


class ForceOut(TypedDict):
    rule: FillRuleOut
    assets: int


class FillableOut(TypedDict):
    name: str
    label: Words
    meaning: Words


class FillChoicesOut(TypedDict):
    """What a rule may fill and read; when, and what can come of it, each in words."""

    fills: list[FillableOut]
    reads: list[FillableOut]
    when: dict[str, Words]
    outcomes: dict[str, Words]
