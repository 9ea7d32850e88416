"""Rows of reports: the runs of sweeps."""

import time
from collections.abc import Iterator
from typing import Any

from django.db.models import Count, Q

from tarn.apps.discovery.models import Run
from tarn.apps.estate.asking.dial import iso
from tarn.apps.people.scope import visible
from tarn.core.report_rows import ReportRow, RowsAsked

DAY = 86_400


def _runs(asked: RowsAsked) -> Iterator[dict[str, Any]]:
    until = asked.at if asked.at is not None else int(time.time())
    held = visible(Run).filter(made_at__gt=until - asked.days * DAY, made_at__lte=until)
    read = Count("runaddress", filter=Q(runaddress__outcome__in=("part read", "fully read")))
    for run in held.select_related("sweep").annotate(read=read).order_by("-made_at"):
        yield {
            "id": None,
            "run": run.pk,
            "sweep": run.sweep.name,
            "started": iso(run.started_at) if run.started_at else None,
            "ended": iso(run.ended_at) if run.ended_at else None,
            "state": run.state,
            "addresses": run.total,
            "read": run.read,
            "message": run.message,
        }


ROWS = (
    ReportRow(
        "run",
        "run of a sweep",
        {
            "sweep": ("Sweep", "text"),
            "started": ("Started", "moment"),
            "ended": ("Ended", "moment"),
            "state": ("State", "text"),
            "addresses": ("Addresses", "number"),
            "read": ("Read", "number"),
            "message": ("What it says", "text"),
        },
        ("run",),
        _runs,
        filtered=False,
        company_wide=True,
    ),
)
