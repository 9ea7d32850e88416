"""What is told here: the reads return it, the API hands it on as it is."""

from typing import Any

from ninja import Schema
from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class StatementOut(TypedDict):
    columns: list[str]
    rows: list[list[Any]]
    cut: bool
    seconds: float


class ReportRow(TypedDict):
    key: str
    name: Words
    room: str
    text: Words
    ships: bool
    row: str
    made_by: str
    access: str


class ColumnOut(TypedDict):
    name: str
    label: Words
    type: str


class RowKindOut(TypedDict):
    name: str
    one: Words
    over_days: bool
    filtered: bool
    columns: list[ColumnOut]


class WatchConditionOut(Schema):
    key: str
    sentence: Words
    number: str


class LineOut(TypedDict):
    kind: str
    values: list[Any]
    keys: list[Any]
    said: Words
    rows: int
    id: int | None
    details: list[list[list[Any]]]


class BlockOut(TypedDict):
    label: Words
    columns: list[ColumnOut]


class ReportOut(ReportRow):
    definition: dict[str, Any]
    version: int
    sentence: Words
    columns: list[ColumnOut]
    blocks: list[BlockOut]
    lines: list[LineOut]
    cut: bool


class PreviewOut(TypedDict):
    sentence: Words
    columns: list[ColumnOut]
    blocks: list[BlockOut]
    lines: list[LineOut]
    cut: bool


class KeyOut(TypedDict):
    key: str


class LetterOut(TypedDict):
    id: int
    made_at: int
    due_at: int
    sent_at: int | None
    subject: str
    to: list[str]
    acknowledged_by: str
    tries: int
    trouble: Words


class MailOut(TypedDict):
    id: str
    sender: str
    to: str
    at: str
    subject: str
    text: str
    attached: list[str]
