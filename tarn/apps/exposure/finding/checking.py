"""Whether what is derived of exposure follows from documents, names and evidence: held against it made from nothing."""

from collections.abc import Iterator

from tarn.apps.estate.door.rebuild import Difference
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding.deriving import StatusRow, all_things, reckoned, said_of
from tarn.apps.exposure.models import OwnRule, OwnSpan
from tarn.apps.exposure.own import deriving as own
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.core.exposure.own_rules import RuleSpan

AT_ONCE = 500
"""Vulnerabilities that are weighed together."""


def differences() -> list[Difference]:
    """Return how statuses, and the spans of our own rules, differ from what they follow from; nothing is changed."""
    found = [_of("exposure_status", _statuses())]
    with asking_as(NOBODY):
        found.append(_of("exposure_ownspan", _spans()))
    return [d for d in found if d is not None]


def _of(table: str, pairs: Iterator[tuple[set[tuple[object, ...]], set[tuple[object, ...]]]]) -> Difference | None:
    held_only = rebuilt_only = 0
    example = ""
    for held, rebuilt in pairs:
        held_only += len(held - rebuilt)
        rebuilt_only += len(rebuilt - held)
        example = example or next((str(row) for row in [*(held - rebuilt), *(rebuilt - held)]), "")
    return Difference(table, held_only, rebuilt_only, example) if held_only or rebuilt_only else None


def _statuses() -> Iterator[tuple[set[tuple[object, ...]], set[tuple[object, ...]]]]:
    db, there = raw_connection(), all_things()
    numbers = [n for (n,) in db.execute("SELECT id FROM exposure_vulnerability ORDER BY id")]
    for piece in (numbers[n : n + AT_ONCE] for n in range(0, len(numbers), AT_ONCE)):
        fresh = set(reckoned(there, said_of(piece)))
        held = {
            StatusRow(*row)
            for row in db.execute(
                "SELECT thing_id, vulnerability_id, status, sure, needs, statement, begins, ends FROM exposure_status "
                "WHERE vulnerability_id BETWEEN ? AND ?",
                [piece[0], piece[-1]],
            )
        }
        yield set(held), set(fresh)


def _spans() -> Iterator[tuple[set[tuple[object, ...]], set[tuple[object, ...]]]]:
    own.catch_up()
    for rule in OwnRule.objects.filter(in_force=True):
        held = {RuleSpan(*s) for s in OwnSpan.objects.filter(rule=rule).values_list("asset", "begins", "ends")}
        rebuilt = own.from_nothing(rule)
        if rebuilt is not None:
            yield {_row(rule, s) for s in held}, {_row(rule, s) for s in rebuilt}


def _row(rule: OwnRule, span: RuleSpan) -> tuple[object, ...]:
    return rule.name, span.asset, span.begins, span.ends
