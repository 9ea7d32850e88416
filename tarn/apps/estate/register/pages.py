"""The register: pages of assets, whole selections, and the values of any field."""

import json
from collections.abc import Iterator
from typing import Any, cast

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.register.results import NamedDevice
from tarn.apps.estate.store.database import raw_connection
from tarn.core.fields import FIELDS, Field
from tarn.core.filters.tree import numbers_in
from tarn.core.text import nearest

MOST_ROWS = 500
"""Rows a page may have."""


class FieldError(ValueError):
    """A field that does not exist was asked for as a column or an order."""


def field_named(name: str) -> Field:
    """Return a field of assets. Raises FieldError with the nearest known names."""
    if name not in FIELDS:
        tries = nearest(name, list(FIELDS))
        raise FieldError(f"There is no field “{name}”." + (f" Did you mean {', '.join(tries)}?" if tries else ""))
    return FIELDS[name]


def _expression(field: Field, at: int | None) -> str:
    """Return the SQL for a field's value, for a term its number; moments of the past stand in it as literals."""
    home, _, name = field.stored.partition(".")
    if home == "term":
        return f"s.{name}_id"
    if home == "span":
        return f"s.{name}"
    if home == "asset":
        return f"a.{name}"
    return reckoned(field.stored, at)


def _order(field: Field, at: int | None) -> str:
    if field.stored == "span.name":
        return "s.name_fold"
    if field.type in ("address", "version"):
        return f"s.{field.stored.partition('.')[2]}_key"
    if field.stored == "asset.number":
        return "s.asset_id"
    if field.stored.startswith("term."):
        return f"(SELECT t.folded FROM estate_term t WHERE t.id = {_expression(field, at)})"
    return _expression(field, at)


def _ordered(sort: str, at: int | None) -> tuple[str, str]:
    """Return the condition-free ORDER BY for `name` or `-name`: what has no value comes last either way."""
    down = sort.startswith("-")
    expression = _order(field_named(sort.lstrip("-")), at)
    way = "DESC" if down else "ASC"
    if expression == "s.name_fold":
        return f"{expression} {way}, s.asset_id", expression
    return f"{expression} IS NULL, {expression} {way}, s.name_fold, s.asset_id", expression


GIVEN = "given"
"""The order in which a question names devices by their numbers, as somebody put them down."""


def _as_given(asked: Question, sort: str) -> list[int] | None:
    """Return the spans of a selection in the order its numbers stand in; None where another order is wanted."""
    if sort.lstrip("-") != GIVEN:
        return None
    place = {number: n for n, number in enumerate(numbers_in(asked.tree))}
    found = raw_connection().execute(f"SELECT s.id, a.number {asked.source}", asked.where.values).fetchall()
    found.sort(key=lambda row: (place.get(row[1], len(place)), row[1]), reverse=sort.startswith("-"))
    return [span for span, _ in found]


def page(asked: Question, fields: list[str], sort: str, offset: int, limit: int) -> list[dict[str, Any]]:
    """Return rows `offset` to `offset + limit` of a selection, each with `id` and the fields asked for."""
    columns = [field_named(f) for f in fields]
    db, most = raw_connection(), min(limit, MOST_ROWS)
    if (given := _as_given(asked, sort)) is not None:
        return _rows(given[offset : offset + most], columns, asked.at)
    order, expression = _ordered(sort, asked.at)
    source = asked.source if "a." in expression.split("s.")[0] else asked.lean_source
    if expression == "s.name_fold":
        # The index gives this order, so the statement ends after the page and can bring the columns along.
        cursor = db.execute(
            f"SELECT s.id, s.asset_id, {_columns(columns, asked.at)} {asked.source} ORDER BY {order} LIMIT ? OFFSET ?",
            [*asked.where.values, most, offset],
        )
        return _shaped(cursor.fetchall(), columns)
    picked = db.execute(
        f"SELECT s.id {source} ORDER BY {order} LIMIT ? OFFSET ?", [*asked.where.values, most, offset]
    ).fetchall()
    return _rows([i for (i,) in picked], columns, asked.at)


def _columns(columns: list[Field], at: int | None) -> str:
    """Return the SELECT list of columns as they are shown: words for terms, ISO 8601 for moments."""
    return ", ".join(field_expression(c, at) for c in columns) or "NULL"


def field_expression(field: Field, at: int | None) -> str:
    """Return the SQL of a field as it is shown: words for terms, ISO 8601 for moments."""
    expression = _expression(field, at)
    if field.stored.startswith("term."):
        return f"(SELECT t.text FROM estate_term t WHERE t.id = {expression})"
    if field.type == "moment":
        return f"strftime('%Y-%m-%dT%H:%M:%SZ', {expression}, 'unixepoch')"
    return expression


def _rows(spans: list[int], columns: list[Field], at: int | None) -> list[dict[str, Any]]:
    if not spans:
        return []
    found = {
        row[0]: row
        for row in raw_connection().execute(
            f"SELECT s.id, s.asset_id, {_columns(columns, at)} FROM estate_assetspan s "
            f"JOIN estate_asset a ON a.id = s.asset_id WHERE s.id IN ({','.join(map(str, spans))})"
        )
    }
    return _shaped([found[span] for span in spans], columns)


def _shaped(found: list[tuple[Any, ...]], columns: list[Field]) -> list[dict[str, Any]]:
    """Return rows of span, asset and columns as dictionaries by field name."""
    names = ["id", *(c.name for c in columns)]
    return [dict(zip(names, row[1:], strict=False)) for row in found]


NAMED = ("number", "name", "kind", "place", "department")


def named(assets: list[int], at: int | None) -> list[NamedDevice]:
    """Return assets in the order given by what people know them by; those that did not exist then are left out."""
    condition = holds("s", at)
    cursor = raw_connection().execute(
        f"SELECT s.asset_id, s.id FROM estate_assetspan s WHERE {condition.text} "
        "AND s.asset_id IN (SELECT value FROM json_each(?))",
        [*condition.values, json.dumps(assets)],
    )
    spans = dict(cursor.fetchall())
    rows = _rows([spans[a] for a in assets if a in spans], [field_named(f) for f in NAMED], at)
    return cast("list[NamedDevice]", rows)  # of the fields NAMED, which it has


def marks(rows: list[dict[str, Any]]) -> None:
    """Give each row `marks`: the kinds of source that have seen the asset, for the evidence marks."""
    if not rows:
        return
    by_asset: dict[int, list[str]] = {r["id"]: [] for r in rows}
    for asset, kind in raw_connection().execute(
        "SELECT DISTINCT o.asset_id, c.kind FROM estate_sourceseen o JOIN estate_source c ON c.id = o.source_id "
        f"WHERE o.asset_id IN ({','.join(map(str, by_asset))}) ORDER BY c.kind DESC"
    ):
        by_asset[asset].append(kind)
    for row in rows:
        row["marks"] = by_asset[row["id"]]


def everything(asked: Question, fields: list[str], sort: str) -> Iterator[dict[str, Any]]:
    """Yield the whole selection in order, a thousand rows a statement; memory stays flat."""
    columns = [field_named(f) for f in fields]
    spans = _as_given(asked, sort)
    if spans is None:
        statement = f"SELECT s.id {asked.source} ORDER BY {_ordered(sort, asked.at)[0]}"
        spans = [i for (i,) in raw_connection().execute(statement, asked.where.values)]
    for start in range(0, len(spans), 1000):
        yield from _rows(spans[start : start + 1000], columns, asked.at)
