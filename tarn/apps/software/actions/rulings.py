"""Ruling on software, and taking rulings back."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.software.inputs import SoftwareRulingIn
from tarn.apps.software.models import Ruling as Held
from tarn.apps.software.reads.rulings import as_ruling
from tarn.core.naming import product_key
from tarn.core.rulings import NoRuling, check

MOST = 2_000
"""Products one action may rule on."""


def rule(user: Any, said: SoftwareRulingIn) -> list[Held]:
    """Rule on one thing or many alike. A ruling on the same thing, releases and department ends where this begins.

    Raises Invalid.
    """
    require(user, "decide")
    if not said.names:
        raise Invalid("name", "Say what is ruled on.")
    if len(said.names) > MOST:
        raise Invalid(
            "name", f"{len(said.names)} at once are too many: at most {MOST}. Rule on their publisher or a phrase."
        )
    now = int(time.time())
    made: list[Held] = []
    ended: list[int] = []
    with transaction.atomic():
        for name in dict.fromkeys(n.strip() for n in said.names):
            ruling = _made(user, name, said, now)
            ended += _end_alike(ruling, now)
            ruling.save()
            made.append(ruling)
        thing = made[0].name if len(made) == 1 else f"{len(made)} products"
        record(
            user,
            f"ruled {made[0].verdict}",
            thing,
            detail={"names": [m.name for m in made][:200], "why": made[0].why, "department": made[0].department},
            undo={"action": "rulings", "end": [m.pk for m in made], "reopen": ended},
        )
    return made


def _made(user: Any, name: str, said: SoftwareRulingIn, now: int) -> Held:
    ruling = Held(
        subject=said.subject,
        name=name[:300],
        low=said.low.strip()[:60],
        high=said.high.strip()[:60],
        department=said.department.strip()[:200],
        verdict=said.verdict,
        until=said.until,
        why=said.why.strip()[:500],
        review_at=said.review_at,
        begins=now,
        made_by=user.username,
        organisation=owner(said.organisation),
    )
    try:
        check(as_ruling(ruling))
    except NoRuling as error:
        raise Invalid(error.field, str(error)) from None
    return ruling


def _end_alike(new: Held, now: int) -> list[int]:
    """End what stands of the same thing; return the numbers that ended."""
    alike = visible(Held).filter(
        subject=new.subject,
        low=new.low,
        high=new.high,
        department=new.department,
        ends=None,
        organisation=new.organisation,
    )
    key = product_key(new.name)
    found = [h.pk for h in alike if product_key(h.name) == key]
    visible(Held).filter(pk__in=found).update(ends=now)
    return found


def withdraw(user: Any, number: int) -> None:
    """Take a ruling back: it ends now. Raises Ruling.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        held = visible(Held).get(pk=number, ends=None)
        held.ends = int(time.time())
        held.save(update_fields=["ends"])
        record(
            user,
            "took back a ruling on",
            held.name,
            detail={"verdict": held.verdict},
            undo={"action": "rulings", "end": [], "reopen": [held.pk]},
        )


@undoer("rulings", needs="decide")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    mine = visible(Held)
    mine.filter(pk__in=inverse["end"], ends=None).update(ends=int(time.time()))
    mine.filter(pk__in=inverse["reopen"]).update(ends=None)
    return {"action": "rulings", "end": inverse["reopen"], "reopen": inverse["end"]}
