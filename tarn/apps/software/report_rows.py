"""Rows of reports: products."""

from collections.abc import Iterator
from typing import Any

from tarn.apps.software.reads.rooms import overview
from tarn.core.report_rows import ReportRow, RowsAsked


def _products(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    for product in overview(asked.filter, asked.at, ("product",))["products"]:
        yield {**product, "product": product["id"], "id": None}


ROWS = (
    ReportRow(
        "product",
        "product",
        {
            "name": ("Product", "text"),
            "publisher": ("Publisher", "text"),
            "devices": ("Devices", "number"),
            "before": ("Devices four weeks ago", "number"),
            "releases": ("Releases", "number"),
            "newest": ("Newest release", "text"),
            "first_seen": ("First seen", "moment"),
            "verdict": ("Ruling", "text"),
        },
        ("product",),
        _products,
    ),
)
