"""Rows of reports: findings, advisories that touch what is here, changes to do."""

from collections.abc import Iterator
from typing import Any

from tarn.apps.exposure import overview
from tarn.apps.exposure.doing.first import first
from tarn.apps.exposure.grading.kept import kept
from tarn.apps.exposure.shown import listed
from tarn.core.report_rows import ReportRow, RowsAsked


def _findings(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for row in listed(asked.question):
        yield {**row, "aliases": ", ".join(row["aliases"]), "id": row["asset"]}


def _advisories(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for row in overview.advisories(asked.question):
        yield {**row, "aliases": ", ".join(row["aliases"]), "exploited": row["used"] is not None, "id": None}


def _changes(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    told = first(asked.question)
    for place, row in enumerate(told["changes"], start=1):
        ends = sum(row["ends"].values())
        share = round(100 * row["left"] / told["open"]) if told["open"] else 0
        to = row["target"] or ", ".join(f"{t['target']} ({t['under']})" for t in row["targets"])
        yield {**row, "place": place, "target": to, "ends": ends, "left_share": share, "id": None}


def _promises(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for row in kept(asked.question, asked.days)["rows"]:
        yield {
            "id": None,
            "grade": row["grade"],
            "promised": row["promised"],
            "kept": row["kept"],
            "broken": row["broken"],
            "half_days": row["half_days"],
            "open_late": row["open_late"]["devices"],
            "open_in_time": row["open_in_time"]["devices"],
        }


ROWS = (
    ReportRow(
        "promise",
        "promise by grade",
        {
            "grade": ("Asks for", "text"),
            "promised": ("Promised within days", "number"),
            "kept": ("Ended in time", "number"),
            "broken": ("Ended late", "number"),
            "half_days": ("Days until half ended", "number"),
            "open_late": ("Devices open, late", "number"),
            "open_in_time": ("Devices open, in time", "number"),
        },
        ("grade",),
        _promises,
    ),
    ReportRow(
        "finding",
        "device open to an advisory",
        {
            "device": ("Device", "text"),
            "advisory": ("Advisory", "text"),
            "aliases": ("Also called", "text"),
            "product": ("Product", "text"),
            "release": ("Release", "version"),
            "status": ("Status", "text"),
            "since": ("Open since", "moment"),
            "score": ("Score", "number"),
            "exploited": ("In use", "yes/no"),
            "grade": ("Asks for", "text"),
            "because": ("Because", "text"),
        },
        ("id", "advisory"),
        _findings,
    ),
    ReportRow(
        "advisory",
        "advisory that touches us",
        {
            "name": ("Advisory", "text"),
            "aliases": ("Also called", "text"),
            "title": ("What it is", "text"),
            "grade": ("Asks for", "text"),
            "devices": ("Devices", "number"),
            "unsure": ("Under investigation", "number"),
            "exploited": ("In use", "yes/no"),
            "chance": ("Chance", "number"),
            "score": ("Score", "number"),
            "published": ("Published", "moment"),
            "since": ("Open since", "moment"),
            "late": ("Late", "number"),
        },
        ("name",),
        _advisories,
    ),
    ReportRow(
        "change_to_do",
        "change to do",
        {
            "place": ("Place", "number"),
            "verb": ("Change", "text"),
            "product": ("What", "text"),
            "target": ("To", "text"),
            "devices": ("Devices", "number"),
            "advisories": ("Advisories", "number"),
            "used": ("In use", "number"),
            "ends": ("Ends", "number"),
            "left": ("Open after", "number"),
            "left_share": ("Open after, percent", "number"),
            "score": ("Worst score", "number"),
            "due": ("Promised by", "moment"),
            "disturbs": ("Disturbs", "text"),
        },
        ("key",),
        _changes,
    ),
)
