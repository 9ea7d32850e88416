"""Which device had which thing, from when to when: held for the things some vulnerability is or may be about.

Made of the estate's spans; carried on for the devices with new evidence and for the things that come to it.
"""

import json
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, LISTED
from tarn.apps.exposure.finding import components, things
from tarn.apps.exposure.finding.things import SYSTEM_SQL, Row, System

OPEN = 0xFFFFFFFF
"""The end of what has not ended; times are seconds since 1970 in 32 bits, which lasts until 2106."""
_SHAPE = np.dtype([("thing", "i4"), ("asset", "i4"), ("begins", "u4"), ("ends", "u4")])


@dataclass(frozen=True)
class Occurrences:
    """Rows of thing, asset, begins and ends, by thing; `covered`: the things whose rows are all here."""

    rows: Any
    covered: frozenset[int]

    def of(self, numbers: Iterable[int]) -> Any:
        """Return the rows of some things, those of one together."""
        at = [np.searchsorted(self.rows["thing"], (n, n + 1)) for n in sorted(set(numbers))]
        kept = [self.rows[a:b] for a, b in at if b > a]
        return np.concatenate(kept) if kept else self.rows[:0]


_occurrences: Remembered[Occurrences] = Remembered(
    "devices with what is vulnerable", EVIDENCE, LISTED, most=1, one_at_a_time=True
)


def occurrences(needed: frozenset[int]) -> Occurrences:
    """Return where things are and were, these at the least; a component is where what it is part of is."""
    of = components.parents(needed)
    if not of:
        return _directly(needed)
    held = _directly((needed - of.keys()) | {p for parents in of.values() for p in parents})
    more = []
    for number, parents in of.items():
        rows = held.of(parents).copy()
        rows["thing"] = number
        more.append(merged(rows))
    rows = np.concatenate((held.rows, *more))
    return Occurrences(rows[np.argsort(rows["thing"], kind="stable")], held.covered | of.keys())


def _directly(needed: frozenset[int]) -> Occurrences:
    """Return where things are and were, these at the least; what is remembered is carried on."""
    held = _occurrences.get("all", lambda: Occurrences(np.empty(0, _SHAPE), frozenset()), _carried_on)
    missing = needed - held.covered
    if missing:
        more = _read(missing, None)
        rows = np.concatenate((held.rows, more))
        held = Occurrences(rows[np.argsort(rows["thing"], kind="stable")], held.covered | missing)
        _occurrences.put("all", held)
    return held


def _carried_on(before: Occurrences, since: int) -> Occurrences | None:
    devices = touched(since)
    if devices is None:
        return None
    if not devices:
        return before
    kept = before.rows[~np.isin(before.rows["asset"], np.array(devices, dtype=np.int32))]
    rows = np.concatenate((kept, _read(before.covered, devices)))
    return Occurrences(rows[np.argsort(rows["thing"], kind="stable")], before.covered)


def _read(wanted: frozenset[int], devices: list[int] | None) -> Any:
    """Return the rows of things, of some devices or of all."""
    rows = {row: number for number, row in things.everything().items() if number in wanted}
    if not rows:
        return np.empty(0, _SHAPE)
    spans = _systems(devices)
    out = list(_of_systems(rows, spans)) if any(r.part != "a" for r in rows) else []
    out += _of_releases(rows, spans, devices)
    return merged(np.array(out, _SHAPE)) if out else np.empty(0, _SHAPE)


Spans = dict[int, list[tuple[int, int, System]]]


def _systems(devices: list[int] | None) -> Spans:
    """Return by asset what it was, from when to when; spans that say the same stand as one."""
    among, values = ("", [])
    if devices is not None:
        among, values = " WHERE s.asset_id IN (SELECT value FROM json_each(?))", [json.dumps(devices)]
    known: dict[tuple[str, ...], System] = {}
    out: Spans = defaultdict(list)
    for asset, begins, ends, *told in raw_connection().execute(
        f"SELECT s.asset_id, s.valid_from, s.valid_to, {SYSTEM_SQL} FROM estate_assetspan s{among} "
        "ORDER BY s.asset_id, s.valid_from",
        values,
    ):
        system = known.setdefault(tuple(told), System(*told))
        mine, end = out[asset], OPEN if ends is None else ends
        if mine and mine[-1][1] == begins and mine[-1][2] is system:
            mine[-1] = (mine[-1][0], end, system)
        else:
            mine.append((begins, end, system))
    return out


def _of_systems(rows: dict[Row, int], spans: Spans) -> Iterable[tuple[int, int, int, int]]:
    of: dict[System, list[int]] = {}
    for asset, mine in spans.items():
        for begins, ends, system in mine:
            numbers = of.get(system)
            if numbers is None:
                numbers = of[system] = [rows[r] for r in things.of_system(system) if r in rows]
            for number in numbers:
                yield number, asset, begins, ends


def _of_releases(rows: dict[Row, int], spans: Spans, devices: list[int] | None) -> Iterable[tuple[int, int, int, int]]:
    names = {(n, r.version) for r in rows if r.part == "a" for n in (r.package or r.product, r.product)}
    installed = None if devices is None else _installed_on(devices)
    only = None if installed is None else {release for _, release, _, _ in installed}
    by_number = {
        number: found
        for number, found in things.releases(only).items()
        if (found.listed, found.version) in names or (found.product, found.version) in names
    }
    of: dict[tuple[int, System], int] = {}
    for asset, release, begins, ends in installed if installed is not None else _installed(list(by_number)):
        if release not in by_number:
            continue
        end = OPEN if ends is None else ends
        for from_, to, system in spans.get(asset, ()):
            if from_ < end and to > begins:
                number = of.get((release, system))
                if number is None:
                    number = of[release, system] = rows.get(things.of_release(by_number[release], system), 0)
                if number:
                    yield number, asset, max(begins, from_), min(end, to)


Installed = tuple[int, int, int, int | None]
"""Asset, release, begin and end of an installation. Open and closed spans have indexes of their own, so each half is
asked for by itself."""


def _installed_on(devices: list[int]) -> list[Installed]:
    columns = "i.asset_id, i.release_id, i.valid_from, i.valid_to FROM json_each(?) n "
    join = "CROSS JOIN estate_installspan i ON i.asset_id = n.value"
    found: list[Installed] = []
    for half in ("NULL", "NOT NULL"):
        statement = f"SELECT {columns}{join} WHERE i.valid_to IS {half}"
        found += raw_connection().execute(statement, [json.dumps(devices)]).fetchall()
    return found


def _installed(releases: list[int]) -> Iterable[Installed]:
    for half in ("NULL", "NOT NULL"):
        yield from raw_connection().execute(
            "SELECT i.asset_id, i.release_id, i.valid_from, i.valid_to FROM json_each(?) n "
            "CROSS JOIN estate_release r ON r.id = n.value CROSS JOIN estate_installspan i "
            f"ON i.listing_id = r.listing_id AND i.release_id = r.id AND i.valid_to IS {half}",
            [json.dumps(releases)],
        )


def merged(rows: Any) -> Any:
    """Return rows with those of one thing and asset that touch or overlap made one."""
    rows = np.sort(rows, order=("thing", "asset", "begins"))
    if len(rows) < 2:
        return rows
    other = (rows["thing"][1:] != rows["thing"][:-1]) | (rows["asset"][1:] != rows["asset"][:-1])
    first, furthest = runs(other, rows["begins"], rows["ends"])
    last = np.concatenate((first[1:], [len(rows)])) - 1
    out = rows[first].copy()
    out["ends"] = furthest[last]
    return out


def runs(other: Any, begins: Any, ends: Any) -> tuple[Any, Any]:
    """Return where each run of rows that touch or overlap begins, and by row the furthest end so far within its group.

    `other`: between which rows a group ends; within one they are by `begins`.
    """
    shift = np.concatenate(([0], np.cumsum(other))).astype(np.int64) << 33
    furthest = np.maximum.accumulate(ends.astype(np.int64) + shift) - shift
    apart = other | (begins[1:].astype(np.int64) > furthest[:-1])
    return np.concatenate(([0], np.flatnonzero(apart) + 1)), furthest
