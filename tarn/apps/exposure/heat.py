"""Open findings laid out by two things at once: fields of devices, grades, and for how long they have been open."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.register.strata import Columns, columns, selected
from tarn.apps.exposure.finding.findings import Knowledge, bracket
from tarn.apps.exposure.overview import Open, open_on
from tarn.apps.exposure.results import HeatCell, HeatOut, HeatRow
from tarn.core.exposure.grade import GRADES
from tarn.core.filters.tree import Compare, Plain, Presence, to_text

FIELDS = ("place", "kind", "department", "manufacturer", "os.name", "organisation")
BY = (*FIELDS, "grade", "age")
"""What open findings are laid out by."""
_AGES = (("under a week", "", "7d"), ("a week to a month", "7d", "30d"), ("a month to three", "30d", "90d"),
         ("over three months", "90d", ""))  # fmt: skip
_DAYS = {"7d": 7, "30d": 30, "90d": 90, "": 0}
DAY = 86_400


@dataclass(frozen=True)
class _Slice:
    """One value of what is laid out by: `holds` by finding; `of_device` and `of_finding`: what says so in a filter."""

    name: str
    holds: Any
    of_device: str = ""
    of_finding: str = ""
    devices: int | None = None


def heat(asked: Question, by: str, across: str = "grade", knowledge: Knowledge = "then") -> HeatOut:
    """Return open findings laid out; the rows with most to do at once first, grades and ages in their own order."""
    there, held = open_on(asked, knowledge), columns(asked.at)
    mask = selected(held, asked)
    columns_ = list(_slices(across, there, held, mask))
    rows: list[HeatRow] = []
    for row in _slices(by, there, held, mask):
        cells: list[HeatCell] = [
            {"name": c.name, "devices": _devices(there, row.holds & c.holds), "filter": _filter(knowledge, row, c)}
            for c in columns_
        ]
        rows.append(
            {
                "name": row.name,
                "within": row.of_device,
                "filter": _filter(knowledge, row),
                "of": there.devices if row.devices is None else row.devices,
                "devices": _devices(there, row.holds),
                "cells": cells,
            }
        )
    if by in FIELDS:
        rows.sort(key=lambda r: (*(-c["devices"] for c in r["cells"]), r["name"]))
    return {"by": by, "across": across, "columns": [c.name for c in columns_], "rows": rows}


def _devices(there: Open, mask: Any) -> int:
    return len(np.unique(there.asset[mask]))


def _slices(by: str, there: Open, held: Columns, mask: Any) -> Iterator[_Slice]:
    if by == "grade":
        for n, grade in enumerate(GRADES):
            yield _Slice(grade, there.grade == n, of_finding=to_text(Compare("grade", "=", Plain(grade, True))))
    elif by == "age":
        yield from _ages(there)
    else:
        field = "os_name" if by == "os.name" else by
        codes = held.terms[field][np.searchsorted(held.assets, there.asset)] if len(there.asset) else there.asset
        for code in np.unique(held.terms[field][mask]).tolist():
            word = held.words.get(code)
            within = to_text(Compare(by, "=", Plain(word, True)) if word else Presence(by, False))
            devices = int(np.count_nonzero(mask & (held.terms[field] == code)))
            yield _Slice(word or f"no {by}", codes == code, of_device=within, devices=devices)


def _ages(there: Open) -> Iterator[_Slice]:
    old = there.moment - there.since.astype(np.int64)
    for name, least, most in _AGES:
        holds = (old >= _DAYS[least] * DAY) if least else np.ones(len(old), dtype=bool)
        if most:
            holds &= old < _DAYS[most] * DAY
        told = [f"open <= now - {least}"] * bool(least) + [f"open > now - {most}"] * bool(most)
        yield _Slice(name, holds, of_finding=" and ".join(told))


def _filter(knowledge: Knowledge, *slices: _Slice) -> str:
    inner = " and ".join([*(s.of_finding for s in slices if s.of_finding), "accepted = no"])
    return " and ".join([*(s.of_device for s in slices if s.of_device), bracket(inner, knowledge)])
