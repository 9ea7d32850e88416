"""Spans of the company's rules: which device fitted which, from when to when. It is the only writer of them.

They are a function of evidence and of the rules alone. Whole days that have passed are settled; what new evidence of
them comes later has them walked anew.
"""

import hashlib
import json
import time
from collections import defaultdict
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache

from django.db import transaction

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of, zone
from tarn.apps.estate.store.database import generation, raw_connection
from tarn.apps.estate.store.evidence import earliest
from tarn.apps.estate.store.stamps import DEFINITIONS
from tarn.apps.exposure.ground import changed_own
from tarn.apps.exposure.models import OwnRule, OwnSpan
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.core.exposure.own_rules import RuleSpan, walked
from tarn.core.filters.check import Checked, Cond, Either, Every, Member, Number, RelatedTo, Some, Without
from tarn.core.filters.parse import FilterError
from tarn.core.filters.values import day_start

_BY_ITSELF = frozenset({"clock", "people", "rulings", "advisories", "standing"})
"""What may change an answer on a day on which nothing was read."""


@dataclass(frozen=True)
class _Ground:
    """How evidence stands, read once for all rules: `newest` the last sighting, `first` the first second of any."""

    now: int
    generation: int
    newest: int
    first: int | None
    definitions: str

    @classmethod
    def read(cls) -> "_Ground":
        db = raw_connection()
        newest, first = db.execute(
            "SELECT (SELECT coalesce(max(id), 0) FROM estate_sighting), (SELECT min(valid_from) FROM estate_assetspan)"
        ).fetchone()
        return cls(int(time.time()), generation(db), newest, first, str(DEFINITIONS.read()))

    @cache  # noqa: B019 - lives as long as one walk
    def earliest_since(self, seen: int) -> int | None:
        """Return the earliest moment told of by what came after a sighting."""
        return earliest(seen)

    @cache  # noqa: B019
    def days_read(self, after: int) -> frozenset[date]:
        """Return the days after a moment on which anything was read."""
        cursor = raw_connection().execute("SELECT DISTINCT at FROM estate_sighting WHERE at > ?", [after])
        return frozenset(day_of(moment) for (moment,) in cursor)


def catch_up() -> int:
    """Walk each rule in force up to now; return how many have other spans than before."""
    told = 0
    with asking_as(NOBODY):
        rules = list(OwnRule.objects.filter(in_force=True))
        held: dict[int, list[RuleSpan]] = defaultdict(list)
        if rules:
            ground = _Ground.read()
            for number, asset, begins, ends in OwnSpan.objects.values_list("rule_id", "asset", "begins", "ends"):
                held[number].append(RuleSpan(asset, begins, ends))
        told = sum(_carried_on(rule, ground, held[rule.pk]) for rule in rules)
    if told:
        changed_own(raw_connection())
    return told


def asks_for_findings(checked: Checked) -> bool:
    """Whether a filter asks for what is itself found by rules: directly, or by a set it speaks of."""
    match checked:
        case Every(items) | Either(items):
            return any(asks_for_findings(i) for i in items)
        case Without(item) | Member(_, item) | RelatedTo(other=item):
            return asks_for_findings(item)
        case Cond(field):
            return field.stored in ("told.grade", "told.open")
        case Some(group) | Number(group):
            return group == "vulnerability"
    return False


def derive_anew(rule: OwnRule) -> None:
    """Have a rule walked from the first evidence on, as it is changed or put in force."""
    rule.settled_at, rule.stamp = None, ""


def _carried_on(rule: OwnRule, ground: _Ground, held: list[RuleSpan]) -> bool:
    try:
        asked = question(rule.filter)
    except FilterError:
        return False  # it asks for what is no longer there; the rules' page says so, and what is known stays
    if asks_for_findings(asked.checked):
        return False  # by a set that was changed since: it would ask for itself
    rests_on = asked.rests_on
    clock = not rests_on.isdisjoint(_BY_ITSELF)
    stamp = _stamp(rule, ground, rests_on)
    if stamp == rule.stamp and rule.settled_at is not None:
        return False
    settled = rule.settled_at if stamp.partition("|")[0] == rule.stamp.partition("|")[0] else None
    if settled is not None:
        first = ground.earliest_since(int(rule.stamp.split("|")[1]))
        if first is not None and first <= settled:
            settled = day_start(day_of(first), zone()) - 1
    if settled is None and ground.first is None:
        return False
    open_then = {s.asset: s.begins for s in held if settled is not None and _holds(s, settled)}
    before = {s for s in held if settled is None or s.ends is None or s.ends > settled}
    after = _walk(rule, ground, settled, open_then, clock)
    settled_at = day_start(day_of(ground.now), zone()) - 1
    OwnRule.objects.filter(pk=rule.pk).update(settled_at=settled_at, stamp=stamp)
    if set(after) == before:
        return False
    with transaction.atomic():
        _write(rule, settled, after)
    return True


def _walk(rule: OwnRule, ground: _Ground, settled: int | None, standing: dict[int, int], clock: bool) -> list[RuleSpan]:
    begins = settled if settled is not None else day_start(day_of(ground.first), zone()) - 1

    def met(moment: int) -> list[int]:
        return ids(question(rule.filter, None if moment >= ground.now else moment))

    return walked(standing, _days(begins, ground, clock), met, _readings)


def from_nothing(rule: OwnRule) -> list[RuleSpan] | None:
    """Return the spans of a rule as they follow from all evidence; None where it cannot be asked. Writes nothing."""
    try:
        asked = question(rule.filter)
    except FilterError:
        return None
    ground = _Ground.read()
    if ground.first is None or asks_for_findings(asked.checked):
        return None
    return _walk(rule, ground, None, {}, not asked.rests_on.isdisjoint(_BY_ITSELF))


def _holds(span: RuleSpan, moment: int) -> bool:
    return span.begins <= moment and (span.ends is None or span.ends > moment)


def _stamp(rule: OwnRule, ground: _Ground, rests_on: frozenset[str]) -> str:
    """Return how what a rule rests on stands: its text and definitions, the evidence, and where the clock matters the
    minute; what leaves no trace when it changes has it asked anew from the beginning once a day."""
    today = day_of(ground.now).isoformat()
    daily = today if {"people", "rulings", "advisories", "standing"} & rests_on else ""
    told = hashlib.sha256(json.dumps([rule.filter, ground.generation, ground.definitions, daily]).encode())
    clock = not rests_on.isdisjoint(_BY_ITSELF)
    return f"{told.hexdigest()[:20]}|{ground.newest}|{ground.now // 60 if clock else today}"


def _days(after: int, ground: _Ground, clock: bool) -> Iterator[tuple[int, int]]:
    """Yield the first and last second of the days from a moment on up to now, those without a reading left out where
    nothing but a reading changes the answer."""
    day, read = day_of(after + 1), frozenset() if clock else ground.days_read(after)
    while (first := day_start(day, zone())) <= ground.now:
        last = min(day_start(day + timedelta(days=1), zone()) - 1, ground.now)
        if clock or day in read or last == ground.now:
            yield first, last
        day += timedelta(days=1)


def _readings(assets: Collection[int], after: int, until: int) -> dict[int, list[int]]:
    out: dict[int, list[int]] = {}
    for asset, moment in raw_connection().execute(
        "SELECT asset_id, at FROM estate_sighting WHERE at > ? AND at <= ? "
        "AND asset_id IN (SELECT value FROM json_each(?)) ORDER BY at",
        [after - 1, until, json.dumps(list(assets))],
    ):
        out.setdefault(asset, []).append(moment)
    return out


def _write(rule: OwnRule, settled: int | None, after: list[RuleSpan]) -> None:
    held = OwnSpan.objects.filter(rule=rule)
    if settled is not None:
        held = held.exclude(ends__lte=settled)
    held.delete()
    OwnSpan.objects.bulk_create(
        [OwnSpan(rule=rule, asset=s.asset, begins=s.begins, ends=s.ends) for s in after], batch_size=5000
    )
