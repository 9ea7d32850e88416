"""What is told outward of a selection: how its releases stand (VEX), and its bill of materials."""

import json
import time
from uuid import NAMESPACE_URL, uuid5

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.catching_up import catch_up
from tarn.apps.exposure.finding.cures import cure_of
from tarn.apps.exposure.shown import Reasons
from tarn.core.exposure.outward import VEX, BomPart, VexRow, bill_of_materials
from tarn.core.exposure.told import STATUSES
from tarn.core.filters.english import english

BY = "Tarn"
"""Who says so, where the company has no name."""


def _part(row: things.Row) -> BomPart:
    return BomPart(row.product, row.maker, row.version, row.part, row.package, row.order, row.distribution, row.release)


def bom(asked: Question) -> str:
    """Return the bill of materials of a selection as CycloneDX; of one device where it asks for one."""
    assets = ids(asked)
    rows = things.found_here(assets, now=asked.at is None, at=asked.at)
    at = asked.at or int(time.time())
    name = english(asked.tree)
    if len(assets) == 1:
        (name,) = (
            raw_connection()
            .execute(
                "SELECT coalesce(s.name, a.number) FROM estate_asset a JOIN estate_assetspan s ON s.asset_id = a.id "
                "WHERE a.id = ? ORDER BY s.valid_from DESC LIMIT 1",
                assets,
            )
            .fetchone()
        )
    return bill_of_materials(
        name, sorted(map(_part, rows), key=lambda p: p.ref), uuid5(NAMESPACE_URL, f"{name} {at}"), at, BY
    )


def vex(asked: Question, format: str) -> str:
    """Return how the releases of a selection stand to what is known, in one of the formats of VEX."""
    catch_up()
    rows = things.found_here(ids(asked), now=asked.at is None, at=asked.at)
    numbers = things.numbers(rows)
    mine = {numbers[r]: r for r in rows}
    at = asked.at or int(time.time())
    held = (
        raw_connection()
        .execute(
            "SELECT s.thing_id, s.vulnerability_id, s.status, s.statement FROM exposure_status s "
            "WHERE s.thing_id IN (SELECT value FROM json_each(?)) AND s.begins <= ? AND (s.ends IS NULL OR s.ends > ?)",
            [json.dumps(sorted(mine)), at, at],
        )
        .fetchall()
    )
    reasons = Reasons([s for *_, s in held], sorted(mine))
    names, aliases = _names(sorted({v for _, v, *_ in held}))
    told = []
    for thing, vulnerability, status, statement in held:
        because = reasons.why(thing, statement)
        told.append(
            VexRow(
                names[vulnerability],
                tuple(aliases.get(vulnerability, ())),
                _part(mine[thing]),
                STATUSES[status],
                because.verdict.justification if because.verdict else "",
                str(because),
                cure_of(reasons.things[thing], reasons.statement(statement)),
            )
        )
    told.sort(key=lambda r: (r.vulnerability, r.part.ref))
    return VEX[format](told, uuid5(NAMESPACE_URL, f"{english(asked.tree)} {at}"), at, BY)


def _names(numbers: list[int]) -> tuple[dict[int, str], dict[int, list[str]]]:
    db, among = raw_connection(), json.dumps(numbers)
    names = dict(
        db.execute("SELECT id, name FROM exposure_vulnerability WHERE id IN (SELECT value FROM json_each(?))", [among])
    )
    aliases: dict[int, list[str]] = {}
    for number, name in db.execute(
        "SELECT vulnerability_id, name FROM exposure_alias WHERE vulnerability_id IN (SELECT value FROM json_each(?)) "
        "ORDER BY name",
        [among],
    ):
        if name != names[number]:
            aliases.setdefault(number, []).append(name)
    return names, aliases
