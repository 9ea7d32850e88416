"""Rows of reports: what devices are worth and cost, and which are to be replaced."""

from tarn.apps.valuation.reads import lens, refresh
from tarn.core.report_rows import ReportRow

ROWS = (
    ReportRow(
        "worth",
        "device with its worth",
        {
            "name": ("Device", "text"),
            "number": ("Asset number", "text"),
            "kind": ("Kind", "text"),
            "department": ("Department", "text"),
            "place": ("Place", "text"),
            "cost_centre": ("Cost centre", "text"),
            "supplier": ("Supplier", "text"),
            "bought": ("Bought", "moment"),
            "cost": ("Cost", "number"),
            "book": ("Book value", "number"),
            "depreciation": ("Written down this month", "number"),
            "contracts": ("Contracts a month", "number"),
            "licences": ("Licences a month", "number"),
            "energy": ("Energy a month", "number"),
            "month": ("All in a month", "number"),
            "currency": ("Currency", "text"),
            "by": ("Written down by", "text"),
        },
        ("id",),
        lambda asked: lens.for_report(asked.filter, asked.at),
    ),
    ReportRow(
        "refresh",
        "device to be replaced",
        {
            "name": ("Device", "text"),
            "number": ("Asset number", "text"),
            "kind": ("Kind", "text"),
            "department": ("Department", "text"),
            "place": ("Place", "text"),
            "due": ("Due", "text"),
            "quarter": ("Planned for", "text"),
            "price": ("Price", "number"),
            "currency": ("Currency", "text"),
            "why": ("Why then", "text"),
        },
        ("id",),
        lambda asked: refresh.for_report(asked.filter, asked.at),
    ),
)
