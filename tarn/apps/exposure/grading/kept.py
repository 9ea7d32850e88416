"""Promises kept and broken: findings that ended since a day, and those still open, against their promised end."""

import json
import time
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.strata import columns, selected
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.findings import bracket, findings
from tarn.apps.exposure.finding.occurrences import OPEN
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.grading.policy import policy
from tarn.apps.exposure.grading.promising import promised
from tarn.apps.exposure.grading.results import EndedFinding, KeptPromises, KeptRow
from tarn.apps.exposure.shown import device_names, touching
from tarn.core.exposure.grade import GRADES
from tarn.core.filters.tree import Compare, Plain, to_text

DAY = 86_400
MOST = 500
"""Findings that are told one by one."""
Fared = Literal["kept", "late"]


@dataclass(frozen=True)
class _Whole:
    """Findings from their first day to their last, a row each: those that ended since a moment or are open."""

    rows: Any
    grade: Any
    over: Any
    at: int


def _whole(asked: Question, since: int) -> _Whole:
    held = columns(asked.at)
    mine = held.assets[selected(held, asked)]
    at = asked.at or int(time.time())
    rows = findings().rows
    rows = rows[np.isin(rows["asset"], mine) & (rows["since"] <= at) & (rows["until"] > since)]
    if len(rows):
        keys = (rows["vulnerability"], rows["asset"], rows["since"])
        last = np.ones(len(rows), dtype=bool)
        last[:-1] = np.logical_or.reduce([k[1:] != k[:-1] for k in keys])
        rows = rows[last]  # by the part that ended last: how it ended is told of that
    known = touching(asked.at)
    grade = grades(rows, known, asked.at)
    return _Whole(rows, grade, promised(grade, rows, known, asked.at), at)


def _ended(whole: _Whole) -> Any:
    return whole.rows["until"] <= whole.at


def kept(asked: Question, days: int) -> KeptPromises:
    """Return by grade how promises fared in the last so many days, and how what is open stands to them."""
    since = (asked.at or int(time.time())) - days * DAY
    whole = _whole(asked, since)
    ended, promise = _ended(whole), policy(asked.at).promises.days
    open_rows = ~ended & ~accepted.mask(whole.rows, asked.at)
    in_time = (whole.over == 0) | (whole.rows["until"] <= whole.over)
    past = (whole.over > 0) & (whole.over < whole.at)
    took = (whole.rows["until"].astype(np.int64) - whole.rows["since"]) / DAY
    rows: list[KeptRow] = []
    for n, grade in enumerate(GRADES):
        mine = whole.grade == n
        done = mine & ended
        inner = to_text(Compare("grade", "=", Plain(grade, True)))
        still = {
            "late": _devices(whole.rows[mine & open_rows & past]),
            "in_time": _devices(whole.rows[mine & open_rows & ~past]),
        }
        rows.append(
            {
                "grade": grade,
                "promised": promise[grade],
                "kept": int(np.count_nonzero(done & in_time)),
                "broken": int(np.count_nonzero(done & ~in_time)),
                "half_days": round(float(np.median(took[done])), 1) if done.any() else None,
                "open_late": {
                    "devices": still["late"],
                    "filter": bracket(f"{inner} and late = yes and accepted = no"),
                },
                "open_in_time": {
                    "devices": still["in_time"],
                    "filter": bracket(f"{inner} and late = no and accepted = no"),
                },
            }
        )
    return {"since": iso(since), "rows": rows}


def _devices(rows: Any) -> int:
    return len(np.unique(rows["asset"]))


def ended(asked: Question, days: int, grade: str, fared: Fared) -> list[EndedFinding]:
    """Return the findings of a grade that ended, in time or late, the latest first; of very many the latest alone."""
    whole = _whole(asked, (asked.at or int(time.time())) - days * DAY)
    in_time = (whole.over == 0) | (whole.rows["until"] <= whole.over)
    mine = _ended(whole) & (whole.grade == GRADES.index(next(g for g in GRADES if g == grade)))
    mine &= in_time if fared == "kept" else ~in_time
    rows, over = whole.rows[mine], whole.over[mine]
    order = np.argsort(rows["until"], kind="stable")[::-1][:MOST]
    rows, over = rows[order], over[order]
    known = touching(asked.at)
    names = device_names(np.unique(rows["asset"]).tolist(), asked.at)
    return [
        {
            "asset": row["asset"],
            "device": names.get(row["asset"], ""),
            "advisory": known[row["vulnerability"]].name,
            "own": row["vulnerability"] < 0,
            "since": iso(row["since"]),
            "until": iso(row["until"]),
            "due": iso(int(due)) if due else None,
            "days": round((row["until"] - row["since"]) / DAY, 1),
            "how": how,
        }
        for row, due, how in zip(_as_dicts(rows), over.tolist(), how_ended(rows), strict=True)
    ]


def _as_dicts(rows: Any) -> Iterator[dict[str, int]]:
    names = rows.dtype.names
    return (dict(zip(names, row, strict=True)) for row in rows.tolist())


def how_ended(rows: Any) -> Iterator[str]:
    """Yield how each finding ended: updated, removed, device gone, statement changed, or no longer fits the rule."""
    told = things.some(np.unique(rows["thing"]).tolist())
    for row in _as_dicts(rows):
        if row["vulnerability"] < 0:
            yield "no longer fits" if _there(row) else "device gone"
        elif row["until"] == OPEN:
            yield ""
        elif _said_otherwise(row):
            yield "statement changed"
        elif not _there(row):
            yield "device gone"
        else:
            yield "updated" if _goes_on(row, told[row["thing"]]) else "removed"


def _said_otherwise(row: dict[str, int]) -> bool:
    found = raw_connection().execute(
        "SELECT 1 FROM exposure_status WHERE thing_id = ? AND vulnerability_id = ? AND ends = ?",
        [row["thing"], row["vulnerability"], row["until"]],
    )
    return found.fetchone() is not None


def _there(row: dict[str, int]) -> bool:
    found = raw_connection().execute(
        "SELECT 1 FROM estate_assetspan s JOIN estate_term t ON t.id = s.standing_id WHERE s.asset_id = ? "
        "AND t.text = 'register' AND s.valid_from <= ? AND (s.valid_to IS NULL OR s.valid_to > ?)",
        [row["asset"], row["until"], row["until"]],
    )
    return found.fetchone() is not None


def _goes_on(row: dict[str, int], thing: things.Row) -> bool:
    """Whether another release of it was there right after."""
    if thing.part != "a":
        return True
    found = raw_connection().execute(
        "SELECT 1 FROM estate_installspan i JOIN estate_listing l ON l.id = i.listing_id "
        "LEFT JOIN estate_product p ON p.id = l.product_id WHERE i.asset_id = ? AND i.valid_from <= ? "
        "AND (i.valid_to IS NULL OR i.valid_to > ?) AND (p.name = ? OR l.name IN (SELECT value FROM json_each(?)))",
        [row["asset"], row["until"], row["until"], thing.product, json.dumps([thing.product, thing.package])],
    )
    return found.fetchone() is not None
