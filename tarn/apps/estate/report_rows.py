"""Rows of reports: people, and what changed on devices."""

import time
from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.people.persons import people
from tarn.apps.estate.register import device_changes
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.estate.software import products
from tarn.core.history import Change
from tarn.core.naming import ROLES
from tarn.core.report_rows import ReportRow, RowsAsked

DAY = 86_400
_CHANGE = {
    "at": ("When", "moment"),
    "verb": ("Change", "text"),
    "thing": ("What", "text"),
    "before": ("Before", "text"),
    "after": ("After", "text"),
}


def _people(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for person in people(asked.at, asked.filter):
        yield {**person, "id": None}


def _changed(find: Callable[[Question, int, int], list[Change]], asked: RowsAsked) -> Iterator[dict[str, Any]]:
    until = asked.at or int(time.time())
    wanted = [n[6:] for n in asked.names if n.startswith("asset.")]
    changes = find(asked.question, until - asked.days * DAY, until)
    devices = {r["id"]: r for r in rows_of("asset", wanted, asked.question, "", [])} if wanted else {}
    for change in changes:
        beside = devices.get(change.asset, {})
        yield {
            "id": change.asset,
            "at": iso(change.at),
            "verb": change.verb,
            "thing": change.thing,
            "before": change.before,
            "after": change.after,
            **{f"asset.{n}": beside.get(n) for n in wanted},
        }


ROWS = (
    ReportRow(
        "person",
        "person",
        {
            "name": ("Name", "text"),
            "department": ("Department", "text"),
            "title": ("Title", "text"),
            "email": ("Mail", "text"),
            "account": ("Account", "text"),
            "holds": ("Devices held", "number"),
            "signed_in": ("Devices last signed in to", "number"),
            "joined_at": ("Known since", "moment"),
            "left_at": ("Left", "moment"),
        },
        ("name",),
        _people,
    ),
    ReportRow(
        "change",
        "change of software",
        {**_CHANGE, "thing": ("Product", "text")},
        ("id", "at", "verb", "thing", "before", "after"),
        partial(_changed, lambda asked, since, until: products.changes(asked, since, until, ROLES)),
        over_days=True,
    ),
    ReportRow(
        "hardware_change",
        "change of hardware",
        {**_CHANGE, "thing": ("Part", "text")},
        ("id", "at", "verb", "thing", "before", "after"),
        partial(_changed, device_changes.hardware),
        over_days=True,
    ),
    ReportRow(
        "activity",
        "start or sign-in",
        {n: _CHANGE[n] for n in ("at", "verb", "thing")},
        ("id", "at", "verb", "thing"),
        partial(_changed, device_changes.activity),
        over_days=True,
    ),
)
