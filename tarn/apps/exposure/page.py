"""One advisory: how each release here stands to it and why, its life here, how bad it is, and who says so."""

import json
from collections import Counter
from dataclasses import dataclass, field
from itertools import accumulate
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.strata import columns, selected
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding.advisories import Known, known
from tarn.apps.exposure.finding.findings import Knowledge, bracket, findings
from tarn.apps.exposure.finding.occurrences import OPEN, occurrences
from tarn.apps.exposure.finding.things import Row, under
from tarn.apps.exposure.grading.grades import devices, grade_of
from tarn.apps.exposure.grading.policy import policy
from tarn.apps.exposure.grading.promising import promised
from tarn.apps.exposure.overview import Open, open_on
from tarn.apps.exposure.results import (
    AdvisoryPage,
    AgainstOut,
    DocumentRemedy,
    DocumentWitness,
    GradedOut,
    LifeOut,
    LifeStep,
    ScoreOut,
    StandingOut,
)
from tarn.apps.exposure.shown import Reasons
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.grade import GRADES, POINTS
from tarn.core.exposure.score_here import ScoreHere, score_here
from tarn.core.exposure.status import Witness, weigh
from tarn.core.exposure.told import STATUSES
from tarn.core.filters.tree import Compare, Plain, Within, to_text

DAY = 86_400
MOST_NAMED = 300
"""Devices that a filter names one by one."""
_AMONG = "IN (SELECT value FROM json_each(?))"


def advisory(number: int, asked: Question, knowledge: Knowledge = "then") -> AdvisoryPage:
    """Return an advisory over a selection, as of its moment."""
    one = known([number], asked.at)[number]
    there = open_on(asked, knowledge)
    mine = there.vulnerability == number
    more = _more(number, asked.at)
    return {
        "name": one.name,
        "aliases": one.aliases,
        "title": one.title,
        "text": one.text,
        "published": iso(one.published),
        "met": iso(one.met),
        "used": iso(one.used),
        "action": one.action,
        "chance": one.chance,
        "percentile": one.percentile,
        "scores": more.scores,
        "weaknesses": more.weaknesses,
        "links": more.links,
        "remedies": more.remedies,
        "devices": int(np.count_nonzero(there.sure[mine])),
        "unsure": int(np.count_nonzero(~there.sure[mine])),
        "standings": _standings(number, one.name, asked, knowledge),
        "life": _life(number, asked, knowledge),
        "graded": _graded(one, there, mine),
        "witnesses": _witnesses(number, asked.at),
    }


def _then(at: int | None) -> tuple[str, list[int]]:
    if at is None:
        return "d.ends IS NULL", []
    return "d.begins <= ? AND (d.ends IS NULL OR d.ends > ?)", [at, at]


@dataclass
class _More:
    scores: list[ScoreOut] = field(default_factory=list)
    weaknesses: list[str] = field(default_factory=list)
    links: list[str] = field(default_factory=list)
    remedies: list[DocumentRemedy] = field(default_factory=list)


def _more(number: int, at: int | None) -> _More:
    """Return scores, weaknesses, links and remedies of all documents that stood, each once."""
    then, moment = _then(at)
    scores: dict[tuple[str, str], ScoreOut] = {}
    remedies: dict[str, DocumentRemedy] = {}
    out = _More()
    rows = raw_connection().execute(
        "SELECT t.more FROM exposure_telling t JOIN exposure_document d ON d.id = t.document_id "
        f"WHERE t.vulnerability_id = ? AND {then} ORDER BY d.word = 'general', d.id",
        [number, *moment],
    )
    for (text,) in rows:
        more = json.loads(text)
        for told in more.get("scores", ()):
            score = ScoreOut(version=told["version"], vector=told["vector"], base=told["base"], by=told.get("by", ""))
            scores.setdefault((score["vector"], score["by"]), score)
        for told in more.get("remedies", ()):
            remedy: DocumentRemedy = {"sort": told["sort"], "text": told["text"], "link": told.get("link", "")}
            remedies.setdefault(remedy["text"], remedy)
        out.weaknesses += [w for w in more.get("weaknesses", ()) if w not in out.weaknesses]
        out.links += [link for link in more.get("links", ()) if link not in out.links]
    out.scores, out.remedies = list(scores.values()), list(remedies.values())
    return out


def _standings(number: int, name: str, asked: Question, knowledge: Knowledge) -> list[StandingOut]:
    """Return how each thing that is on a device of the selection stands, the gravest first."""
    at = None if knowledge == "now" else asked.at
    held = "ends IS NULL" if at is None else "begins <= ? AND (ends IS NULL OR ends > ?)"
    rows = (
        raw_connection()
        .execute(
            f"SELECT thing_id, status, sure, statement FROM exposure_status WHERE vulnerability_id = ? AND {held}",
            [number, *([] if at is None else [at, at])],
        )
        .fetchall()
    )
    where = occurrences(frozenset(t for t, *_ in rows))
    there = columns(asked.at)
    wanted = set(there.assets[selected(there, asked)].tolist())
    reasons = Reasons([s for *_, s in rows], [t for t, *_ in rows])
    open_now = findings(knowledge).of(number)
    others = _others(number, at)
    out: list[StandingOut] = []
    for thing, status, sure, statement in rows:
        found = where.of([thing])
        moment = OPEN - 1 if asked.at is None else asked.at
        found = found[(found["begins"] <= moment) & (found["ends"] > moment)]
        assets = {a for a in found["asset"].tolist() if a in wanted}
        if STATUSES[status] == "affected":
            # Where a second thing has to be there, only those that have it.
            rows_of = open_now[open_now["thing"] == thing]
            rows_of = rows_of[(rows_of["begins"] <= moment) & (rows_of["ends"] > moment)]
            assets &= set(rows_of["asset"].tolist())
        if not assets:
            continue
        because, row = reasons.why(thing, statement), reasons.rows[thing]
        out.append(
            {
                "thing": thing,
                "release": row.called,
                "version": row.version,
                "under": under(row),
                "part": row.part,
                "devices": len(assets),
                "status": STATUSES[status],
                "because": str(because),
                "sure": sure,
                "justification": because.verdict.justification if because.verdict else "",
                "fixed_in": list(because.verdict.fixed_in) if because.verdict else [],
                "filter": _filter(name, row, STATUSES[status], assets, knowledge),
                "against": _against(reasons.things[thing], statement, status, others),
            }
        )
    out.sort(key=lambda s: (STATUSES.index(next(t for t in STATUSES if t == s["status"])), -s["devices"], s["release"]))
    return out


def _filter(name: str, row: Row, status: str, assets: set[int], knowledge: Knowledge) -> str | None:
    """Return the filter for the devices that are counted; None where they are too many to be named one by one."""
    if status in ("affected", "under investigation"):
        asked = [("id", name), ("product", row.product), ("release", row.version), ("under", under(row))]
        told = [to_text(Compare(field, "=", Plain(value, True))) for field, value in asked if value]
        state = to_text(Compare("status", "=", Plain(status, True)))
        return bracket(" and ".join([*told, state]), knowledge)
    if len(assets) > MOST_NAMED:
        return None
    cursor = raw_connection().execute(
        f"SELECT number FROM estate_asset WHERE id {_AMONG} ORDER BY number", [json.dumps(sorted(assets))]
    )
    return to_text(Within("number", tuple(Plain(number, True) for (number,) in cursor)))


def _others(number: int, at: int | None) -> list[tuple[int, Witness, str]]:
    """Return all statements that stand on a vulnerability, with their witness in words."""
    then, moment = _then(at)
    rows = raw_connection().execute(
        "SELECT s.id, s.body, d.id, d.word, ifnull(d.dated, 0), d.format, d.name, d.by FROM exposure_statementrow s "
        "JOIN exposure_telling t ON t.id = s.telling_id JOIN exposure_document d ON d.id = t.document_id "
        f"WHERE s.vulnerability_id = ? AND {then}",
        [number, *moment],
    )
    return [
        (i, Witness(document, word, dated, read_statement(body)), f"{by or 'its publisher'}: {format} {name}")
        for i, body, document, word, dated, format, name, by in rows
    ]


def _against(thing: Any, believed: int, status: int, others: list[tuple[int, Witness, str]]) -> list[AgainstOut]:
    out: list[AgainstOut] = []
    for number, witness, who in others:
        verdict = None if number == believed else weigh(thing, witness.statement)
        if verdict is not None and verdict.status != STATUSES[status]:
            out.append({"status": verdict.status, "because": f"{verdict.because} ({who})"})
    return out


def _life(number: int, asked: Question, knowledge: Knowledge) -> LifeOut:
    """Return how many devices were open from each moment on; those of the selection."""
    there = columns(asked.at)
    wanted = there.assets[selected(there, asked)]
    rows = findings(knowledge).of(number)
    rows = rows[np.isin(rows["asset"], wanted)]
    whole = {
        (a, b, e)
        for a, b, e in zip(rows["asset"].tolist(), rows["since"].tolist(), rows["until"].tolist(), strict=True)
    }
    changes: Counter[int] = Counter()
    for _, begins, ends in whole:
        changes[begins - begins % DAY] += 1
        if ends != OPEN:
            changes[ends - ends % DAY] -= 1
    if asked.at is not None:
        changes = Counter({m: n for m, n in changes.items() if m <= asked.at})
    moments = sorted(changes)
    counts = list(accumulate(changes[m] for m in moments))
    ended = sorted(e for _, _, e in whole if e != OPEN)
    half = None
    if whole and 2 * len(ended) >= len(whole):
        first = min(b for _, b, _ in whole)
        half = round((ended[(len(whole) + 1) // 2 - 1] - first) / DAY, 1)
    steps: list[LifeStep] = [{"day": iso(m)[:10], "open": n} for m, n in zip(moments, counts, strict=True)]
    return {"steps": steps, "most": max(counts, default=0), "half_days": half}


def _graded(one: Known, there: Open, mine: Any) -> list[GradedOut]:
    """Return the grades devices of a selection have, each with its steps, its score there and its earliest promise.

    `mine`: which of what is open on the selection is open to it.
    """
    told, tree = devices(there.at), policy(there.at).tree
    rows, grade = there.rows[there.first][mine], there.grade[mine]
    over = promised(grade, rows, there.known, there.at) if len(rows) else rows
    groups: dict[tuple[bool, bool, bool, bool], list[int]] = {}
    for n, asset in enumerate(rows["asset"].tolist()):
        key = (bool(told.outside[asset]), bool(told.important[asset]), asset in told.marked, asset in told.carrying)
        groups.setdefault(key, []).append(n)
    out: list[GradedOut] = []
    for (outside, important, marked, carrying), at in groups.items():
        found = grade_of(one, outside, important, tree, marked=marked, carrying=carrying)
        ends = [int(over[n]) for n in at if over[n] > 0]
        here = _score(one, outside, important)
        out.append(
            {
                "grade": found.grade,
                "devices": len(at),
                "steps": [
                    {"asks": POINTS[s.point].asks, "answer": s.answer, "because": s.because} for s in found.steps
                ],
                "due": iso(min(ends)) if ends else None,
                "threat": here.threat if here else None,
                "here": here.environment if here else None,
                "vector": here.vector if here else "",
            }
        )
    out.sort(key=lambda g: (GRADES.index(next(x for x in GRADES if x == g["grade"])), -g["devices"]))
    return out


def _score(one: Known, outside: bool, important: bool) -> ScoreHere | None:
    if one.score is None:
        return None
    return score_here(one.score.version, one.score.vector, one.used is not None, one.chance, outside, important)


def _witnesses(number: int, at: int | None) -> list[DocumentWitness]:
    """Return the documents that tell of it, those that stand first, the latest before the earlier."""
    before = "1" if at is None else "d.begins <= ?"
    rows = raw_connection().execute(
        "SELECT d.id, d.format, d.name, d.by, d.word, f.name, d.begins, d.ends, t.title, t.withdrawn "
        "FROM exposure_telling t JOIN exposure_document d ON d.id = t.document_id "
        "JOIN exposure_feed f ON f.id = d.feed_id "
        f"WHERE t.vulnerability_id = ? AND {before} ORDER BY d.ends IS NOT NULL, d.begins DESC LIMIT 100",
        [number, *([] if at is None else [at])],
    )
    return [
        {
            "number": number,
            "format": format,
            "name": name,
            "by": by,
            "word": word,
            "feed": feed,
            "came": iso(begins),
            "ended": iso(ends),
            "title": title,
            "withdrawn": iso(withdrawn),
        }
        for number, format, name, by, word, feed, begins, ends, title, withdrawn in rows
    ]
