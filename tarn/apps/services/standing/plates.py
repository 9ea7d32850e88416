"""What is told of assets by their numbers: their names, where they are, and how many people have any of them."""

import json
from collections.abc import Iterable
from typing import Any

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection


def people_of(assets: Iterable[int], at: int | None) -> int:
    """Return how many people have any of these assets, as of a moment."""
    then = holds("s", at)
    (number,) = (
        raw_connection()
        .execute(
            f"SELECT count(DISTINCT s.person_id) FROM estate_assetspan s WHERE {then.text} "
            "AND s.asset_id IN (SELECT value FROM json_each(?))",
            [*then.values, json.dumps(sorted(set(assets)))],
        )
        .fetchone()
    )
    return int(number)


def plates(assets: Iterable[int], at: int | None) -> dict[int, dict[str, Any]]:
    """Return name, number, kind, place and person of assets, as of a moment."""
    then = holds("s", at)
    words = "(SELECT w.text FROM estate_term w WHERE w.id = s.{}_id)"
    cursor = raw_connection().execute(
        f"SELECT s.asset_id, a.number, coalesce(s.name, a.number), {words.format('kind')}, {words.format('place')}, "
        f"{words.format('person')} FROM estate_assetspan s JOIN estate_asset a ON a.id = s.asset_id "
        f"WHERE {then.text} AND s.asset_id IN (SELECT value FROM json_each(?))",
        [*then.values, json.dumps(sorted(set(assets)))],
    )
    return {
        asset: {"asset": asset, "number": number, "name": name, "kind": kind, "place": place, "person": person}
        for asset, number, name, kind, place, person in cursor
    }
