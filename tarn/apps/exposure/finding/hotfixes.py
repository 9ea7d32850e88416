"""Findings ended by installed hotfixes: an update that a remedy names, or one that supersedes it, carries the cure."""

import json
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.exposure.ground import ADVISORIES
from tarn.core.exposure.hotfixes import carrying, named

OPEN = 0xFFFFFFFF


def without_cured(rows: Any) -> Any:
    """Return findings without the times at which a device had an update that carries the cure."""
    of = _carrying(np.unique(rows["vulnerability"]).tolist()) if len(rows) else {}
    if not of:
        return rows
    touched = np.isin(rows["vulnerability"], list(of))
    times = _installed({u for updates in of.values() for u in updates})
    out = [rows[~touched]]
    for row in rows[touched]:
        spans = [(int(row["begins"]), int(row["ends"]))]
        for update in of[int(row["vulnerability"])]:
            for begins, ends in times.get((int(row["asset"]), update), ()):
                spans = [s for a, b in spans for s in ((a, min(b, begins)), (max(a, ends), b)) if s[0] < s[1]]
        for begins, ends in spans:
            kept = row.copy()
            kept["begins"], kept["ends"] = begins, ends
            out.append(kept.reshape(1))
    return np.concatenate(out)


@dataclass(frozen=True)
class _Said:
    """What remedies name: by vulnerability the words that may be updates, and by update those that supersede it."""

    cures: dict[int, set[str]]
    superseding: dict[str, set[str]]


_said: Remembered[_Said] = Remembered("updates that remedies name", ADVISORIES, most=1)


def _read() -> _Said:
    said = _Said(defaultdict(set), defaultdict(set))
    for vulnerability, more in raw_connection().execute(
        "SELECT t.vulnerability_id, t.more FROM exposure_telling t JOIN exposure_document d ON d.id = t.document_id "
        "WHERE d.ends IS NULL AND t.withdrawn IS NULL AND instr(t.more, '\"vendor_fix\"')"
    ):
        for remedy in json.loads(more).get("remedies", ()):
            if remedy["sort"] == "vendor_fix":
                told = named(f"{remedy['text']} {remedy.get('link', '')}")
                said.cures[vulnerability] |= told.cures
                # One that nobody has may stand between two that somebody has: all are kept.
                for old in told.superseded:
                    said.superseding[old] |= told.cures
    return said


def _carrying(vulnerabilities: list[int]) -> dict[int, frozenset[str]]:
    """Return by vulnerability the updates that carry its cure, of those that are or were on any device."""
    there = {name.casefold() for (name,) in raw_connection().execute("SELECT DISTINCT name FROM estate_updatesspan")}
    if not there:
        return {}
    said = _said.get("all", _read)
    found = {v: carrying(said.cures[v], said.superseding) & there for v in vulnerabilities if v in said.cures}
    return {v: updates for v, updates in found.items() if updates}


def _installed(updates: set[str]) -> dict[tuple[int, str], list[tuple[int, int]]]:
    out: dict[tuple[int, str], list[tuple[int, int]]] = defaultdict(list)
    for asset, name, begins, ends in raw_connection().execute(
        "SELECT asset_id, name, valid_from, ifnull(valid_to, ?) FROM estate_updatesspan", [OPEN]
    ):
        if name.casefold() in updates:
            out[asset, name.casefold()].append((begins, ends))
    return out
