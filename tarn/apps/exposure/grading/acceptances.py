"""Accepting what is open for a while, approving that, and taking it back."""

import time
from datetime import date, timedelta
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.grading.accepted import named
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import AcceptanceIn
from tarn.apps.exposure.models import Acceptance, OwnRule
from tarn.apps.exposure.overview import open_on
from tarn.apps.exposure.own.deriving import asks_for_findings
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import NotAllowed, require
from tarn.core.exposure.grade import GRADES
from tarn.core.filters.parse import FilterError
from tarn.core.filters.values import day_start

LONGEST = timedelta(days=400)
"""For how long something may be accepted at once."""


def accept(user: Any, data: AcceptanceIn) -> Acceptance:
    """Accept what is open to an advisory; of the gravest grade it waits for a second person. Raises Invalid."""
    require(user, "plan")
    reason = data.reason.strip()[:1000]
    rule = OwnRule.objects.filter(name=data.advisory).first() if data.own else None
    number = -rule.pk if rule else None if data.own else number_of(data.advisory)
    if number is None:
        told = "There is no rule of our own called" if data.own else "No feed has told of"
        raise Invalid("advisory", f"{told} “{data.advisory[:100]}”.")
    if len(reason) < 3:
        raise Invalid("reason", "Say why it is accepted: whoever answers for it will ask.")
    until = _until(data.until)
    try:
        asked = question(data.filter, None)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    if asks_for_findings(asked.checked):
        raise Invalid("filter", "Say which devices are meant by what they are: leave vulnerability and exposure out.")
    there = open_on(asked)
    mine = there.grade[there.vulnerability == number]
    if not len(mine):
        raise Invalid("filter", "Nothing that is meant by this is open to it.")
    gravest, now = GRADES[int(mine.min())], int(time.time())
    with transaction.atomic():
        made = Acceptance.objects.create(
            vulnerability_id=number if number > 0 else None,
            rule=rule,
            product=data.product[:300],
            filter=data.filter.strip(),
            reason=reason,
            grade=gravest,
            made_by=user.username,
            made_at=now,
            begins=None if gravest == GRADES[0] else now,
            until=until,
        )
        changed(raw_connection())
        record(user, "accepted", named(made), detail={"reason": reason, "until": data.until})
    return made


def _until(text: str) -> int:
    try:
        day = date.fromisoformat(text)
    except ValueError:
        raise Invalid("until", "Say until which day, such as 2027-03-31.") from None
    if not date.today() < day <= date.today() + LONGEST:
        raise Invalid("until", f"Something is accepted for a day to come, {LONGEST.days} days at the most.")
    return day_start(day + timedelta(days=1), zone())


def approve(user: Any, number: int) -> Acceptance:
    """Let an acceptance of the gravest grade count, as a second person. Raises NotAllowed, Acceptance.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = Acceptance.objects.select_related("vulnerability", "rule").get(pk=number, begins=None, ended_at=None)
        if held.made_by == user.username:
            raise NotAllowed("A second person has to look at it: you accepted it yourself.")
        held.begins, held.approved_by = int(time.time()), user.username
        held.save(update_fields=["begins", "approved_by"])
        changed(raw_connection())
        record(user, "approved an acceptance", named(held), detail={"of": held.made_by})
    return held


def take_back(user: Any, number: int) -> None:
    """Take an acceptance back: what it covered is open from now on. Raises Acceptance.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = Acceptance.objects.select_related("vulnerability", "rule").get(pk=number, ended_at=None)
        held.ended_at, held.ended_by = int(time.time()), user.username
        held.save(update_fields=["ended_at", "ended_by"])
        changed(raw_connection())
        record(user, "took back an acceptance", named(held))
