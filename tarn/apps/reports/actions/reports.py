"""Composing reports: made, changed, dropped."""

import time
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from tarn.apps.estate.asking.ask import question
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sharing import read_access, require_change
from tarn.apps.reports.inputs import ReportIn
from tarn.apps.reports.models import Report
from tarn.apps.reports.reads.asking import ask
from tarn.core.filters.parse import FilterError
from tarn.core.reports import Definition, ReportError

ROOMS = ("Discovery", "Estate", "Software", "Licences", "Lifecycle", "Exposure", "Services")


def read_definition(data: dict[str, Any]) -> Definition:
    """Read and check a definition whole: its columns and its questions. Raises Invalid at the field."""
    try:
        definition = Definition.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        raise Invalid(str(first["loc"][0]), f"{'.'.join(map(str, first['loc']))}: {first['msg']}") from None
    try:
        question(definition.filter)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    try:
        list(ask(definition, None, 0).lines)
    except ReportError as error:
        raise Invalid(error.field, str(error)) from None
    except FilterError as error:
        raise Invalid("inner", error.message) from None
    return definition


def _checked(data: ReportIn) -> dict[str, Any]:
    name, room = data.name.strip()[:120], data.room or "Estate"
    if not name:
        raise Invalid("name", "A report needs a name.")
    if room not in ROOMS:
        raise Invalid("room", f"“{room}” is no room; {', '.join(ROOMS)} are.")
    definition = read_definition(data.definition)
    text = data.text.strip()[:500]
    access = read_access(data.access)
    return {"name": name, "room": room, "text": text, "access": access, "definition": definition.model_dump()}


def make_report(user: Any, data: ReportIn) -> Report:
    """Keep a report. Raises Invalid."""
    require(user, "keep")
    checked = _checked(data)
    with once("name", f"There is a report “{checked['name']}” already."):
        made = Report.objects.create(
            **checked, made_by=user.username, made_at=int(time.time()), organisation=owner(data.organisation)
        )
        record(user, "composed a report", made.name)
    return made


def change_report(user: Any, number: int, data: ReportIn) -> Report:
    """Change a report, made from `version`. Raises Invalid, Stale, Report.DoesNotExist."""
    require(user, "keep")
    checked = _checked(data)
    with once("name", f"There is a report “{checked['name']}” already."):
        report = visible(Report).get(pk=number)
        require_change(user, report.access, report.made_by)
        before = {f: getattr(report, f) for f in checked}
        require_version(report, data.version, report.name, before)
        for field, value in checked.items():
            setattr(report, field, value)
        report.version += 1
        report.save()
        record(user, "changed a report", report.name, detail={"before": before})
    return report


def drop_report(user: Any, number: int) -> None:
    """Drop a report. Raises Report.DoesNotExist."""
    require(user, "keep")
    with transaction.atomic():
        report = visible(Report).get(pk=number)
        require_change(user, report.access, report.made_by)
        record(user, "dropped a report", report.name, detail={"definition": report.definition})
        report.delete()
