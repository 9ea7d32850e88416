"""What is told here: the reads return it, the API hands it on as it is."""

from typing_extensions import TypedDict

from tarn.apps.people.speaking import Words


class RefusedOut(TypedDict):
    row: int
    why: Words
    cells: dict[str, str]


class ImportOut(TypedDict):
    id: int
    name: str
    file_name: str
    format: str
    encoding: str
    heading: int
    written: dict[str, str]
    headings: list[str]
    first: list[dict[str, str]]
    mapping: dict[str, dict[str, str]]
    state: str
    counts: dict[str, int]
    progress: int
    total: int
    made_at: int


class RehearsedRow(TypedDict):
    row: int
    what: Words
    asset: int | None
    why: Words


class QuestionOut(TypedDict):
    name: str
    asks: str
    choices: dict[str, str]


class RehearsalOut(TypedDict):
    counts: dict[str, int]
    rows: list[RehearsedRow]
    refused: list[RefusedOut]
    questions: list[QuestionOut]
