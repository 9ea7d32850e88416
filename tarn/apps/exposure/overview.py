"""Exposure of a selection: how much is open, by advisory and by place, each figure with what opens it."""

import time
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import numpy as np
from dateutil.relativedelta import relativedelta
from django.db.models import Min

from tarn.apps.estate.asking.ask import Question, question
from tarn.apps.estate.asking.dial import iso, read_dial, zone
from tarn.apps.estate.register.strata import columns, selected
from tarn.apps.exposure.finding.advisories import Known
from tarn.apps.exposure.finding.findings import AFFECTED, Knowledge, bracket, findings
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.grading.promising import late
from tarn.apps.exposure.models import Document, FeedRun
from tarn.apps.exposure.results import (
    AdvisoryRow,
    DevicesOut,
    ExposureOnDay,
    ExposureOut,
    ExposureYear,
)
from tarn.apps.exposure.shown import touching
from tarn.core.exposure.grade import GRADES
from tarn.core.filters.tree import EVERYTHING, to_text

_ANY = "accepted = no"
_TOLD = "own = no and accepted = no"
_OWN = "own = yes and accepted = no"
_UNSURE = 'status = "under investigation" and accepted = no'


@dataclass(frozen=True)
class Open:
    """What is open on a selection at a moment and not accepted: a row a device and advisory, with its grade.

    `rows`: the findings in part, a row a release, those of one device and advisory from `first` on; `devices`: how
    many the selection has.
    """

    rows: Any
    first: Any
    vulnerability: Any
    asset: Any
    since: Any
    sure: Any
    grade: Any
    known: dict[int, Known]
    devices: int
    at: int | None

    @property
    def moment(self) -> int:
        """As of when it is."""
        return self.at or int(time.time())

    def late(self) -> Any:
        """Return by row whether its promised day has passed."""
        return late(self.grade, self.rows[self.first], self.known, self.at)


def open_on(asked: Question, knowledge: Knowledge = "then") -> Open:
    """Return what is open on a selection: the worst of several releases of one device counts."""
    held = columns(asked.at)
    mask = selected(held, asked)
    rows = findings(knowledge).at(asked.at)
    wanted = np.zeros(int(max(held.assets.max(initial=0), rows["asset"].max(initial=0))) + 1, dtype=bool)
    wanted[held.assets[mask]] = True
    rows = rows[wanted[rows["asset"]]]
    rows = rows[~accepted.mask(rows, asked.at)]
    pairs = rows["vulnerability"].astype(np.int64) << 32 | rows["asset"]
    first = np.flatnonzero(np.concatenate(([True], pairs[1:] != pairs[:-1]))) if len(pairs) else np.empty(0, dtype=int)
    sure = np.logical_or.reduceat(rows["status"] == AFFECTED, first) if len(first) else np.empty(0, dtype=bool)
    one, known = rows[first], touching(asked.at, knowledge)
    since = one["since"]
    grade = grades(one, known, asked.at)
    devices = int(np.count_nonzero(mask))
    return Open(rows, first, one["vulnerability"], one["asset"], since, sure, grade, known, devices, asked.at)


def overview(asked: Question, knowledge: Knowledge = "then") -> ExposureOut:
    """Return how much is open on a selection."""
    there = open_on(asked, knowledge)
    touching_now = np.unique(there.vulnerability[there.vulnerability > 0]).tolist()
    used = np.array([n for n in touching_now if there.known[n].used is not None], dtype=np.int32)
    read = FeedRun.objects.filter(state__in=("done", "held")).order_by("-ended_at").first()
    within = to_text(asked.tree) if asked.tree != EVERYTHING else ""

    def on(mask: Any, inner: str) -> DevicesOut:
        held = bracket(inner, knowledge)
        text = f"({within}) and {held}" if within else held
        return {"devices": len(np.unique(there.asset[mask])), "filter": text}

    everything = np.ones(len(there.asset), dtype=bool)
    return {
        "advisories": len(touching_now),
        "used": len(used),
        "of": there.devices,
        "open": len(there.asset),
        "grades": {g: int(np.count_nonzero(there.grade == n)) for n, g in enumerate(GRADES)},
        "rules": len(np.unique(there.vulnerability[there.vulnerability < 0])),
        "any_on": on(everything, _ANY),
        "on": on(there.vulnerability > 0, _TOLD),
        "own_on": on(there.vulnerability < 0, _OWN),
        "used_on": on(np.isin(there.vulnerability, used), "exploited = yes and accepted = no"),
        "late_on": on(there.late(), "late = yes and accepted = no"),
        "unsure_on": on(~there.sure, _UNSURE),
        "read_at": iso(read.ended_at) if read else None,
    }


def year(filter: str, at: int | None) -> ExposureYear:
    """Return how much was open on a selection month by month for a year back, as far as anything was known."""
    since = Document.objects.aggregate(first=Min("begins"))["first"]
    ends = datetime.fromtimestamp(at or time.time(), zone()).date()
    texts = [(ends - relativedelta(months=n)).isoformat() for n in range(1, 13)]
    told = [
        (d, moment) for d in texts if (moment := read_dial(d)) is not None and since is not None and moment >= since
    ]
    days: list[ExposureOnDay] = [{"day": d, "stood": overview(question(filter, m))} for d, m in told]
    last: ExposureOnDay = {"day": None if at is None else ends.isoformat(), "stood": overview(question(filter, at))}
    return {"since": iso(since), "days": [last, *days]}


def advisories(asked: Question, knowledge: Knowledge = "then") -> list[AdvisoryRow]:
    """Return the advisories that touch a selection, the gravest first."""
    there = open_on(asked, knowledge)
    late = there.late()
    numbers, first, times = np.unique(there.vulnerability, return_index=True, return_counts=True)
    out: list[AdvisoryRow] = []
    for number, at, many in zip(numbers.tolist(), first.tolist(), times.tolist(), strict=True):
        if number < 0:
            continue  # rules of our own have a page of theirs
        one, mine = there.known[number], slice(at, at + many)
        sure = int(np.count_nonzero(there.sure[mine]))
        out.append(
            {
                "name": one.name,
                "aliases": one.aliases,
                "title": one.title or one.text[:160],
                "published": iso(one.published),
                "met": iso(one.met),
                "since": iso(int(there.since[mine].min())),
                "score": one.score.base if one.score else None,
                "used": iso(one.used),
                "chance": one.chance,
                "percentile": one.percentile,
                "devices": sure,
                "unsure": many - sure,
                "late": int(np.count_nonzero(late[mine])),
                "grade": GRADES[int(there.grade[mine].min())],
            }
        )
    out.sort(key=lambda r: (GRADES.index(r["grade"]), r["used"] is None, -(r["score"] or 0), -r["devices"], r["name"]))
    return out
