"""Rules of our own: made, changed, put in force and out of it, dropped."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.ground import changed, changed_own
from tarn.apps.exposure.models import OwnRule
from tarn.apps.exposure.own import deriving
from tarn.apps.exposure.own.inputs import OwnRuleIn
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.core.filters.parse import FilterError

MOST_DAYS = 3_650


def make_rule(user: Any, data: OwnRuleIn) -> OwnRule:
    """Make a rule. Raises Invalid naming the part."""
    require(user, "plan")
    values = _checked(data)
    with once("name", f"There is a rule “{values['name']}” already."):
        made = OwnRule.objects.create(**values, made_by=user.username, made_at=int(time.time()))
        record(user, "made a rule of our own", made.name, detail={"filter": made.filter, "grade": made.grade})
    _settle()
    return made


def change_rule(user: Any, number: int, data: OwnRuleIn) -> OwnRule:
    """Change a rule made from `data.version`; what it finds is found anew.

    Raises Invalid, Stale, OwnRule.DoesNotExist.
    """
    require(user, "plan")
    values = _checked(data)
    with once("name", f"There is a rule “{values['name']}” already."):
        rule = OwnRule.objects.get(pk=number)
        require_version(rule, data.version, f"“{rule.name}”", {"name": rule.name, "version": rule.version})
        if values["filter"] != rule.filter or (values["in_force"] and not rule.in_force):
            deriving.derive_anew(rule)
        for name, value in values.items():
            setattr(rule, name, value)
        rule.version += 1
        rule.save()
        record(user, "changed a rule of our own", rule.name, detail={"filter": rule.filter, "grade": rule.grade})
    _settle()
    return rule


def drop_rule(user: Any, number: int) -> None:
    """Drop a rule of the company's making; one that ships is put out of force instead. Raises Invalid."""
    require(user, "plan")
    with transaction.atomic():
        rule = OwnRule.objects.get(pk=number)
        if rule.key:
            raise Invalid("rule", f"“{rule.name}” ships with Tarn: put it out of force, and it finds nothing.")
        record(user, "dropped a rule of our own", rule.name, detail={"filter": rule.filter})
        rule.delete()
    _settle()


def _settle() -> None:
    deriving.catch_up()
    changed(raw_connection())
    changed_own(raw_connection())


def _checked(data: OwnRuleIn) -> dict[str, Any]:
    name, what = " ".join(data.name.split())[:120], " ".join(data.what.split())[:120]
    if not name:
        raise Invalid("name", "A rule needs a name: it stands beside every device it finds.")
    if not data.filter.strip():
        raise Invalid("filter", "Say what it is to find: a rule without a filter finds every device.")
    try:
        asked = question(data.filter)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    if deriving.asks_for_findings(asked.checked):
        raise Invalid("filter", "A rule makes findings and cannot ask for them: leave vulnerability and exposure out.")
    if data.days is not None and not 0 <= data.days <= MOST_DAYS:
        raise Invalid("days", f"{data.days} days are out of bounds: 0 to {MOST_DAYS:,}.")
    return {
        "name": name,
        "filter": data.filter.strip(),
        "grade": data.grade,
        "days": data.days,
        "verb": data.verb,
        "what": what or name,
        "todo": data.todo.strip()[:2000],
        "in_force": data.in_force,
    }
