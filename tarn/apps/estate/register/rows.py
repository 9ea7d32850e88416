"""Rows for reports: devices, or the items of a list of theirs with what is known of the device beside."""

import json
from collections.abc import Iterable, Iterator
from typing import Any

from tarn.apps.estate.asking.ask import Question, context, question
from tarn.apps.estate.asking.compile import Compiler
from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.models import span_model
from tarn.apps.estate.register.pages import field_expression, field_named
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.scope import scope
from tarn.core.fields import GROUPS, Field
from tarn.core.filters.check import check
from tarn.core.filters.parse import FilterError, parse
from tarn.core.sections import KEYS

CHUNK = 2_000


def rows_of(
    row: str,
    names: list[str],
    asked: Question,
    inner: str,
    order: list[str],
    limit: int | None = None,
    among: list[int] | None = None,
) -> Iterator[dict[str, Any]]:
    """Yield rows in order; `row` is “asset” or a list of the registry, `names` the columns.

    `order`: names of columns, “-” in front for the highest first; what has no value comes last. Memory stays flat.
    `among`: only rows of these assets.
    Raises FilterError for an `inner` that cannot be read.
    """
    group = None if row == "asset" else row
    fields = [_field(group, n) for n in names]
    picked = "".join(f"{_expression(group, f, asked.at)} AS c{n}, " for n, f in enumerate(fields))
    joined, where = _items(group, inner, asked.at) if group else ("", Sql("1"))
    asset = "JOIN estate_asset a ON a.id = s.asset_id"
    # Two sources may list one thing: it is one row.
    keys = ["release_id"] if group == "software" else KEYS[group] if group else ()
    once = f" GROUP BY i.asset_id, {', '.join(f'i.{chr(34)}{k}{chr(34)}' for k in keys)}" if group else ""
    some = "" if among is None else " AND s.asset_id IN (SELECT value FROM json_each(?))"
    known_by = [f'i."{k}"' for k in keys] if group else []
    text = (
        f"SELECT s.asset_id, {picked}{', '.join(known_by) or '0'} FROM estate_assetspan s {asset}{joined} "
        f"WHERE {asked.where.text} AND ({where.text}){some}{once} ORDER BY {_order(order, names)}"
    )
    values = [*asked.where.values, *where.values, *([json.dumps(among)] if among is not None else [])]
    if limit is not None:
        text, values = f"{text} LIMIT ?", [*values, limit]
    cursor = raw_connection().execute(text, values)
    truth = {n for n, (_, f) in zip(names, fields, strict=True) if f is not None and f.type == "yes/no"}
    while found := cursor.fetchmany(CHUNK):
        for asset_id, *told in found:
            made = dict(zip(names, told[: len(names)], strict=True))
            for name in truth:
                made[name] = None if made[name] is None else bool(made[name])
            yield {"id": asset_id, "key": (asset_id, *told[len(names) :]) if group else (asset_id,), **made}


def named_rows(assets: Iterable[int], names: list[str]) -> dict[int, dict[str, Any]]:
    """Return by asset these columns as they are now, wherever it stands; those that are not to be seen are left out."""
    asked = question("standing != none")
    return {row["id"]: row for row in rows_of("asset", names, asked, "", [], among=sorted(set(assets)))}


def _field(group: str | None, name: str) -> tuple[str, Field | None]:
    """Return whose field a column is (“asset” or “item”), and the field; None for the moment an item began."""
    if group is None:
        return "asset", field_named(name)
    if name.startswith("asset."):
        return "asset", field_named(name[6:])
    return "item", GROUPS[group].get(name)


def _expression(group: str | None, column: tuple[str, Field | None], at: int | None) -> str:
    whose, field = column
    if whose == "asset":
        assert field is not None
        return field_expression(field, at)
    if field is None or field.stored == "item.valid_from":
        return "strftime('%Y-%m-%dT%H:%M:%SZ', min(i.valid_from), 'unixepoch')"
    home, _, name = field.stored.partition(".")
    of = {"listing": "l", "product": "p", "release": "r"}.get(home, "i")
    expression = f'{of}."{name}"'
    return f"strftime('%Y-%m-%dT%H:%M:%SZ', {expression}, 'unixepoch')" if field.type == "moment" else expression


def _items(group: str, inner: str, at: int | None) -> tuple[str, Sql]:
    """Return the JOIN of a list's table and the condition on its items."""
    then = holds("i", at)
    joined = f" JOIN {span_model(group)._meta.db_table} i ON i.asset_id = s.asset_id"
    if group == "software":
        joined += (
            " JOIN estate_listing l ON l.id = i.listing_id JOIN estate_release r ON r.id = i.release_id "
            "JOIN estate_product p ON p.id = l.product_id"
        )
    if not inner.strip():
        return joined, then
    try:
        checked = check(parse(f"{group}[{inner}]"), context(at))
    except FilterError as error:
        begins = len(group) + 1
        raise FilterError(error.message, max(0, error.start - begins), max(0, error.end - begins), error.try_) from None
    cond = Compiler(raw_connection(), at, scope()).of_items(group, checked)
    return joined, Sql(f"{then.text} AND ({cond.text})", [*then.values, *cond.values])


def _order(order: list[str], names: list[str]) -> str:
    parts = []
    for name in order:
        column = f"c{names.index(name.lstrip('-'))}"
        parts.append(f"{column} IS NULL, {column} {'DESC' if name.startswith('-') else 'ASC'}")
    return ", ".join([*parts, "s.name_fold", "s.asset_id"])
