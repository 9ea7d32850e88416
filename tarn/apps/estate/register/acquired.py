"""How assets were acquired, as of a moment: price, day, order, warranty; of each the witness believed first counts."""

import json
from datetime import date, datetime, timedelta
from typing import Any

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.asking.places import BY_RANK, holds
from tarn.apps.estate.store.database import raw_connection

_FIELDS = ("bought_at", "price", "currency", "cost_centre", "order", "supplier", "warranty_end", "tickets_open")


def acquired(asked: Question) -> dict[int, dict[str, Any]]:
    """Return by asset of a selection the facts of its acquisition that are known then."""
    return claimed(asked, _FIELDS)


def claimed(asked: Question, fields: tuple[str, ...], among: list[int] | None = None) -> dict[int, dict[str, Any]]:
    """Return by asset of a selection what is said then of fields that only claims hold; of these assets alone."""
    then = holds("f", asked.at)
    names = ",".join("?" * len(fields))
    some = "" if among is None else " AND f.asset_id IN (SELECT value FROM json_each(?))"
    rows = raw_connection().execute(
        "SELECT f.asset_id, f.field, f.value FROM estate_fieldspan f JOIN estate_source w ON w.id = f.source_id "
        f"WHERE f.field IN ({names}) AND {then.text} AND f.asset_id IN (SELECT s.asset_id {asked.source}){some} "
        f"ORDER BY {BY_RANK} DESC, f.valid_from, f.id",
        [*fields, *then.values, *asked.where.values, *([json.dumps(among)] if among is not None else [])],
    )
    out: dict[int, dict[str, Any]] = {}
    for asset, name, value in rows:
        out.setdefault(asset, {})[name] = json.loads(value)
    return out


def systems(asked: Question) -> list[tuple[str, str, int]]:
    """Return the operating systems of a selection by name and version, each with on how many devices."""
    cursor = raw_connection().execute(
        "SELECT t.text, ifnull(y.os_version, ''), count(*) FROM estate_assetspan y JOIN estate_term t ON t.id = "
        f"y.os_name_id WHERE y.id IN (SELECT s.id {asked.source}) GROUP BY 1, 2",
        asked.where.values,
    )
    return cursor.fetchall()


def warranties_ending(asked: Question, since: date, until: date) -> list[tuple[str, str, str, int]]:
    """Return by day (ISO 8601), kind and order how many warranties of a selection end between two days, inclusive.

    Of those who speak of a warranty the witness believed first counts.
    """
    then, of_order = holds("f", asked.at), holds("o", asked.at)
    begins, ends = (_day_begins(d) for d in (since, until + timedelta(days=1)))
    # Whatever anybody says ends in this time is looked at; that nobody better says otherwise is asked of those alone.
    cursor = raw_connection().execute(
        "WITH near AS MATERIALIZED (SELECT DISTINCT f.asset_id FROM estate_fieldspan f WHERE f.field = 'warranty_end' "
        f"AND {then.text} AND CAST(f.value AS INTEGER) >= ? AND CAST(f.value AS INTEGER) < ?), "
        "told AS (SELECT f.asset_id, CAST(f.value AS INTEGER) AS ends, row_number() OVER (PARTITION BY f.asset_id "
        f"ORDER BY {BY_RANK}, f.valid_from DESC, f.id DESC) AS place FROM estate_fieldspan f "
        "JOIN estate_source w ON w.id = f.source_id WHERE f.field = 'warranty_end' "
        f"AND f.asset_id IN (SELECT asset_id FROM near) AND {then.text}) "
        "SELECT told.ends, t.text, (SELECT json_extract(o.value, '$') FROM estate_fieldspan o WHERE o.asset_id = "
        f"told.asset_id AND o.field = 'order' AND {of_order.text} ORDER BY o.valid_from DESC LIMIT 1), count(*) "
        "FROM told JOIN estate_assetspan y ON y.asset_id = told.asset_id "
        "LEFT JOIN estate_term t ON t.id = y.kind_id WHERE told.place = 1 AND told.ends >= ? AND told.ends < ? "
        f"AND y.id IN (SELECT s.id {asked.source}) GROUP BY 1, 2, 3",
        [*then.values, begins, ends, *then.values, *of_order.values, begins, ends, *asked.where.values],
    )
    return [
        (datetime.fromtimestamp(end, zone()).date().isoformat(), kind or "", order or "", number)
        for end, kind, order, number in cursor
    ]


def _day_begins(day: date) -> int:
    return int(datetime(day.year, day.month, day.day, tzinfo=zone()).timestamp())
