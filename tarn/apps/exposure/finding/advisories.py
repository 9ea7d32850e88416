"""What is known of vulnerabilities as of a moment: names, words, scores, chance, use. The witnesses in their order."""

import json
from dataclasses import dataclass, field
from typing import Any

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.models import Alias, OwnRule
from tarn.core.exposure.grade import GRADES, Grade
from tarn.core.exposure.told import Score

_WORDS = {"own": 3, "maker": 0, "components": 1, "general": 2}
_VERSIONS = ("4.0", "3.1", "3.0", "2.0")


@dataclass(frozen=True)
class OwnTold:
    """What a rule of our own says: its grade, its own promise in days, since when it counts, and what ends it."""

    grade: Grade
    days: int | None
    made_at: int
    verb: str
    what: str
    todo: str
    asks: str


@dataclass
class Known:
    """A vulnerability, or a rule of our own (under the negative of its number), as it is known: its score is the best
    believed one, `used` since when it is on a list of those in use, `chance` and `percentile` by EPSS."""

    number: int
    name: str
    aliases: list[str] = field(default_factory=list)
    title: str = ""
    text: str = ""
    published: int | None = None
    met: int | None = None
    score: Score | None = None
    used: int | None = None
    action: str = ""
    chance: float | None = None
    percentile: float | None = None
    own: OwnTold | None = None


def known(numbers: list[int], at: int | None = None) -> dict[int, Known]:
    """Return what was known of vulnerabilities at a moment, by number; of our own rules as they are."""
    return _of_documents([n for n in numbers if n > 0], at) | _of_our_own([-n for n in numbers if n < 0])


def number_of(name: str) -> int | None:
    """Return the vulnerability a name is of, whatever its letters' case."""
    held = Alias.objects.filter(name=name).first() or Alias.objects.filter(name__iexact=name).first()
    return held.vulnerability_id if held else None


def _of_our_own(numbers: list[int]) -> dict[int, Known]:
    grades = {str(g): g for g in GRADES}
    return {
        -rule.pk: Known(
            -rule.pk,
            rule.name,
            title=rule.todo,
            own=OwnTold(grades[rule.grade], rule.days, rule.made_at, rule.verb, rule.what, rule.todo, rule.filter),
        )
        for rule in OwnRule.objects.filter(pk__in=numbers)
    }


def _of_documents(numbers: list[int], at: int | None) -> dict[int, Known]:
    db, these = raw_connection(), json.dumps(numbers)
    among = "IN (SELECT value FROM json_each(?))"
    out = {
        n: Known(n, name)
        for n, name in db.execute(f"SELECT id, name FROM exposure_vulnerability WHERE id {among}", [these])
    }
    for number, name in db.execute(
        f"SELECT vulnerability_id, name FROM exposure_alias WHERE vulnerability_id {among} ORDER BY name", [these]
    ):
        if name != out[number].name:
            out[number].aliases.append(name)
    then, moment = _held("d", at)
    rows = db.execute(
        "SELECT t.vulnerability_id, t.title, t.text, t.published, t.more ->> 'scores', d.begins, d.word, "
        "ifnull(d.dated, 0) FROM exposure_telling t JOIN exposure_document d ON d.id = t.document_id "
        f"WHERE t.vulnerability_id {among} AND t.withdrawn IS NULL AND {then}",
        [these, *moment],
    ).fetchall()
    for number, title, text, published, scores, begins, _, _ in sorted(rows, key=lambda r: (_WORDS[r[6]], -r[7])):
        one = out[number]
        one.title, one.text = one.title or title, one.text or text
        one.published = min(p for p in (one.published, published) if p is not None) if published else one.published
        one.met = begins if one.met is None else min(one.met, begins)
        one.score = one.score or best(json.loads(scores or "[]"))
    then, moment = _held("c", at)
    for number, chance, percentile in db.execute(
        "SELECT a.vulnerability_id, c.chance, c.percentile FROM exposure_alias a "
        f"JOIN exposure_chance c ON c.name = a.name WHERE a.vulnerability_id {among} AND {then}",
        [these, *moment],
    ):
        if out[number].chance is None or chance > (out[number].chance or 0):
            out[number].chance, out[number].percentile = chance, percentile
    then, moment = _held("u", at)
    for number, since, action in db.execute(
        "SELECT a.vulnerability_id, min(u.since), u.action FROM exposure_alias a "
        "JOIN exposure_use u ON u.name = a.name "
        f"WHERE a.vulnerability_id {among} AND {then} GROUP BY a.vulnerability_id",
        [these, *moment],
    ):
        out[number].used, out[number].action = since, action
    return out


def _held(alias: str, at: int | None) -> tuple[str, list[int]]:
    if at is None:
        return f"{alias}.ends IS NULL", []
    return f"{alias}.begins <= ? AND ({alias}.ends IS NULL OR {alias}.ends > ?)", [at, at]


def best(scores: list[dict[str, Any]]) -> Score | None:
    """Return the score of the latest version of CVSS among scores, the highest of that."""
    told = [Score(**{k: s[k] for k in ("version", "vector", "base")}, by=s.get("by", "")) for s in scores]
    return min(told, key=lambda s: (_VERSIONS.index(s.version) if s.version in _VERSIONS else 9, -s.base), default=None)
