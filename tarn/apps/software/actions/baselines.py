"""What devices should have: baselines, made, changed and dropped."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.software.inputs import BaselineIn
from tarn.apps.software.models import Baseline
from tarn.core.filters.parse import FilterError

MOST_RULES = 20


def _checked(data: BaselineIn) -> dict[str, Any]:
    name = data.name.strip()[:120]
    if not name:
        raise Invalid("name", "A baseline needs a name.")
    rules = []
    for number, given in enumerate(data.rules, start=1):
        called, text = given.name.strip()[:120], given.filter.strip()
        if not text:
            raise Invalid("rules", f"Condition {number} is empty: say with a filter what should be so.")
        _readable("rules", text, f"Condition {number} (“{called or text}”): ")
        rules.append({"name": called or text, "filter": text})
    if not rules:
        raise Invalid("rules", "A baseline needs at least one thing that should be so.")
    if len(rules) > MOST_RULES:
        raise Invalid("rules", f"{len(rules)} conditions are too many: at most {MOST_RULES}.")
    text = data.filter.strip()
    _readable("filter", text, "")
    return {"name": name, "filter": text, "rules": rules}


def _readable(field: str, text: str, where: str) -> None:
    try:
        question(text)
    except FilterError as error:
        raise Invalid(field, f"{where}{error.message}") from None


def make_baseline(user: Any, data: BaselineIn) -> Baseline:
    """Make a baseline. Raises Invalid."""
    require(user, "plan")
    checked = _checked(data)
    with once("name", f"There is a baseline “{checked['name']}” already."):
        made = Baseline.objects.create(
            **checked, made_by=user.username, made_at=int(time.time()), organisation=owner(data.organisation)
        )
        record(user, "made a baseline", made.name, detail=checked)
    return made


def change_baseline(user: Any, number: int, data: BaselineIn) -> Baseline:
    """Change a baseline made from `version`. Raises Invalid, Stale, Baseline.DoesNotExist."""
    require(user, "plan")
    checked = _checked(data)
    with once("name", f"There is a baseline “{checked['name']}” already."):
        held = visible(Baseline).get(pk=number)
        before = {"name": held.name, "filter": held.filter, "rules": held.rules}
        require_version(held, data.version, held.name, before)
        held.name, held.filter, held.rules = checked["name"], checked["filter"], checked["rules"]
        held.version += 1
        held.save()
        record(user, "changed a baseline", held.name, detail={"before": before, "after": checked})
    return held


def drop_baseline(user: Any, number: int) -> None:
    """Drop a baseline. Raises Baseline.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        baseline = visible(Baseline).get(pk=number)
        record(user, "dropped a baseline", baseline.name, detail={"filter": baseline.filter, "rules": baseline.rules})
        baseline.delete()
