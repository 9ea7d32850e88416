"""Asking a report: its rows from wherever they lie, and its lines."""

import time
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from django.http import Http404

from tarn.apps.estate.asking.ask import Question, context, question
from tarn.apps.estate.asking.branches import standing_in
from tarn.apps.estate.asking.dial import day_of
from tarn.apps.estate.reads import device_changes, products
from tarn.apps.estate.reads.persons import people
from tarn.apps.estate.reads.register import iso
from tarn.apps.estate.reads.rows import rows_of
from tarn.apps.estate.reads.uses import Kept
from tarn.apps.licences.reads import judging, licences, positions
from tarn.apps.lifecycle.reads.ending import notices
from tarn.apps.lifecycle.reads.steps import hand_overs
from tarn.apps.people.scope import visible
from tarn.apps.reports.models import Report
from tarn.apps.reports.shipped import shipped
from tarn.apps.software.reads.rooms import overview
from tarn.apps.valuation.reads.lens import for_report as worths
from tarn.apps.valuation.reads.refresh import for_report as replacements
from tarn.core.filters.plain import narrowing
from tarn.core.formula import TODAY
from tarn.core.naming import ROLES
from tarn.core.report_rows import COMPANY_WIDE, KNOWN_BY, OTHER_ROWS, OVER_DAYS
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
    sentence = _whose() if definition.row in COMPANY_WIDE else asked.sentence
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
    if definition.row in OTHER_ROWS or reckoned & {o.lstrip("-") for o in order}:
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


def _listed(definition: Definition, names: list[str], asked: Question) -> Iterator[dict[str, Any]]:
    """Yield rows that are reckoned rather than listed, each with what it is known by."""
    known_by, wanted = KNOWN_BY.get(definition.row), None
    if definition.inner and definition.row in OTHER_ROWS:
        wanted = narrowing(definition.inner, columns_of(definition.row), definition.row, context(asked.at))
        names = [*names, *(n for n in columns_of(definition.row) if n.startswith("asset.") and n in definition.inner)]
    for row in _reckoned(definition, names, asked):
        if wanted is None or wanted(row):
            yield {**row, "key": tuple(row.get(n) for n in known_by)} if known_by else row


def _reckoned(definition: Definition, names: list[str], asked: Question) -> Iterator[dict[str, Any]]:
    if definition.row == "product":
        for product in overview(definition.filter, asked.at, ("product",))["products"]:
            yield {**product, "product": product["id"], "id": None}
    elif definition.row == "person":
        for person in people(asked.at, definition.filter):
            yield {**person, "id": None}
    elif definition.row in ("position", "shortage"):
        for balance in positions.for_report(asked.at):
            if definition.row == "position" or balance["short"]:
                yield {**balance, "id": None}
    elif definition.row == "licence":
        for licence in licences.for_report(asked.at):
            yield {**licence, "licence": licence["id"], "id": None}
    elif definition.row == "idle":
        for one in judging.idle(asked.at):
            yield {**one, "worth": float(one["worth"]) if one["worth"] else None, "id": one["asset"]}
    elif definition.row == "licence_warning":
        for said in judging.warnings(asked.at):
            yield {**said, "id": None}
    elif definition.row == "notice":
        yield from notices(asked.at)
    elif definition.row == "hand_over":
        yield from ({**one, "id": one["asset"]} for one in hand_overs(asked.at))
    elif definition.row == "worth":
        yield from worths(definition.filter, asked.at)
    elif definition.row == "refresh":
        yield from replacements(definition.filter, asked.at)
    elif definition.row in OVER_DAYS:
        yield from _changes(definition, names, asked)
    else:
        yield from rows_of(definition.row, names, asked, definition.inner, [])


def _changes(definition: Definition, names: list[str], asked: Question) -> Iterator[dict[str, Any]]:
    until = asked.at or int(time.time())
    wanted = [n[6:] for n in names if n.startswith("asset.")]
    since = until - definition.days * DAY
    if definition.row == "change":
        found = products.changes(asked, since, until, ROLES)
    else:
        find = device_changes.activity if definition.row == "activity" else device_changes.hardware
        found = find(asked, since, until)
    devices = {r["id"]: r for r in rows_of("asset", wanted, asked, "", [])} if wanted else {}
    for change in found:
        beside = devices.get(change.asset, {})
        yield {
            "id": change.asset,
            "at": iso(change.at),
            "verb": change.verb,
            "thing": change.thing,
            "before": change.before,
            "after": change.after,
            **{f"asset.{n}": beside.get(n) for n in wanted},
        }
