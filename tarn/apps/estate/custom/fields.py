"""The company's own fields and kinds as they stand, and how many assets have what."""

import json
from collections import Counter
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.places import Sql, reckoned, within
from tarn.apps.estate.custom.results import OwnOverview
from tarn.apps.estate.models import OwnField as HeldField
from tarn.apps.estate.models import OwnKind as HeldKind
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import scope
from tarn.core.kinds import KINDS
from tarn.core.own import TAG_FIELD, OwnField, OwnKind, fields_of, know
from tarn.core.sections import OWN

_known: list[Any] = [None]


def fields() -> list[OwnField]:
    """Return the fields that stand."""
    return [_field(f) for f in HeldField.objects.filter(dropped_at=None).order_by("group", "position", "name")]


def kinds() -> list[OwnKind]:
    """Return the kinds that stand."""
    own_kinds = HeldKind.objects.filter(dropped_at=None).order_by("name")
    return [
        OwnKind(k.name, k.parent, k.icon, tuple(k.hidden), tuple(dict.fromkeys(k.names.values()))) for k in own_kinds
    ]


def _field(f: HeldField) -> OwnField:
    return OwnField(f.name, f.type, f.unit, tuple(f.choices), f.help, f.group, f.required, tuple(f.kinds), f.position,
                    f.many, f.template, f.listed)  # fmt: skip


def refresh() -> None:
    """Have this process know the fields and kinds as they stand now."""
    key = (
        raw_connection()
        .execute(
            "SELECT (SELECT group_concat(id || ':' || version || ':' || ifnull(dropped_at, 0)) FROM estate_ownfield), "
            "(SELECT group_concat(id || ':' || version || ':' || ifnull(dropped_at, 0)) FROM estate_ownkind)"
        )
        .fetchone()
    )
    if key != _known[0]:
        know(fields(), kinds())
        _known[0] = key


def values_held(name: str) -> dict[Any, int]:
    """Return the values a field has now, each with on how many assets that whoever asks may see."""
    mine = _seen()
    cursor = raw_connection().execute(
        "SELECT json_extract(f.value, '$'), count(DISTINCT f.asset_id) FROM estate_fieldspan f "
        "JOIN estate_assetspan s ON s.asset_id = f.asset_id AND s.valid_to IS NULL "
        f"WHERE f.valid_to IS NULL AND f.field = ? AND {mine.text} GROUP BY 1",
        [f"{OWN}{name}", *mine.values],
    )
    return dict(cursor.fetchall())


def _seen() -> Sql:
    """Return the condition that whoever asks may see the asset of a span `s`."""
    limited = scope()
    return Sql("1") if limited is None else within(terms.refresh(raw_connection()), limited)


def tags_of(assets: list[int]) -> dict[int, list[str]]:
    """Return the tags of assets that exist, as they stand."""
    said = reckoned("own.tags", None)
    cursor = raw_connection().execute(
        f"SELECT s.asset_id, {said} FROM estate_assetspan s WHERE s.valid_to IS NULL "
        "AND s.asset_id IN (SELECT value FROM json_each(?))",
        [json.dumps(assets)],
    )
    return {asset: [t for t in str(held or "").split("; ") if t] for asset, held in cursor}


def tags_there_are() -> dict[str, int]:
    """Return every tag that is in use, with on how many assets of the register whoever asks may see."""
    asked = question(f"{TAG_FIELD.name} != none")
    cursor = raw_connection().execute(f"SELECT {reckoned('own.tags', None)} {asked.source}", asked.where.values)
    counts: Counter[str] = Counter()
    for (held,) in cursor:
        counts.update(held.split("; "))
    return dict(sorted(counts.items()))


def assets_by_kind() -> dict[str, int]:
    """Return how many assets that whoever asks may see are of each kind now."""
    mine = _seen()
    cursor = raw_connection().execute(
        "SELECT t.text, count(*) FROM estate_assetspan s JOIN estate_term t ON t.id = s.kind_id "
        f"WHERE s.valid_to IS NULL AND {mine.text} GROUP BY 1",
        mine.values,
    )
    return dict(cursor.fetchall())


def overview() -> OwnOverview:
    """Return the tree of kinds with their fields, and the fields with how often they are filled."""
    held, mine = fields(), kinds()
    counts = assets_by_kind()
    rows = {k.name: k for k in HeldKind.objects.filter(dropped_at=None)}
    listed = [OwnKind(k) for k in KINDS] + mine
    return {
        "kinds": [
            {
                "id": rows[k.name].pk if k.name in rows else None,
                "name": k.name,
                "parent": k.parent,
                "icon": k.icon,
                "names": rows[k.name].names if k.name in rows else {},
                "hidden": list(k.hidden),
                "version": rows[k.name].version if k.name in rows else 0,
                "assets": counts.get(k.name, 0),
                "fields": [f.name for f in fields_of(k.name, held, mine)],
            }
            for k in listed
        ],
        "fields": [
            {
                "id": f.pk,
                "name": f.name,
                "type": f.type,
                "unit": f.unit,
                "choices": f.choices,
                "help": f.help,
                "group": f.group,
                "required": f.required,
                "kinds": f.kinds,
                "position": f.position,
                "many": f.many,
                "template": f.template,
                "listed": f.listed,
                "version": f.version,
                "filled": sum(values_held(f.name).values()),
            }
            for f in HeldField.objects.filter(dropped_at=None).order_by("group", "position", "name")
        ],
    }
