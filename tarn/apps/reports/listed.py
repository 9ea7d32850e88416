"""A list as it stands on the screen, made ready to be written as a file like any report."""

import re
from collections.abc import Sequence
from datetime import datetime
from decimal import Decimal, InvalidOperation
from typing import NamedTuple

from tarn.apps.reports.reads.asking import Asked
from tarn.core.reports import Column, Definition, Line, ShownColumn

MOST = 200_000
"""Cells of a list that is written at once."""
Value = str | int | float | None
_DAY = re.compile(r"\d{4}-\d\d-\d\d")
_MOMENT = re.compile(r"\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:\d\d)")


class Head(NamedTuple):
    """A column's heading, and whether it holds numbers: a text of digits alone, such as an order's, is none."""

    label: str
    number: bool


class ListError(ValueError):
    """A list that cannot be written; `str()` says what is wrong with it and where."""


def as_asked(heads: Sequence[Head], rows: Sequence[Sequence[Value]]) -> Asked:
    """Return a list as the writers of files take it. Raises ListError."""
    if not heads:
        raise ListError("A list without columns has nothing to write.")
    if (cells := len(heads) * len(rows)) > MOST:
        raise ListError(f"A list of {cells:,} cells is too long to be written at once: at most {MOST:,}.")
    for number, row in enumerate(rows, start=1):
        if len(row) != len(heads):
            raise ListError(f"Row {number} has {len(row)} cells; there are {len(heads)} columns.")
    kinds = [_kind(head, [row[place] for row in rows]) for place, head in enumerate(heads)]
    columns = [ShownColumn(str(place), head.label, kinds[place]) for place, head in enumerate(heads)]
    lines = (
        Line("row", [_typed(v, kind) for v, kind in zip(row, kinds, strict=True)], rows=1, id=number)
        for number, row in enumerate(rows, start=1)
    )
    return Asked(Definition(columns=[Column(field="name")]), columns, lines, "as it stood on the screen", [])


def _kind(head: Head, values: Sequence[Value]) -> str:
    if head.number:
        return "number"
    told = [v for v in values if v not in (None, "")]
    for kind, written in (("day", _is_day), ("moment", _is_moment)):
        if told and all(isinstance(v, str) and written(v) for v in told):
            return kind
    return "text"


def _is_day(text: str) -> bool:
    return _DAY.fullmatch(text) is not None and _is_written(text)


def _is_moment(text: str) -> bool:
    return _MOMENT.fullmatch(text) is not None and _is_written(text)


def _is_written(text: str) -> bool:
    """Tell whether a text of the right form names a day there is: 2026-02-30 does not."""
    try:
        datetime.fromisoformat(text.replace("Z", "+00:00"))
    except ValueError:
        return False
    return True


def _typed(value: Value, kind: str) -> Value:
    """Return a value as its column's type has it; what is no number in a column of numbers stays as it is said."""
    if kind != "number" or not isinstance(value, str):
        return value
    try:
        number = Decimal(value)
    except InvalidOperation:
        return value
    return float(number) if number.is_finite() else value
