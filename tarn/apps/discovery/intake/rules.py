"""Intake rules: what is adopted or set aside by itself; rehearsed before they are in force."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.discovery.intake.inputs import RuleIn
from tarn.apps.discovery.intake.results import IntakeRehearsedOut
from tarn.apps.discovery.models import IntakeRule, Ruled
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.crosscheck import facts_of
from tarn.apps.estate.register.decide import decide_by_rule
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import require
from tarn.apps.people.scope import asker, asking_for, visible
from tarn.core.filters.parse import FilterError

SHOWN = 20


def rehearse_rule(user: Any, text: str) -> IntakeRehearsedOut:
    """Say which devices at intake a rule with this filter would decide, changing nothing. Raises Invalid."""
    require(user, "plan")
    found = _waiting(text)
    facts = facts_of(found[:SHOWN], None)
    return {"count": len(found), "first": [f["name"] or f["number"] for f in facts.values()]}


def _waiting(text: str) -> list[int]:
    if not text.strip():
        raise Invalid("filter", "Say which devices: a rule without a filter would decide of everything that is found.")
    try:
        return sorted(ids(question(f"standing = intake and ({text})", None, asker().everywhere())))
    except FilterError as error:
        raise Invalid("filter", error.message) from None


def make_rule(user: Any, data: RuleIn) -> IntakeRule:
    """Make a rule, in force or not yet. Raises Invalid."""
    require(user, "plan")
    name, action = data.name.strip(), data.action
    if not name:
        raise Invalid("name", "A rule needs a name: it stands in the audit trail beside what it decided.")
    reason = data.reason.strip()
    if action == "aside" and not reason:
        raise Invalid("reason", "Say why such devices are set aside.")
    _waiting(data.filter)
    with once("name", f"There is a rule “{name}” already."):
        made = IntakeRule.objects.create(
            name=name[:80],
            filter=data.filter.strip(),
            action=action,
            reason=reason[:200],
            in_force=data.in_force,
            made_at=int(time.time()),
            organisation=owner(data.organisation),
        )
        record(user, "made an intake rule", made.name, detail={"filter": made.filter, "action": made.action})
    if made.in_force:
        apply_rules()
    return made


def set_in_force(user: Any, number: int, in_force: bool) -> IntakeRule:
    """Put a rule in force, or take it out of force. Raises IntakeRule.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = visible(IntakeRule).get(pk=number)
        held.in_force = in_force
        held.save(update_fields=["in_force"])
        record(user, "put a rule in force" if in_force else "took a rule out of force", held.name)
    if in_force:
        apply_rules()
    return held


def drop_rule(user: Any, number: int) -> None:
    """Drop a rule; what it decided stays. Raises IntakeRule.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        intake_rule = visible(IntakeRule).get(pk=number)
        record(user, "dropped an intake rule", intake_rule.name)
        intake_rule.delete()


def apply_rules() -> int:
    """Carry the rules in force out, the oldest first; return how many devices were decided of.

    Of each device a rule decides once: where a person undoes it, the person's word stands.
    """
    decided = 0
    for rule in IntakeRule.objects.filter(in_force=True).order_by("pk"):
        before = set(Ruled.objects.filter(rule=rule).values_list("asset_id", flat=True))
        with asking_for(rule.organisation):
            found = [a for a in _waiting(rule.filter) if a not in before]
        if not found:
            continue
        facts = {"standing": "register"}
        if rule.action == "aside":
            facts = {"standing": "set aside", "aside_reason": rule.reason}
        with transaction.atomic():
            decide_by_rule(found, facts, rule.name)
            Ruled.objects.bulk_create([Ruled(rule=rule, asset_id=a) for a in found], batch_size=400)
        decided += len(found)
    return decided
