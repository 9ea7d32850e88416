"""What reads of grades, promises and ends of support return and the API hands on."""

from typing import Any

from typing_extensions import TypedDict

from tarn.apps.exposure.results import DevicesOut
from tarn.apps.people.speaking import Words


class KeptRow(TypedDict):
    """How promises of a grade fared: findings ended in time (`kept`) and late (`broken`), in how many days half of them
    ended, and on how many devices some are open past their promise and within it."""

    grade: str
    promised: int | None
    kept: int
    broken: int
    half_days: float | None
    open_late: DevicesOut
    open_in_time: DevicesOut


class KeptPromises(TypedDict):
    """Promises since a moment, by grade."""

    since: str
    rows: list[KeptRow]


class EndedFinding(TypedDict):
    """A finding that ended: since when and until when, by when it was promised, and how it ended."""

    asset: int
    device: str
    advisory: str
    own: bool
    since: str
    until: str
    due: str | None
    days: float
    how: Words


class GradeQuestion(TypedDict):
    """A question of the tree: its name, what it asks, and its answers."""

    name: str
    asks: Words
    answers: list[Words]


class PolicyOut(TypedDict):
    """How findings are graded and promised: the tree as data; `made_by` nobody where it is as it ships."""

    version: int
    tree: dict[str, Any] | str
    days: dict[str, int | None]
    working: bool
    holidays: list[str]
    questions: list[GradeQuestion]
    grades: list[str]
    made_by: str
    made_at: str | None
    shipped: dict[str, Any] | str


class MovedGrade(TypedDict):
    """How many findings would move from a grade to another."""

    before: str
    after: str
    findings: int


class PolicyRehearsed(TypedDict):
    """What is open, by grade, as it is and as it would be; what moves, and how many are past their promise."""

    before: dict[str, int]
    after: dict[str, int]
    moved: list[MovedGrade]
    late_before: int
    late_after: int
