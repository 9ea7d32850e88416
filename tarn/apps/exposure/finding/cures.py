"""What ends a finding: the release that carries the cure, by thing and by the statement that is believed of it."""

import json
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.ground import ADVISORIES
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.outside import Thing
from tarn.core.exposure.status import order_of
from tarn.core.exposure.told import Statement
from tarn.core.versions import VersionError, version_key

_cures: Remembered[dict[tuple[int, int], str]] = Remembered("releases that carry a cure", ADVISORIES, most=1)


def cures(rows: Any) -> dict[tuple[int, int], str]:
    """Return by thing and statement the release that carries the cure, empty where none is told."""
    held = _cures.get("all", dict)
    pairs = set(zip(rows["thing"].tolist(), rows["statement"].tolist(), strict=True)) if len(rows) else set()
    missing = pairs - held.keys()
    if missing:
        outside = things.names()
        told = {n: outside.thing(row) for n, row in things.some([t for t, _ in missing]).items()}
        cursor = raw_connection().execute(
            "SELECT id, body FROM exposure_statementrow WHERE id IN (SELECT value FROM json_each(?))",
            [json.dumps(sorted({s for _, s in missing}))],
        )
        said = {number: read_statement(body) for number, body in cursor}
        held.update({(t, s): cure_of(told[t], said[s]) if t else "" for t, s in missing})
    return held


def cure_of(thing: Thing, statement: Statement) -> str:
    """Return the lowest release above the one that is here that a statement says carries the cure."""
    order, version, _ = order_of(thing, statement)
    try:
        here = version_key(version, order) if version else ""
        above = [(key, f) for f in statement.fixed_in if (key := version_key(f, order)) > here]
    except VersionError:
        return statement.fixed_in[-1] if statement.fixed_in else ""
    return min(above)[1] if above else ""


def highest(order: str, versions: set[str]) -> str:
    """Return the highest of versions by an order, by the plain one where it is none of that."""

    def key(version: str) -> tuple[bool, str]:
        try:
            return True, version_key(version, order)
        except VersionError:
            return False, version_key(version)

    return max(versions, key=key)


def distinct(rows: Any) -> tuple[list[tuple[int, int]], Any]:
    """Return the distinct pairs of thing and statement of findings, and by finding which of them it is."""
    keys = rows["thing"].astype(np.int64) << 40 | rows["statement"]
    found, where = np.unique(keys, return_inverse=True)
    return [(k >> 40, k & ((1 << 40) - 1)) for k in found.tolist()], where
