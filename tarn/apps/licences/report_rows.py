"""Rows of reports: positions, licences, and what is said of them."""

from collections.abc import Iterator
from typing import Any

from tarn.apps.licences.reads import judging, licences, positions
from tarn.core.report_rows import ReportRow, RowsAsked

_POSITION = {
    "name": ("Product", "text"),
    "metric": ("Counted by", "text"),
    "unit": ("Unit", "text"),
    "entitled": ("Entitled", "number"),
    "needed": ("Needed", "number"),
    "assigned": ("Assigned", "number"),
    "short": ("Short", "number"),
    "spare": ("Spare", "number"),
    "installations": ("Installations", "number"),
    "cure": ("Cost to cure", "number"),
    "spare_value": ("Value of spare", "number"),
    "currency": ("Currency", "text"),
}


def _positions(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for balance in positions.for_report(asked.at):
        yield {**balance, "id": None}


def _shortages(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    return (balance for balance in _positions(asked) if balance["short"])


def _licences(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for licence in licences.for_report(asked.at):
        yield {**licence, "licence": licence["id"], "id": None}


def _idle(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for idle in judging.idle(asked.at):
        yield {**idle, "worth": float(idle["worth"]) if idle["worth"] else None, "id": idle["asset"]}


def _warnings(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for warning in judging.warnings(asked.at):
        yield {**warning, "id": None}


ROWS = (
    ReportRow(
        "position",
        "position of licences",
        _POSITION,
        ("key",),
        _positions,
        filtered=False,
    ),
    ReportRow(
        "shortage",
        "position that is short",
        _POSITION,
        ("key",),
        _shortages,
        filtered=False,
    ),
    ReportRow(
        "licence",
        "licence",
        {
            "name": ("Licence", "text"),
            "publisher": ("Publisher", "text"),
            "products": ("Covers", "text"),
            "metric": ("Counted by", "text"),
            "quantity": ("Owned", "number"),
            "used": ("Drawn on", "number"),
            "price": ("Price of one", "number"),
            "currency": ("Currency", "text"),
            "starts": ("Begins", "day"),
            "ends": ("Ends", "day"),
            "maintained_until": ("Maintenance until", "day"),
            "tags": ("Tags", "text"),
        },
        ("licence",),
        _licences,
        filtered=False,
        company_wide=True,
    ),
    ReportRow(
        "idle",
        "installation that could be given up",
        {
            "name": ("Device", "text"),
            "person": ("Held by", "text"),
            "department": ("Department", "text"),
            "product": ("Product", "text"),
            "release": ("Release", "text"),
            "licence": ("Licence", "text"),
            "why": ("Why", "text"),
            "units": ("Units", "number"),
            "worth": ("Worth", "number"),
            "currency": ("Currency", "text"),
        },
        ("id", "product"),
        _idle,
        filtered=False,
    ),
    ReportRow(
        "licence_warning",
        "warning of licences",
        {
            "sort": ("Sort", "text"),
            "name": ("Of", "text"),
            "text": ("What is wrong", "text"),
        },
        ("sort", "balance", "licence", "name", "text"),
        _warnings,
        filtered=False,
        company_wide=True,
    ),
)
