"""How assets were acquired, as of a moment: price, day, order, warranty; of each the witness believed first counts."""

import json
from typing import Any

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.places import BY_RANK, holds
from tarn.apps.estate.reads.database import raw_connection

_FIELDS = ("bought_at", "price", "currency", "cost_centre", "order", "supplier", "warranty_end", "tickets_open")


def acquired(asked: Question) -> dict[int, dict[str, Any]]:
    """Return by asset of a selection the facts of its acquisition that are known then."""
    return claimed(asked, _FIELDS)


def claimed(asked: Question, fields: tuple[str, ...]) -> dict[int, dict[str, Any]]:
    """Return by asset of a selection what is said then of fields that only claims hold."""
    then = holds("f", asked.at)
    names = ",".join("?" * len(fields))
    rows = raw_connection().execute(
        "SELECT f.asset_id, f.field, f.value FROM estate_fieldspan f JOIN estate_source w ON w.id = f.source_id "
        f"WHERE f.field IN ({names}) AND {then.text} AND f.asset_id IN (SELECT s.asset_id {asked.source}) "
        f"ORDER BY {BY_RANK} DESC, f.valid_from, f.id",
        [*fields, *then.values, *asked.where.values],
    )
    out: dict[int, dict[str, Any]] = {}
    for asset, name, value in rows:
        out.setdefault(asset, {})[name] = json.loads(value)
    return out


def systems(asked: Question) -> list[tuple[str, str, int]]:
    """Return the operating systems of a selection by name and version, each with on how many devices."""
    found = raw_connection().execute(
        "SELECT t.text, ifnull(y.os_version, ''), count(*) FROM estate_assetspan y JOIN estate_term t ON t.id = "
        f"y.os_name_id WHERE y.id IN (SELECT s.id {asked.source}) GROUP BY 1, 2",
        asked.where.values,
    )
    return found.fetchall()
