"""Rows of reports: notices of what ends, contracts, and hand-overs."""

from tarn.apps.lifecycle.reads.contracts import listed
from tarn.apps.lifecycle.reads.ending import notices
from tarn.apps.lifecycle.reads.steps import hand_overs
from tarn.core.report_rows import ReportRow

ROWS = (
    ReportRow(
        "notice",
        "notice of an end",
        {
            "name": ("What ends", "text"),
            "stream": ("Kind", "text"),
            "provider": ("Provider", "text"),
            "ends": ("Ends", "day"),
            "before": ("Days before", "number"),
            "due": ("Told from", "day"),
            "notice_by": ("Notice by", "day"),
            "then": ("Otherwise", "text"),
        },
        ("path", "ends", "before"),
        lambda asked: notices(asked.at),
        filtered=False,
    ),
    ReportRow(
        "contract",
        "contract",
        {
            "name": ("Contract", "text"),
            "provider": ("Provider", "text"),
            "kind": ("Kind", "text"),
            "number": ("Number", "text"),
            "state": ("State", "text"),
            "starts": ("Begins", "day"),
            "ends": ("Ends", "day"),
            "days_left": ("Days left", "number"),
            "notice_by": ("Notice by", "day"),
            "decided": ("Decided", "text"),
            "cost": ("Cost", "text"),
            "currency": ("Currency", "text"),
            "every": ("Paid", "text"),
            "devices": ("Devices covered", "number"),
        },
        ("name",),
        lambda asked: ({k: v for k, v in one.items() if k != "id"} for one in listed(asked.at)),
        filtered=False,
    ),
    ReportRow(
        "hand_over",
        "hand-over",
        {
            "name": ("Device", "text"),
            "number": ("Asset number", "text"),
            "kind": ("Kind", "text"),
            "serial": ("Serial number", "text"),
            "receiver": ("In the hands of", "text"),
            "lent": ("Lent", "yes/no"),
            "given_at": ("Given", "moment"),
            "given_by": ("By", "text"),
            "due": ("Due back", "day"),
            "overdue": ("Days overdue", "number"),
            "acknowledged_at": ("Acknowledged", "moment"),
            "acknowledged_by": ("Acknowledged by", "text"),
            "left": ("Holder has left", "yes/no"),
        },
        ("id", "given_at"),
        lambda asked: ({**one, "id": one["asset"]} for one in hand_overs(asked.at)),
        filtered=False,
    ),
)
