"""Asking a report: its rows from wherever they lie, and its lines."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from django.http import Http404

from tarn.apps.estate.asking.ask import Question, context, question
from tarn.apps.estate.asking.branches import standing_in
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.asking.uses import Kept
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.people.scope import visible
from tarn.apps.reports.models import Report
from tarn.apps.reports.shipped import shipped
from tarn.core.filters.plain import narrowing
from tarn.core.formula import TODAY
from tarn.core.report_rows import RowsAsked, report_rows
from tarn.core.reports import Block, Definition, Line, ShownColumn, block, check, columns_of, lines

DAY = 86_400


@dataclass(frozen=True)
class Asked:
    """A report ready to be read: its columns, its lines (once), what it asks in words, and what its details are."""

    definition: Definition
    columns: list[ShownColumn]
    lines: Iterator[Line]
    sentence: str
    blocks: list[Block]


@dataclass(frozen=True)
class Found:
    """A report by its key or number."""

    key: str
    name: str
    room: str
    text: str
    definition: Definition
    ships: bool
    version: int = 0
    made_by: str = ""
    access: str = "all"


def found(key: str) -> Found:
    """Return a report: by the key of one that ships, or the number of one composed here. Raises Http404."""
    if key in shipped():
        one = shipped()[key]
        return Found(key, one.name, one.room, one.text, one.definition, True)
    held = visible(Report).filter(pk=int(key)).first() if key.isdigit() and len(key) < 16 else None
    if held is None:
        raise Http404(f"There is no report “{key}”.")
    return _as_found(held)


def _as_found(held: Report) -> Found:
    definition = Definition.model_validate(held.definition)
    return Found(
        str(held.pk), held.name, held.room, held.text, definition, False, held.version, held.made_by, held.access
    )


def kept_filters() -> Iterator[Kept]:
    """Yield the filters that reports keep."""
    for one in all_reports():
        where = f"/reports/{one.key}"
        yield Kept("report", one.name, where, one.definition.filter)
        narrowed = [(one.definition.row, one.definition.inner), *((d.row, d.inner) for d in one.definition.details)]
        for row, inner in narrowed:
            if inner:
                yield Kept("report", one.name, where, f"{row}[{inner}]")


def all_reports() -> list[Found]:
    """Return the reports composed here, then those that ship."""
    own = [_as_found(r) for r in visible(Report).order_by("name")]
    return own + [Found(s.key, s.name, s.room, s.text, s.definition, True) for s in shipped().values()]


def ask(definition: Definition, at: int | None, limit: int | None = None) -> Asked:
    """Ask a report as of a moment; `limit` rows at the most. Raises ReportError, FilterError.

    The lines come as they are read, so a report of any length needs little memory.
    """
    columns = check(definition)
    asked = question(definition.filter, at)
    today = day_of(at).isoformat()
    rows = _rows(definition, columns, asked, limit, today)
    blocks = [block(definition, number) for number in range(len(definition.details))]
    made = lines(definition, columns, rows, today)
    sentence = _whose() if _company_wide(definition.row) else asked.sentence
    return Asked(definition, columns, _detailed(definition, blocks, made, asked), sentence, blocks)


def _whose() -> str:
    """Say of what does not follow the branch that it does not."""
    return "of the whole company" + (", not of the branch alone" if standing_in() else "")


_AT_ONCE = 500
"""Rows whose details are read by one statement a block."""


def _detailed(definition: Definition, blocks: list[Block], made: Iterator[Line], asked: Question) -> Iterator[Line]:
    """Yield lines, rows with what is listed under them."""
    if not blocks:
        yield from made
        return
    while some := list(islice(made, _AT_ONCE)):
        rows = {line.id: line for line in some if line.kind == "row" and line.id is not None}
        for line in rows.values():
            line.details = [[] for _ in blocks]
        for number, (detail, shown) in enumerate(zip(definition.details, blocks, strict=True)):
            names = [c.name for c in shown.columns]
            for item in rows_of(detail.row, names, asked, detail.inner, names[:1], among=list(rows)):
                rows[item["id"]].details[number].append([item[n] for n in names])
        yield from some


def _rows(
    definition: Definition, columns: list[ShownColumn], asked: Question, limit: int | None, today: str
) -> Iterator[dict[str, Any]]:
    names = [c.name for c in columns if c.formula is None]
    reckoned = {c.name for c in columns if c.formula is not None}
    order = [*definition.group_by, *([definition.sort] if definition.sort else [])]
    if definition.row in report_rows() or reckoned & {o.lstrip("-") for o in order}:
        made = list(_listed(definition, names, asked))
        for column in columns:
            if column.formula is not None:
                for row in made:
                    row[column.name] = column.formula.value({TODAY: today, **row})
        for name in reversed(order):
            _sort(made, name)
        return iter(made if limit is None else made[:limit])
    return rows_of(definition.row, names, asked, definition.inner, order, limit)


def _sort(rows: list[dict[str, Any]], name: str) -> None:
    """Sort by a column, stably; what has no value comes last either way."""
    bare, down = name.lstrip("-"), name.startswith("-")
    known = [r for r in rows if r[bare] not in (None, "")]
    rest = [r for r in rows if r[bare] in (None, "")]
    rows[:] = sorted(known, key=lambda r: r[bare], reverse=down) + rest


def _company_wide(row: str) -> bool:
    return row in report_rows() and report_rows()[row].company_wide


def _listed(definition: Definition, names: list[str], asked: Question) -> Iterator[dict[str, Any]]:
    """Yield rows that are reckoned rather than listed, each with what it is known by."""
    declared, wanted = report_rows().get(definition.row), None
    if declared is None:
        yield from rows_of(definition.row, names, asked, definition.inner, [])
        return
    if definition.inner:
        wanted = narrowing(definition.inner, columns_of(definition.row), definition.row, context(asked.at))
        names = [*names, *(n for n in columns_of(definition.row) if n.startswith("asset.") and n in definition.inner)]
    for row in declared.rows(RowsAsked(definition.filter, asked, asked.at, definition.days, names)):
        if wanted is None or wanted(row):
            yield {**row, "key": tuple(row.get(n) for n in declared.known_by)}
