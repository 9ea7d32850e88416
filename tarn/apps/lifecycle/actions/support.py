"""Ends of support, taken in from a file."""

import csv
import io
from datetime import date
from typing import Any

from django.db import transaction

from tarn.apps.lifecycle.models import SupportEnd
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require


def take_in_support_ends(user: Any, text: str) -> int:
    """Take in a file of ends of support with the columns name, release, day, and released if it tells that too; the
    same name and release replaces.

    Raises Invalid naming the line.
    """
    require(user, "plan")
    lines = text.lstrip("\ufeff").strip()
    if not lines:
        raise Invalid("file", "The file is empty.")
    reader = csv.DictReader(io.StringIO(lines), delimiter=";" if ";" in lines.splitlines()[0] else ",")
    names = {n.strip().lower(): n for n in reader.fieldnames or ()}
    if missing := [n for n in ("name", "release", "day") if n not in names]:
        raise Invalid("file", f"Line 1: no column “{missing[0]}”; the file needs name, release, day.")
    rows = []
    for row in reader:
        name, release = ((row[names[n]] or "").strip() for n in ("name", "release"))
        try:
            day, released = (_day(row.get(names.get(n, "")) or "") for n in ("day", "released"))
        except ValueError:
            raise Invalid("file", f"Line {reader.line_num}: needs a day like 2027-10-14.") from None
        if not day and not released:
            raise Invalid("file", f"Line {reader.line_num}: needs a day like 2027-10-14.")
        if not name:
            raise Invalid("file", f"Line {reader.line_num}: names no system or product.")
        rows.append((name[:200], release[:60], day, released))
    with transaction.atomic():
        for name, release, day, released in rows:
            SupportEnd.objects.filter(name=name, release=release).delete()
            SupportEnd.objects.create(name=name, release=release, day=day, released=released)
        record(user, "took in ends of support", f"{len(rows)} ends")
    return len(rows)


def _day(text: str) -> date | None:
    return date.fromisoformat(text.strip()) if text.strip() else None


def drop_support_end(user: Any, number: int) -> None:
    """Drop an end of support. Raises SupportEnd.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        support_end = SupportEnd.objects.get(pk=number)
        support_end.delete()
        record(user, "dropped an end of support", f"{support_end.name} {support_end.release}".strip())
