"""Service desks that take tickets in."""

import asyncio
from typing import Any

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Source
from tarn.apps.discovery.sources.asking import kind_of
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.credentials import HttpCredential
from tarn.collect.problems import Problem
from tarn.collect.routes import ROUTES
from tarn.collect.sources.desk import DeskSettings, open_ticket

DESK = "service desk"


def desks() -> dict[int, str]:
    """Return the names of the desks that take tickets in, by number."""
    return {s.pk: s.name for s in visible(Source).filter(kind=DESK).order_by("name") if s.settings.get("give")}


def give_ticket(user: Any, number: int, title: str, text: str, device: str = "") -> str:
    """Have a desk take a ticket in; return its number there. Raises Invalid."""
    require(user, "decide")
    source = visible(Source).select_related("credential").filter(pk=number, kind=DESK).first()
    if source is None or not source.settings.get("give"):
        raise Invalid("source", "Choose a service desk that takes tickets in.")
    settings = kind_of(DESK).checked(source.settings)
    assert isinstance(settings, DeskSettings)
    credential = opened(source.credential) if source.credential else None
    assert credential is None or isinstance(credential, HttpCredential)
    try:
        given = asyncio.run(open_ticket(ROUTES[source.route], credential, settings, title, text, device))
    except Problem as problem:
        raise Invalid("source", f"“{source.name}” did not take it: {problem.says}") from None
    record(user, "gave a ticket to", source.name, detail={"number": given, "title": title})
    return given
