"""Telling somebody who came to a service and who went: a report of its members, and a watch on it."""

from typing import Any

from django.db import transaction

from tarn.apps.people.scope import visible
from tarn.apps.reports.actions.reports import make_report
from tarn.apps.reports.actions.watches import make_watch
from tarn.apps.reports.inputs import ReportIn, WatchIn
from tarn.apps.services.kept.health import asking_for_members
from tarn.apps.services.models import Service

_COLUMNS = ("name", "number", "kind", "place", "person")


def tell(user: Any, number: int, to: list[str]) -> str:
    """Make a report of a service's members and a watch that writes each morning on which they are others than before;
    return the report's key. Raises Invalid, Service.DoesNotExist."""
    service = visible(Service).get(pk=number)
    name = f"Members of {service.name}"
    definition = {
        "row": "asset",
        "columns": [{"field": c} for c in _COLUMNS],
        "filter": asking_for_members(service),
        "sort": "name",
    }
    with transaction.atomic():
        made = make_report(
            user,
            ReportIn(
                name=name, text=f"Which devices do {service.name}.", room="Services", definition=definition,
                organisation=service.organisation_id,
            ),
        )  # fmt: skip
        watched = WatchIn(
            name=name,
            report=str(made.pk),
            rule="FREQ=DAILY;BYHOUR=7;BYMINUTE=0",
            condition="changed",
            to=to,
            organisation=service.organisation_id,
        )
        make_watch(user, watched)
    return str(made.pk)
