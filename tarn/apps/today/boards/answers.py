"""Answering cards: each from its question or report, together, and a slow one never holds the rest up."""

import json
import logging
import time
from collections import Counter
from itertools import islice
from typing import Any

from django.http import Http404

from tarn.apps.estate.asking.ask import Question, count, question
from tarn.apps.estate.asking.dial import iso, read_dial
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.estate.register.strata import MOST_PARTS, crossed, strata
from tarn.apps.reports.reads.asking import ask, found
from tarn.apps.today.boards.reading import read_card, require_bands
from tarn.apps.today.results import CardAnswer, CardPart
from tarn.core.cards import MOST_POINTS, Card, CardError, days_of
from tarn.core.fields import FIELDS
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import to_text
from tarn.core.reports import ReportError

log = logging.getLogger("tarn.today")

BUDGET = 0.5
"""Seconds after which no further card is begun in one request; those left are asked for again."""
ROWS = 8
"""Rows a list shows."""
COLUMNS = ["name", "kind", "place"]
_took: dict[str, float] = {}
"""By card how long it took last: the quick ones go first."""


def answers(said: list[dict[str, Any]], as_of: str | None) -> list[CardAnswer]:
    """Return what cards show, in their order; those that were not come to say that they wait. Raises DialError."""
    at, begun = read_dial(as_of), time.monotonic()
    out: dict[int, CardAnswer] = {}
    order = sorted(range(len(said)), key=lambda n: _took.get(_known_by(said[n], at), 0.0))
    for place in order:
        if out and time.monotonic() - begun > BUDGET:
            break
        out[place] = _answered(said[place], at)
    return [out.get(n) or _empty(said[n], waits=True) for n in range(len(said))]


def _known_by(said: dict[str, Any], at: int | None) -> str:
    return json.dumps([at is None, said], sort_keys=True, default=str)


def _answered(said: dict[str, Any], at: int | None) -> CardAnswer:
    begun = time.monotonic()
    told = _empty(said)
    try:
        card = read_card(said)
        require_bands(card)
        _fill(told, card, read_dial(card.at) if card.at else at)
    except (CardError, FilterError, ReportError) as fault:
        told = _empty(said, trouble=f"{fault.field}: {fault}" if isinstance(fault, CardError) else str(fault))
    except Http404:
        told = _empty(said, trouble=f"The report “{said.get('report')}” is not there any more.")
    except Exception as fault:
        log.exception("card %s", said.get("key"))
        told = _empty(said, trouble=f"It could not be reckoned: {fault}"[:300])
    took = time.monotonic() - begun
    if len(_took) > 5_000:
        _took.clear()
    _took[_known_by(said, at)] = took
    told["milliseconds"] = round(took * 1000)
    return told


def _empty(said: dict[str, Any], *, waits: bool = False, trouble: str = "") -> CardAnswer:
    return {
        "key": str(said.get("key", ""))[:60],
        "trouble": trouble,
        "waits": waits,
        "milliseconds": 0,
        "count": None,
        "amount": None,
        "before": None,
        "whole": None,
        "filter": None,
        "report": None,
        "at": None,
        "parts": [],
        "points": [],
        "columns": [],
        "rows": [],
        "assets": [],
    }


def _fill(told: CardAnswer, card: Card, at: int | None) -> None:
    told["at"] = iso(at) if at is not None else None
    if card.of == "report":
        _of_report(told, card, at)
    elif card.of == "question":
        _of_question(told, card, at)


def _of_question(told: CardAnswer, card: Card, at: int | None) -> None:
    asked = question(card.filter, at)
    told["filter"] = card.filter
    if card.shown == "list":
        names = card.columns or COLUMNS
        if unknown := [n for n in names if n not in FIELDS]:
            raise CardError("columns", f"There is no field “{unknown[0]}”.")
        rows = list(rows_of("asset", names, asked, "", names[:1], ROWS))
        told["count"] = count(asked)
        told["columns"] = [{"name": n, "label": FIELDS[n].heading, "type": FIELDS[n].type} for n in names]
        told["rows"], told["assets"] = [[r[n] for n in names] for r in rows], [r["id"] for r in rows]
        return
    told["count"] = number = count(asked)
    if card.shown in ("figure", "line"):
        now = at if at is not None else int(time.time())
        days = days_of(now, card.days) if card.shown == "line" else days_of(now, card.days)[:: MOST_POINTS // 3]
        counted = [(day, count(question(card.filter, day))) for day in days if day < now]
        told["points"] = [{"day": iso(day), "count": n} for day, n in [*counted, (now, number)]]
        told["before"] = counted[0][1] if counted else None
    elif card.shown == "ring" and card.whole and not card.by:
        told["whole"] = count(question(card.whole, at))
        rest = f"({card.whole}) and not ({card.filter})"
        told["parts"] = [_part("yes", number, card.filter), _part("no", count(question(rest, at)), rest)]
    elif card.shown != "map":  # a map is drawn by the services it is of; here it is only counted
        told["parts"] = _divided(asked, card.by, card.and_by)


def _divided(asked: Question, by: str, and_by: str) -> list[CardPart]:
    within = to_text(asked.tree)

    def narrowed(label: str, number: int, *conditions: str) -> CardPart:
        asks = [f"({within})"] if within else []
        return _part(label, number, " and ".join([*asks, *(f"({c})" for c in conditions)]))

    if not and_by:
        (band,) = strata(asked, (by,))
        return [narrowed(part["label"], part["count"], part["filter"]) for part in band["parts"]]
    out = []
    for outer, inner in crossed(asked, by, and_by):
        condition = to_text(outer.condition)
        told = narrowed(outer.label, outer.count, condition)
        told["parts"] = [narrowed(p.label, p.count, condition, to_text(p.condition)) for p in inner]
        out.append(told)
    return out


def _part(label: str, number: int, text: str | None) -> CardPart:
    return {"label": label, "count": number, "filter": text, "parts": []}


def _of_report(told: CardAnswer, card: Card, at: int | None) -> None:
    report = found(card.report)
    told["report"] = report.key
    asked = ask(report.definition, at)
    names = [c.name for c in asked.columns]
    if missing := next((n for n in (card.by, card.sum, *card.columns) if n and n not in names), None):
        raise CardError("by", f"The report “{report.name}” has no column “{missing}”.")
    lines = (line for line in asked.lines if line.kind == "row")
    if card.shown == "list":
        picked = [names.index(n) for n in card.columns] or list(range(min(4, len(names))))
        shown = list(islice(lines, ROWS))
        told["count"] = len(shown) + sum(1 for _ in lines)
        columns = [asked.columns[p] for p in picked]
        told["columns"] = [{"name": c.name, "label": c.label, "type": c.type} for c in columns]
        told["rows"] = [[line.values[p] for p in picked] for line in shown]
        told["assets"] = [line.id for line in shown]
    elif card.shown == "figure":
        values = [line.values[names.index(card.sum)] if card.sum else 1 for line in lines]
        told["count"] = len(values)
        told["amount"] = round(sum(float(v) for v in values if v not in (None, "")), 2) if card.sum else None
    else:
        met = Counter(str(line.values[names.index(card.by)] or "none known") for line in lines)
        told["count"] = met.total()
        parts = met.most_common(MOST_PARTS)
        told["parts"] = [_part(label, n, None) for label, n in parts]
        if rest := met.total() - sum(n for _, n in parts):
            told["parts"].append(_part(f"{len(met) - len(parts)} others", rest, None))
