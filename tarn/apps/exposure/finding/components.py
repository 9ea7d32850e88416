"""Components: what bills of materials say is within what is here. A component is wherever the product it is of is."""

import json
from collections import defaultdict
from collections.abc import Iterable
from typing import NamedTuple

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding import things
from tarn.core.exposure.status import loose_key


class _Told(NamedTuple):
    of_key: str
    of_version: str
    key: str
    name: str
    version: str
    order: str


def _standing() -> list[_Told]:
    """Return the components that bills of materials tell of now."""
    cursor = raw_connection().execute(
        'SELECT c.of_key, c.of_version, c.key, c.name, c.version, c."order" FROM exposure_componenttold c '
        "JOIN exposure_document d ON d.id = c.document_id WHERE d.ends IS NULL"
    )
    return [_Told(*row) for row in cursor]


def any_told() -> bool:
    """Whether any bill of materials stands."""
    return raw_connection().execute("SELECT 1 FROM exposure_componenttold LIMIT 1").fetchone() is not None


def within(rows: Iterable[things.Row]) -> set[things.Row]:
    """Return the components of things that are here."""
    told = _standing()
    if not told:
        return set()
    outside, by_key = things.names(), defaultdict(list)
    for row in rows:
        if row.part != things.COMPONENT:
            for key, _ in outside.thing(row).keys:
                by_key[key].append(row)
    out = set()
    for one in told:
        for parent in (*by_key.get(one.of_key, ()), *by_key.get(loose_key(one.of_key), ())):
            if not one.of_version or one.of_version == parent.version:
                out.add(_row(one, parent))
    return out


def _row(told: _Told, parent: things.Row) -> things.Row:
    within = f"{parent.product} {parent.version}".strip()[:300]
    empty = ("",) * 5
    return things.Row(things.COMPONENT, told.key, told.name, "", told.version, told.order, *empty, within)


def parents(numbers: Iterable[int]) -> dict[int, list[int]]:
    """Return by component what it is part of, of these things; the others are no components."""
    db = raw_connection()
    wanted = dict(
        db.execute(
            "SELECT id, within FROM exposure_thing WHERE part = 'c' AND id IN (SELECT value FROM json_each(?))",
            [json.dumps(sorted(numbers))],
        )
    )
    if not wanted:
        return {}
    by_name = defaultdict(list)
    for number, name in db.execute(
        "SELECT id, trim(product || ' ' || version) FROM exposure_thing WHERE part != 'c' "
        "AND trim(product || ' ' || version) IN (SELECT value FROM json_each(?))",
        [json.dumps(sorted(set(wanted.values())))],
    ):
        by_name[name].append(number)
    return {number: by_name.get(name, []) for number, name in wanted.items()}
