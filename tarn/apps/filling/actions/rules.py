"""Making, changing, ordering and dropping fill rules; putting them in force and taking them out."""

import time
from typing import Any

from django.db import transaction
from typing_extensions import TypedDict

from tarn.apps.estate.asking.ask import context, ids, question
from tarn.apps.estate.asking.places import supposing
from tarn.apps.filling.actions.carry_out import as_rule, carry_out, take_back
from tarn.apps.filling.facts import verdicts
from tarn.apps.filling.inputs import FillRuleIn, RehearseIn
from tarn.apps.filling.models import FillRule
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import asker, visible
from tarn.core.fields import FIELDS
from tarn.core.filling import FILLABLE, OUTCOMES, READS, WHEN, FillError, Filling, Ready
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.walk import fields_in, sets_in
from tarn.core.own import PREFIX
from tarn.core.text import nearest

SHOWN = 300
"""Devices a rehearsal tells of one by one."""
MOST_ROWS = 5_000
"""Rows of a look-up table."""


def _checked(data: FillRuleIn) -> FillRule:
    """Return an unsaved rule. Raises Invalid naming the part."""
    name, fills = " ".join(data.name.split()), data.fills
    if not name:
        raise Invalid("name", "A rule needs a name: it stands beside every value it fills.")
    if fills not in FILLABLE and not (fills.startswith(PREFIX) and fills in FIELDS):
        raise Invalid("fills", f"“{fills}” cannot be filled; one of {', '.join(FILLABLE)} can, or a field of your own.")
    reads = data.reads
    if reads and reads not in READS and reads not in FIELDS:
        near = " or ".join(nearest(reads, [*READS, *FIELDS]))
        raise Invalid("reads", f"There is no “{reads}” to read." + (f" Did you mean {near}?" if near else ""))
    if reads == fills:
        raise Invalid("reads", "A rule cannot read the very field it fills.")
    when = data.when or "always"
    if when not in WHEN:
        raise Invalid("when", f"“{when}” is no time to fill; one of: {', '.join(WHEN)}.")
    table = {k.strip(): v.strip() for k, v in data.table.items() if k.strip()}
    if len(table) > MOST_ROWS:
        raise Invalid("table", f"{len(table):,} rows are too many for a look-up table: at most {MOST_ROWS:,}.")
    try:
        question(data.filter, None)
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    made = FillRule(
        name=name[:80],
        filter=data.filter.strip(),
        fills=fills,
        reads=reads,
        formula=data.formula.strip()[:200],
        pattern=data.pattern[:300],
        compose=data.compose[:200],
        table=table,
        when=when,
    )
    try:
        ready = Ready(as_rule(made))
    except FillError as error:
        raise Invalid(error.field, str(error)) from None
    if fills in ready.needs:
        raise Invalid("formula", f"A rule cannot reckon with the very field it fills, {fills}.")
    if unknown := [n for n in ready.needs if n not in READS and n not in FIELDS]:
        raise Invalid("formula", f"The formula reckons with “{unknown[0]}”, which is no field.")
    return made


class Rehearsed(TypedDict):
    """What a rule would do: to how many assets, by outcome, the first of them, and what should be known of it."""

    assets: int
    counts: dict[str, int]
    rows: list[Filling]
    notes: list[str]


def rehearse(user: Any, data: RehearseIn, number: int | None = None) -> Rehearsed:
    """Say what a rule would do, device by device, changing nothing. Raises Invalid.

    Rules in force that come before it have their say first. `data.on` narrows whom it is rehearsed on.
    """
    require(user, "plan")
    wanted = _checked(data)
    before = [r for r in visible(FillRule).exclude(in_force_at=None) if r.pk != number]
    if number is not None:
        place = visible(FillRule).get(pk=number).position
        before = [r for r in before if r.position < place]
    filters = {r.pk: r.filter for r in before}
    narrowed = " and ".join(f"({t})" for t in (wanted.filter, data.on.strip()) if t)
    try:
        fillings = verdicts([Ready(as_rule(r)) for r in (*before, wanted)], {**filters, 0: narrowed})
    except FilterError as error:
        raise Invalid("on", error.message) from None
    mine = [v for v in fillings if v.rule == 0]
    counts = dict.fromkeys(OUTCOMES, 0)
    for v in mine:
        counts[v.outcome] += 1
    order = list(OUTCOMES)
    mine.sort(key=lambda v: order.index(v.outcome))
    others = [r for r in visible(FillRule).exclude(in_force_at=None) if r.pk != number]
    notes = [*_ends_itself(wanted, narrowed, mine), *_between(wanted, others)]
    return {"assets": len(mine), "counts": counts, "rows": mine[:SHOWN], "notes": notes}


def _asks(rule: FillRule) -> set[str]:
    """Return the fields a rule rests on: those its filter compares, in kept sets too, and those it reads."""
    tree, known = parse(rule.filter), context(None)
    named = fields_in(tree)
    waiting, seen = list(sets_in(tree)), set()
    while waiting:
        one = waiting.pop()
        if one not in seen:
            seen.add(one)
            inner = known.set_filter(one)
            named |= fields_in(inner)
            waiting += sets_in(inner)
    return {n.lower() for n in named} | {n.lower() for n in Ready(as_rule(rule)).needs}


def _ends_itself(rule: FillRule, narrowed: str, found: list[Filling]) -> list[str]:
    """Say on how many assets what a rule fills ends the condition it fills by."""
    by_value: dict[Any, list[int]] = {}
    for v in found:
        if v.outcome in ("fills", "same"):
            by_value.setdefault(v.value, []).append(v.asset)
    if rule.fills.lower() not in _asks(rule):
        return []
    ended = 0
    for value, assets in by_value.items():
        asked = question(narrowed, None, asker().everywhere(), supposed=supposing(rule.fills, assets, str(value)))
        ended += len(set(assets) - set(ids(asked)))
    if not ended:
        return []
    what = "On one device" if ended == 1 else f"On {ended:,} devices"
    return [
        f"{what} what the rule fills ends its own condition, which asks for {rule.fills}. It stays filled: a rule does "
        "not see what it filled itself."
    ]


def _between(rule: FillRule, others: list[FillRule]) -> list[str]:
    """Say which rules in force rest on what this one fills, and which fill what it rests on."""
    mine, notes = _asks(rule), []
    for other in others:
        reads_mine = rule.fills.lower() in _asks(other) and other.fills != rule.fills
        if reads_mine and other.fills.lower() in mine:
            notes.append(
                f"This rule and “{other.name}” rest on each other: each asks for what the other fills. What one does "
                "may undo what the other rests on, again and again. Let one of them ask for what neither fills."
            )
        elif reads_mine:
            notes.append(f"“{other.name}” asks for {rule.fills}: what this rule fills decides what it does.")
        elif other.fills.lower() in mine and other.fills != rule.fills:
            notes.append(f"This rule asks for {other.fills}, which “{other.name}” fills.")
    return notes


def make_rule(user: Any, data: FillRuleIn) -> FillRule:
    """Make a rule, not yet in force, the last in order. Raises Invalid."""
    require(user, "plan")
    made = _checked(data)
    made.made_by, made.made_at, made.organisation = user.username, int(time.time()), owner(None)
    made.position = max(FillRule.objects.values_list("position", flat=True), default=0) + 1
    with once("name", f"There is a rule “{made.name}” already."):
        made.save()
        record(user, "made a fill rule", made.name, detail={"fills": made.fills, "filter": made.filter})
    return made


def change_rule(user: Any, number: int, data: FillRuleIn) -> FillRule:
    """Change a rule, made from the version it was read at; its name stays. Raises Invalid, Stale, DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        fill_rule = visible(FillRule).get(pk=number)
        require_version(
            fill_rule, data.version, f"“{fill_rule.name}”", {"name": fill_rule.name, "version": fill_rule.version}
        )
        wanted = _checked(data.model_copy(update={"name": fill_rule.name}))
        if fill_rule.in_force_at is not None and wanted.fills != fill_rule.fills:
            raise Invalid("fills", "It is in force and has filled that field; take it out of force first.")
        for field in ("filter", "fills", "reads", "formula", "pattern", "compose", "table", "when"):
            setattr(fill_rule, field, getattr(wanted, field))
        fill_rule.version += 1
        fill_rule.save()
        record(user, "changed a fill rule", fill_rule.name)
        if fill_rule.in_force_at is not None:
            carry_out()
    return fill_rule


def set_in_force(user: Any, number: int, on: bool) -> tuple[FillRule, int]:
    """Put a rule in force or take it out; return it, and of how many assets it fills, or gave back, a field.

    Raises FillRule.DoesNotExist.
    """
    require(user, "plan")
    with transaction.atomic():
        held = visible(FillRule).get(pk=number)
        if bool(held.in_force_at) == on:
            return held, 0
        held.in_force_at, held.version = (int(time.time()) if on else None), held.version + 1
        held.save(update_fields=["in_force_at", "version"])
        assets = 0
        if on:
            carry_out()
            assets = held.fill_set.count()
        else:
            assets = take_back(held)
            carry_out()  # those after it may fill now what it filled
        verb = "put a fill rule in force" if on else "took a fill rule out of force"
        undo = {"action": "fill rule", "rule": held.pk, "on": not on}
        record(user, verb, held.name, detail={"assets": assets}, undo=undo)
    return held, assets


@undoer("fill rule", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> None:
    set_in_force(user, inverse["rule"], inverse["on"])


def order(user: Any, numbers: list[int]) -> None:
    """Put rules in this order. Raises Invalid."""
    require(user, "plan")
    held = {r.pk: r for r in visible(FillRule)}
    if sorted(held) != sorted(numbers):
        raise Invalid("order", "Name every rule once: another was made or dropped meanwhile.")
    with transaction.atomic():
        for position, number in enumerate(numbers, start=1):
            FillRule.objects.filter(pk=number).update(position=position)
        record(user, "ordered the fill rules", ", ".join(held[n].name for n in numbers))
        carry_out()


def drop_rule(user: Any, number: int) -> None:
    """Drop a rule; what it filled is taken back. Raises FillRule.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        fill_rule = visible(FillRule).get(pk=number)
        assets = take_back(fill_rule)
        record(user, "dropped a fill rule", fill_rule.name, detail={"assets": assets})
        fill_rule.delete()
        carry_out()
