"""Carrying out the rules in force: what they fill is handed in as evidence in the rule's name."""

import time
from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import spoken
from tarn.apps.estate.register.identifiers import first_seen_of, numbers_of
from tarn.apps.estate.store.stamps import EVIDENCE, stamp
from tarn.apps.filling.facts import decided_as, verdicts
from tarn.apps.filling.models import Fill, FillRule
from tarn.apps.people.scope import limited_to
from tarn.core.filling import Filling, Ready
from tarn.core.filling import FillRule as Rule

_carried_out_at: list[Any] = [None]


def as_rule(held: FillRule) -> Rule:
    """Return a stored rule as the core has it."""
    return Rule(held.pk or 0, held.name, held.fills, held.reads, held.formula, held.pattern, held.compose, held.table)


def _state() -> tuple[Any, ...]:
    """Return what changes whenever evidence or rules do."""
    return (stamp(EVIDENCE), *FillRule.objects.order_by("pk").values_list("pk", "version", "in_force_at"))


def when_changed() -> int:
    """Carry the rules in force out where evidence or rules have changed since they last were."""
    if _state() == _carried_out_at[0]:
        return 0
    done = carry_out()
    # What was filled is evidence itself: the state after it is the one there is nothing to be done about.
    _carried_out_at[0] = _state()
    return done


def carry_out() -> int:
    """Carry the rules in force out, each organisation's on its own assets; return how many values were said."""
    done = 0
    in_force = list(FillRule.objects.exclude(in_force_at=None).select_related("organisation"))
    by_owner: dict[str, list[FillRule]] = {}
    for rule in in_force:
        by_owner.setdefault(rule.organisation.name if rule.organisation else "", []).append(rule)
    for owner, rules in by_owner.items():
        with limited_to(frozenset({owner}) if owner else None), transaction.atomic():
            fillings = verdicts([Ready(as_rule(r)) for r in rules], {r.pk: r.filter for r in rules})
            by_rule: dict[int, list[Filling]] = {}
            for verdict in fillings:
                by_rule.setdefault(verdict.rule, []).append(verdict)
            for rule in rules:
                done += _settle(rule, by_rule.get(rule.pk, []))
    return done


def _settle(rule: FillRule, found: list[Filling]) -> int:
    """Say what a rule fills now, and take back what it fills no longer; inside the caller's transaction."""
    held = {f.asset_id: f for f in Fill.objects.filter(rule=rule)}
    came = first_seen_of([v.asset for v in found]) if rule.when == "new" else {}
    say: dict[int, Filling] = {}
    stays: set[int] = set()
    for v in found:
        before = held.get(v.asset)
        if v.outcome not in ("fills", "same") or (v.outcome == "same" and before is None):
            stays |= {v.asset} if v.outcome == "pinned" else set()
            continue
        stays.add(v.asset)
        if rule.when == "new" and (before is not None or came[v.asset] < (rule.in_force_at or 0)):
            continue
        if before is None or (before.read != v.read if rule.when == "change" else before.value != v.value):
            say[v.asset] = v
    gone = [a for a in held if a not in stays] if rule.when == "always" else []
    _say(rule, {a: v.value for a, v in say.items()} | dict.fromkeys(gone))
    Fill.objects.filter(rule=rule, asset_id__in=[*gone, *(a for a in say if a in held)]).delete()
    Fill.objects.bulk_create(
        [Fill(rule=rule, asset_id=a, read=v.read[:500], value=v.value) for a, v in say.items()], batch_size=400
    )
    return len(say) + len(gone)


def _say(rule: FillRule, values: dict[int, Any]) -> None:
    if not values:
        return
    numbers, now = numbers_of(list(values)), datetime.fromtimestamp(int(time.time()), UTC)
    field = decided_as(rule.fills)
    for _ in take_in(
        spoken(("rule", rule.name), numbers[a], {field: v}, now) for a, v in values.items() if a in numbers
    ):
        pass


def take_back(rule: FillRule) -> int:
    """Take back all that a rule has filled, inside the caller's transaction; return of how many assets."""
    held = list(Fill.objects.filter(rule=rule).values_list("asset_id", flat=True))
    _say(rule, dict.fromkeys(held))
    Fill.objects.filter(rule=rule).delete()
    return len(held)
