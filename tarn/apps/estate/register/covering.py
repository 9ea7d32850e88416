"""What is said of an asset's cover: its coverages, and who says until when its warranty lasts."""

import json
from datetime import date, datetime
from typing import Any

from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.asking.places import BY_RANK, holds
from tarn.apps.estate.store.database import raw_connection


def _day(second: int | None) -> date | None:
    return None if second is None else datetime.fromtimestamp(second, zone()).date()


def coverages_of(asset: int, at: int | None) -> list[dict[str, Any]]:
    """Return an asset's coverages as of a moment, each with the source that tells of it."""
    then = holds("i", at)
    rows = raw_connection().execute(
        "SELECT i.name, i.begins, i.ends, ifnull(i.level, ''), ifnull(i.claim, ''), w.kind || ' ' || w.name "
        "FROM estate_coveragesspan i JOIN estate_source w ON w.id = i.source_id "
        f"WHERE i.asset_id = ? AND {then.text} ORDER BY i.ends DESC",
        [asset, *then.values],
    )
    return [
        {"name": n, "begins": _day(b), "ends": _day(e), "level": level, "claim": claim, "source": source}
        for n, b, e, level, claim, source in rows
    ]


def claims_of_warranty(asset: int, at: int | None) -> list[tuple[str, date]]:
    """Return who says until when an asset's warranty lasts, the one believed first."""
    then = holds("f", at)
    rows = raw_connection().execute(
        "SELECT w.kind || ' ' || w.name, f.value FROM estate_fieldspan f JOIN estate_source w ON w.id = f.source_id "
        f"WHERE f.asset_id = ? AND f.field = 'warranty_end' AND {then.text} ORDER BY {BY_RANK}, f.valid_from DESC",
        [asset, *then.values],
    )
    told = [(who, _day(json.loads(value))) for who, value in rows]
    return [(who, day) for who, day in told if day is not None]
