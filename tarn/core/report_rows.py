"""What a row of a report may be, beside a device and the items of its lists: each declared by the room that has it."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from tarn.core.declared import Declared
from tarn.core.fields import GROUPS, RECKONED


@dataclass(frozen=True, slots=True)
class RowsAsked:
    """What rows are asked for: `filter` the report's own, `question` the same made ready, as of `at`; of the last
    `days` where they are found over some; `names`: the columns wanted."""

    filter: str
    question: Any
    at: int | None
    days: int
    names: list[str]


@dataclass(frozen=True, slots=True)
class ReportRow:
    """Rows that are reckoned rather than listed. `one` says what one is; `columns`: label and type by name; `rows`
    gives them, `id` being the device a row is of, or None.

    `known_by`: what a row is of, so that it is known again though what is told of it changes: a notice is of an end so
    many days before it, whatever its contract is called. `filtered`: a filter of devices narrows them; else a condition
    on the row does. `company_wide`: they are the whole company's, whichever branch is looked at. `over_days`: they are
    found over some days, and have their device's columns too.
    """

    name: str
    one: str
    columns: dict[str, tuple[str, str]]
    known_by: tuple[str, ...]
    rows: Callable[[RowsAsked], Iterable[dict[str, Any]]]
    filtered: bool = True
    company_wide: bool = False
    over_days: bool = False


_rows = Declared("ROWS")
_declared: dict[str, ReportRow] = {}


def rows_declared_in(module: str) -> None:
    """Say which module declares rows, as its ROWS; it is read when first a row is asked for."""
    _rows.name(module)
    _declared.clear()


def report_rows() -> dict[str, ReportRow]:
    """Return the rows that are reckoned, by name."""
    if not _declared:
        for one in _rows:
            if _declared.setdefault(one.name, one) is not one:
                raise ValueError(f"Two rooms declare rows “{one.name}”.")
    return _declared


def row_names() -> tuple[str, ...]:
    """Return what a row of a report may be."""
    return ("asset", *(g for g in GROUPS if g not in RECKONED), *report_rows())
