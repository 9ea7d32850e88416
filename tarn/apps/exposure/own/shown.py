"""Rules of our own told: what each finds on a selection, and since when."""

import numpy as np

from tarn.apps.estate.asking.ask import Question, context, count, ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.exposure.grading.policy import policy
from tarn.apps.exposure.models import OwnRule
from tarn.apps.exposure.overview import open_on
from tarn.apps.exposure.own.results import OwnRuleOut, OwnRulesOut, OwnRuleTriedOut
from tarn.apps.exposure.shown import device_names
from tarn.apps.people.speaking import asked_in_words
from tarn.core.exposure.grade import GRADES
from tarn.core.exposure.own_rules import VERBS
from tarn.core.filters.check import check
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import Compare, Plain, to_text

NAMED = 8


def listed(asked: Question) -> OwnRulesOut:
    """Return all rules with what each finds on a selection."""
    there = open_on(asked)
    late, promises = there.late(), policy(asked.at).promises.days
    rows: list[OwnRuleOut] = []
    for rule in OwnRule.objects.all():
        mine = there.vulnerability == -rule.pk
        sentence, wrong = _read(rule.filter, asked.at)
        grade = next(g for g in GRADES if g == rule.grade)
        rows.append(
            {
                "id": rule.pk,
                "name": rule.name,
                "filter": rule.filter,
                "sentence": sentence,
                "wrong": wrong,
                "grade": rule.grade,
                "days": rule.days,
                "promised": promises[grade] if rule.days is None else rule.days,
                "verb": rule.verb,
                "what": rule.what,
                "todo": rule.todo,
                "shipped": bool(rule.key),
                "in_force": rule.in_force,
                "made_by": rule.made_by,
                "made_at": iso(rule.made_at),
                "version": rule.version,
                "devices": int(np.count_nonzero(mine)),
                "late": int(np.count_nonzero(late & mine)),
                "since": iso(int(there.since[mine].min())) if mine.any() else None,
                "opens": opens(rule.name),
            }
        )
    rows.sort(key=lambda r: (not r["in_force"], not r["devices"], GRADES.index(_grade(r)), -r["devices"], r["name"]))
    return {"rules": rows, "verbs": list(VERBS), "grades": list(GRADES)}


def _grade(row: OwnRuleOut) -> str:
    return row["grade"]


def opens(name: str) -> str:
    """Return the filter for what a rule finds and is not accepted."""
    return f"vulnerability[own = yes and {to_text(Compare('id', '=', Plain(name, True)))} and accepted = no]"


def _read(filter: str, at: int | None) -> tuple[str, str]:
    """Return a filter in English, and what is wrong with it by now."""
    try:
        tree = parse(filter)
        check(tree, context(at))
    except FilterError as error:
        return "", error.message
    return asked_in_words(tree), ""


def tried(filter: str) -> OwnRuleTriedOut:
    """Return what a filter would find now. Raises FilterError."""
    asked = question(filter)
    found = ids(asked)
    names = device_names(sorted(found)[:NAMED], None)
    return {
        "devices": len(found),
        "of": count(question("")),
        "sentence": asked_in_words(asked.tree),
        "names": sorted(names.values()),
    }
