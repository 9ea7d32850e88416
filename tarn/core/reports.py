"""Reports: what a row is, which columns it has, how rows are grouped and totalled. No interface, no storage.

A definition is data, so that it can be kept, copied, handed on and asked again of any day.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from itertools import groupby
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from tarn.core.fields import FIELDS, GROUPS, RECKONED, SINGULAR, is_day
from tarn.core.fields import Field as FieldOf
from tarn.core.formula import TODAY, Formula, FormulaError
from tarn.core.report_rows import report_rows, row_names
from tarn.core.text import fold
from tarn.core.versions import version_key

FUNCTIONS = ("count", "sum", "min", "max", "mean", "distinct")
MOST_COLUMNS, MOST_GROUPS, MOST_BLOCKS = 40, 4, 6


class ReportError(ValueError):
    """A report that cannot be; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Column(_Model):
    """A column: a field, or a formula over other columns' names."""

    field: str = ""
    formula: Annotated[str, StringConstraints(max_length=200)] = ""
    label: Annotated[str, StringConstraints(max_length=80)] = ""


class Total(_Model):
    """A figure under a group and under the whole: a function over a column."""

    column: str
    function: Literal["count", "sum", "min", "max", "mean", "distinct"] = "count"


class Detail(_Model):
    """A block under each row: the items of one of the device's lists, with these columns; `inner` narrows them."""

    row: str
    columns: list[str]
    inner: str = ""


class Definition(_Model):
    """A report. `inner` narrows the rows (`full > 90` for file systems, `verdict = barred` for products); `days`: of a
    report on changes; `details`: what is listed under each row."""

    row: str = "asset"
    columns: list[Column]
    filter: str = ""
    inner: str = ""
    group_by: list[str] = Field(default_factory=list)
    totals: list[Total] = Field(default_factory=list)
    sort: str = ""
    days: Annotated[int, Field(ge=1, le=400)] = 7
    plot: Literal["", "bars"] = ""
    details: list[Detail] = Field(default_factory=list)


@dataclass(frozen=True, slots=True)
class ShownColumn:
    """A column as it can be shown: its name, label, type, and the formula where it is reckoned."""

    name: str
    label: str
    type: str
    formula: Formula | None = None


def kind_of(field: FieldOf) -> str:
    """Return a field's type as a column has it: a day has no clock, and a number that is a name no thousands mark."""
    if is_day(field):
        return "day"
    return "code" if field.code else field.type


def columns_of(row: str) -> dict[str, tuple[str, str]]:
    """Return what columns rows of a kind may have: label and type by name; those of the asset as `asset.name`."""
    own = {n: (f.heading, kind_of(f)) for n, f in FIELDS.items()}
    if row == "asset":
        return own
    of_asset = {f"asset.{n}": (f"{label} (device)", kind) for n, (label, kind) in own.items()}
    if row in GROUPS and row not in RECKONED:
        listed = {n: (f.heading, kind_of(f)) for n, f in GROUPS[row].items() if f.stored != "ruling.verdict"}
        return {**listed, "since": ("Since", "moment"), **of_asset}
    declared = report_rows()[row]
    return {**declared.columns, **(of_asset if declared.over_days else {})}


def check(definition: Definition) -> list[ShownColumn]:
    """Check a definition and return its columns as they can be shown. Raises ReportError with the field."""
    if definition.row not in row_names():
        raise ReportError("row", f"“{definition.row}” is nothing a row may be; one of: {', '.join(row_names())}.")
    if not definition.columns:
        raise ReportError("columns", "A report needs at least one column.")
    if len(definition.columns) > MOST_COLUMNS:
        raise ReportError("columns", f"{len(definition.columns)} columns are too many: at most {MOST_COLUMNS}.")
    may = columns_of(definition.row)
    out: list[ShownColumn] = []
    for number, column in enumerate(definition.columns, start=1):
        out.append(_column(number, column, may, out))
    names = [k.name for k in out]
    if doubled := next((n for n in names if names.count(n) > 1), None):
        raise ReportError("columns", f"The column “{doubled}” is there twice.")
    for name in definition.group_by:
        if name not in names:
            raise ReportError("group_by", f"“{name}” is grouped by and is no column of the report.")
    if len(definition.group_by) > MOST_GROUPS:
        raise ReportError("group_by", f"Grouping goes {MOST_GROUPS} deep at the most.")
    types = {k.name: k.type for k in out}
    for total in definition.totals:
        if total.column not in names:
            raise ReportError("totals", f"“{total.column}” is totalled and is no column of the report.")
        if total.function in ("sum", "mean") and types[total.column] not in _NUMBERS:
            raise ReportError("totals", f"“{total.column}” is no number, so it has no {total.function}.")
    if definition.sort and definition.sort.lstrip("-") not in names:
        raise ReportError("sort", f"“{definition.sort.lstrip('-')}” is sorted by and is no column of the report.")
    if definition.filter.strip() and definition.row in report_rows() and not report_rows()[definition.row].filtered:
        raise ReportError(
            "filter",
            f"A row here is {a_row(definition)}, which no filter of devices narrows; put a condition on the row.",
        )
    if definition.inner and definition.row == "asset":
        raise ReportError("inner", "Devices are narrowed by the report’s filter: write the condition there.")
    for number in range(len(definition.details)):
        block(definition, number)
    return out


@dataclass(frozen=True, slots=True)
class Block:
    """A block of details as it can be shown: what it lists and its columns."""

    label: str
    columns: list[ShownColumn]


def block(definition: Definition, number: int) -> Block:
    """Check one of a definition's detail blocks and return it as it can be shown. Raises ReportError."""
    detail = definition.details[number]
    if definition.row != "asset":
        raise ReportError("details", f"Only a device has lists to show under it; a row here is {a_row(definition)}.")
    if len(definition.details) > MOST_BLOCKS:
        raise ReportError("details", f"{len(definition.details)} blocks are too many: at most {MOST_BLOCKS}.")
    if detail.row not in GROUPS or detail.row in RECKONED:
        raise ReportError(
            "details",
            f"“{detail.row}” is no list a device has; one of: {', '.join(g for g in GROUPS if g not in RECKONED)}.",
        )
    if not detail.columns:
        raise ReportError("details", f"The block of {SINGULAR[detail.row]}s needs at least one column.")
    may = {n: told for n, told in columns_of(detail.row).items() if not n.startswith("asset.")}
    columns: list[ShownColumn] = []
    for place, name in enumerate(dict.fromkeys(detail.columns), start=1):
        try:
            columns.append(_column(place, Column(field=name), may, columns))
        except ReportError as error:
            raise ReportError("details", f"Under each device, {error}") from None
    return Block(detail.row.replace("_", " "), columns)


_NUMBERS = ("number", "bytes", "memory", "bits", "percent")


def one_of(row: str) -> str:
    """Return in a word or some what one row of a kind is."""
    if row == "asset":
        return "device"
    return report_rows()[row].one if row in report_rows() else SINGULAR[row]


def a_row(definition: Definition) -> str:
    """Return in words what a row is."""
    if definition.row in SINGULAR:
        return f"a {SINGULAR[definition.row]} of a device"
    one = one_of(definition.row)
    return f"{'an' if one[0] in 'aeiou' else 'a'} {one}"


def _column(number: int, column: Column, may: dict[str, tuple[str, str]], before: list[ShownColumn]) -> ShownColumn:
    if bool(column.field) == bool(column.formula):
        raise ReportError("columns", f"Column {number} needs a field or a formula, one of the two.")
    if column.field:
        if column.field not in may:
            from tarn.core.text import nearest

            tries = nearest(column.field, list(may))
            hint = f" Did you mean {', '.join(tries)}?" if tries else ""
            raise ReportError("columns", f"Column {number}: there is no “{column.field}” here.{hint}")
        label, kind = may[column.field]
        return ShownColumn(column.field, column.label or label, kind)
    known = {k.name for k in before}
    try:
        formula = Formula(column.formula, f"Column {number}", [k.name for k in before if k.type in ("day", "moment")])
    except FormulaError as wrong:
        raise ReportError("columns", str(wrong)) from None
    if unknown := formula.names - known - {TODAY}:
        raise ReportError("columns", f"Column {number} reckons with “{min(unknown)}”, which is no column before it.")
    return ShownColumn(column.label or column.formula, column.label or column.formula, "number", formula)


@dataclass(slots=True)
class _Figures:
    """Totals under way for one group; `sorts`: by column what its values are sorted by."""

    totals: list[Total]
    sorts: dict[str, Callable[[Any], Any]]
    rows: int = 0
    held: list[list[Any]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.held = [[None, 0, set()] for _ in self.totals]

    def add(self, row: dict[str, Any]) -> None:
        self.rows += 1
        for total, state in zip(self.totals, self.held, strict=True):
            value = row.get(total.column)
            if value in (None, ""):
                continue
            state[1] += 1
            if total.function == "distinct":
                state[2].add(value)
            elif total.function in ("sum", "mean"):
                state[0] = (state[0] or 0) + value
            elif total.function == "min":
                state[0] = value if state[0] is None else min(state[0], value, key=self.sorts[total.column])
            elif total.function == "max":
                state[0] = value if state[0] is None else max(state[0], value, key=self.sorts[total.column])

    def results(self) -> list[Any]:
        out: list[Any] = []
        for total, (value, number, seen) in zip(self.totals, self.held, strict=True):
            if total.function == "count":
                out.append(number)
            elif total.function == "distinct":
                out.append(len(seen))
            elif total.function == "mean":
                out.append(round(value / number, 6) if number else None)
            else:
                out.append(value)
        return out


@dataclass(slots=True)
class Line:
    """One line of a report: `row` (values in the order of columns), or a figure line under a group or the whole.

    `keys`: the group's values, from the outermost; `totals` in the order of the definition; `rows` it stands for;
    `key`: what a row is of, by which it is known again; `details`: by block of the definition the rows under a row.
    """

    kind: Literal["row", "group", "whole"]
    values: list[Any]
    keys: tuple[Any, ...] = ()
    totals: list[Any] = field(default_factory=list)
    rows: int = 0
    id: int | None = None
    key: tuple[Any, ...] = ()
    details: list[list[list[Any]]] = field(default_factory=list)


def sorts_by(kind: str) -> Callable[[Any], Any]:
    """Return what values of a type are sorted by: versions as versions, words without case and accents."""
    if kind == "version":
        return lambda value: version_key(str(value))
    if kind in ("text", "choice"):
        return lambda value: fold(str(value))
    return lambda value: value


def lines(
    definition: Definition, columns: list[ShownColumn], rows: Iterable[dict[str, Any]], today: str = ""
) -> Iterator[Line]:
    """Yield a report's lines. `rows` come ordered by `group_by`; only one row a level is held at a time. `today`: the
    day it is told of, for formulas."""
    sorts = {c.name: sorts_by(c.type) for c in columns}
    whole = _Figures(definition.totals, sorts)
    reckoned = [(c.name, c.formula) for c in columns if c.formula is not None]

    def filled() -> Iterator[dict[str, Any]]:
        for row in rows:
            for name, formula in reckoned:
                row[name] = formula.value({TODAY: today, **row})
            whole.add(row)
            yield row

    yield from _grouped(definition, columns, filled(), (), sorts)
    if definition.totals or definition.group_by:
        yield Line("whole", [], (), whole.results(), whole.rows)


def _grouped(
    definition: Definition,
    columns: list[ShownColumn],
    rows: Iterable[dict[str, Any]],
    keys: tuple[Any, ...],
    sorts: dict[str, Callable[[Any], Any]],
) -> Iterator[Line]:
    if len(keys) == len(definition.group_by):
        for row in rows:
            key = (definition.row, *row.get("key", (row.get("id"),)))
            yield Line("row", [row.get(c.name) for c in columns], id=row.get("id"), key=key)
        return
    name = definition.group_by[len(keys)]
    for key, members in groupby(rows, key=lambda r: r.get(name)):
        figures = _Figures(definition.totals, sorts)

        def counted(some: Iterable[dict[str, Any]], figures: _Figures = figures) -> Iterator[dict[str, Any]]:
            for row in some:
                figures.add(row)
                yield row

        yield from _grouped(definition, columns, counted(members), (*keys, key), sorts)
        yield Line("group", [], (*keys, key), figures.results(), figures.rows)
