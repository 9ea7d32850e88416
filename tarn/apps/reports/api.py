"""Reports and watches over HTTP: thin; parse, call, shape."""

import time
from collections import defaultdict
from typing import Annotated, Any

from django.db.models import Window
from django.db.models.functions import RowNumber
from django.http import HttpRequest
from ninja import Query, Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.estate.asking.dial import read_dial, zone
from tarn.apps.people.answers import or_404
from tarn.apps.people.scope import scope, visible
from tarn.apps.people.speaking import Words
from tarn.apps.reports import writing
from tarn.apps.reports.actions import reports as report_actions
from tarn.apps.reports.actions import watches as watch_actions
from tarn.apps.reports.api_files import report_named
from tarn.apps.reports.inputs import ReportIn, WatchIn
from tarn.apps.reports.models import Letter, Report, Watch
from tarn.apps.reports.reads.asking import Found, all_reports, ask
from tarn.apps.reports.reads.mailbox import letters as delivered
from tarn.apps.reports.results import (
    BlockOut,
    ColumnOut,
    KeyOut,
    LetterOut,
    LineOut,
    MailOut,
    PreviewOut,
    ReportOut,
    ReportRow,
    RowKindOut,
    WatchConditionOut,
)
from tarn.apps.reports.sending import send_again
from tarn.core.report_rows import report_rows, row_names
from tarn.core.reports import ShownColumn, columns_of, one_of
from tarn.core.schedule import in_words
from tarn.core.watching import CONDITIONS, told_condition

router = Router(tags=["reports"])
PAGE = 2_000
"""Lines a screen is given; files have all."""
MOST_READ = 50_000
"""Rows a page reads for its figures; of a longer report they stand in its files."""


class PreviewIn(Schema):
    definition: dict[str, Any]


class WatchOut(WatchIn):
    id: int
    said: str
    writes_when: Words
    report_name: Words
    asked_at: int | None
    next_at: int | None
    rows: int
    trouble: str
    owner: str
    version: int
    share: float | None
    secret: str
    letters: list[LetterOut]


def _row(one: Found) -> ReportRow:
    return {
        "key": one.key,
        "name": one.name,
        "room": one.room,
        "text": one.text,
        "ships": one.ships,
        "row": one.definition.row,
        "made_by": one.made_by,
        "access": one.access,
    }


def _lines(asked: Any, most: int = PAGE) -> PreviewOut:
    """Return a report's first rows with the figures of all of them; of none where there are more than can be read."""
    within: tuple[Any, ...] = ()
    out: list[LineOut] = []
    cut, rows = False, 0
    groups = [[c.name for c in asked.columns].index(name) for name in asked.definition.group_by]
    for line in asked.lines:
        if line.kind == "row":
            rows += 1
            if rows > MOST_READ:
                break
            if rows > most:
                cut = True
                continue
            within = tuple(line.values[n] for n in groups)
        elif line.kind == "group" and cut and line.keys != within[: len(line.keys)]:
            continue  # the figures of a group none of whose rows is shown
        said = "" if line.kind == "row" else "; ".join(writing.total_words(asked, line, zone()))
        out.append(
            {
                "kind": line.kind,
                "values": [writing.told(v, c.type) for v, c in zip(line.values, asked.columns, strict=False)],
                "keys": list(line.keys),
                "said": said,
                "rows": line.rows,
                "id": line.id,
                "details": [
                    [[writing.told(v, c.type) for v, c in zip(row, block.columns, strict=True)] for row in rows]
                    for block, rows in zip(asked.blocks, line.details, strict=False)
                ],
            }
        )
    blocks: list[BlockOut] = [{"label": b.label, "columns": _columns(b.columns)} for b in asked.blocks]
    return {"sentence": asked.sentence, "columns": _columns(asked.columns), "blocks": blocks, "lines": out, "cut": cut}


def _columns(known: list[ShownColumn]) -> list[ColumnOut]:
    return [{"name": c.name, "label": writing.heading(c), "type": c.type} for c in known]


@router.get("/reports/rows", response=list[RowKindOut])
def row_kinds(request: HttpRequest) -> list[RowKindOut]:
    """Return what a row of a report may be, and the columns it may have."""
    return [
        {
            "name": row,
            "one": one_of(row),
            "over_days": row in report_rows() and report_rows()[row].over_days,
            "filtered": row not in report_rows() or report_rows()[row].filtered,
            "columns": [{"name": n, "label": label, "type": kind} for n, (label, kind) in columns_of(row).items()],
        }
        for row in row_names()
    ]


@router.get("/reports/list", response=list[ReportRow])
def listed(request: HttpRequest) -> list[ReportRow]:
    """Return the reports composed here, and those that ship."""
    return [_row(r) for r in all_reports()]


@router.post("/reports/preview", response=PreviewOut)
def preview(
    request: HttpRequest, data: PreviewIn, as_of: str | None = None, limit: Annotated[int, Query(ge=1, le=500)] = 60
) -> PreviewOut:
    """Return the first rows of a report as it is being composed."""
    return _lines(ask(report_actions.read_definition(data.definition), read_dial(as_of)), limit)


@router.post("/reports/composed", response=KeyOut)
def new_report(request: HttpRequest, data: ReportIn) -> KeyOut:
    """Keep a report."""
    return {"key": str(report_actions.make_report(request.user, data).pk)}


@router.put("/reports/composed/{number}", response=KeyOut)
def change_report(request: HttpRequest, number: int, data: ReportIn) -> KeyOut:
    """Change a report, made from the version it was read at."""
    try:
        return {"key": str(report_actions.change_report(request.user, number, data).pk)}
    except Report.DoesNotExist:
        raise HttpError(404, f"There is no report {number}.") from None


@router.delete("/reports/composed/{number}", response={204: None})
def end_report(request: HttpRequest, number: int) -> Status[None]:
    """Drop a report; watches on it say so."""
    try:
        report_actions.drop_report(request.user, number)
    except Report.DoesNotExist:
        raise HttpError(404, f"There is no report {number}.") from None
    return Status(204, None)


@router.get("/reports/shown/{key}", response=ReportOut)
def report(request: HttpRequest, key: str, as_of: str | None = None) -> ReportOut:
    """Return a report with its lines, as of a day; a long one is cut, its files are whole."""
    one = report_named(key)
    asked = ask(one.definition, read_dial(as_of))
    return {**_row(one), "definition": one.definition.model_dump(), "version": one.version, **_lines(asked)}


def _letter(letter: Letter) -> LetterOut:
    return {
        "id": letter.pk,
        "made_at": letter.made_at,
        "due_at": letter.due_at,
        "sent_at": letter.sent_at,
        "subject": letter.subject,
        "to": letter.to,
        "acknowledged_by": letter.acknowledged_by,
        "tries": letter.tries,
        "trouble": letter.trouble,
    }


LATEST = 10
"""Letters of a watch that are told of."""


def _watch(held: Watch, secret: str = "") -> dict[str, Any]:
    return _watches([held], secret)[0]


def _watches(several: list[Watch], secret: str = "") -> list[dict[str, Any]]:
    """Return watches with their latest letters, in as many statements as for one."""
    shown = ("name", "report", "rule", "condition", "number", "to", "attach", "quiet", "on", "insists", "gathered",
             "version", "asked_at", "next_at", "trouble", "share")  # fmt: skip
    names = {one.key: one.name for one in all_reports()}
    place = Window(RowNumber(), partition_by="watch", order_by="-pk")
    letters: dict[int, list[Letter]] = defaultdict(list)
    for letter in Letter.objects.filter(watch__in=several).annotate(place=place).filter(place__lte=LATEST):
        letters[letter.watch_id].append(letter)
    return [
        {
            **{f: getattr(watch, f) for f in shown},
            "id": watch.pk,
            "said": in_words(watch.rule),
            "writes_when": told_condition(watch.condition, watch.number),
            "report_name": names.get(watch.report, "a report that was dropped"),
            "rows": len(watch.held),
            "owner": watch.owner.username,
            "secret": secret,
            "letters": [_letter(x) for x in sorted(letters[watch.pk], key=lambda x: -x.pk)],
        }
        for watch in several
    ]


@router.get("/watches", response=list[WatchOut])
def watches(request: HttpRequest) -> Any:
    """Return the watches with their latest letters."""
    return _watches(list(visible(Watch).select_related("owner").order_by("name")))


@router.get("/watches/conditions", response=list[WatchConditionOut])
def conditions(request: HttpRequest) -> Any:
    """Return when a watch may write: the sentence of each, and what its number is of, where it takes one."""
    return list(CONDITIONS.values())


@router.post("/watches", response=WatchOut)
def new_watch(request: HttpRequest, data: WatchIn) -> Any:
    """Make a watch. `secret`: what its calls on the web are signed with, told this once."""
    return _watch(*watch_actions.make_watch(request.user, data))


@router.put("/watches/{number}", response=WatchOut)
def change_watch(request: HttpRequest, number: int, data: WatchIn) -> Any:
    """Change a watch, made from the version it was read at."""
    return _watch(*or_404(Watch, lambda n: watch_actions.change_watch(request.user, n, data), number))


@router.delete("/watches/{number}", response={204: None})
def end_watch(request: HttpRequest, number: int) -> Status[None]:
    """Drop a watch."""
    or_404(Watch, lambda n: watch_actions.drop_watch(request.user, n), number)
    return Status(204, None)


@router.post("/watches/{number}/try", response=LetterOut)
def try_watch(request: HttpRequest, number: int) -> LetterOut:
    """Write what a watch would write now, to oneself, and send it at once."""
    letter = or_404(Watch, lambda n: watch_actions.try_out(request.user, n), number)
    send_again(letter, int(time.time()))
    return _letter(letter)


@router.post("/letters/{number}/acknowledge", response=LetterOut)
def acknowledge(request: HttpRequest, number: int) -> LetterOut:
    """Acknowledge a letter, so that its watch does not insist on it."""
    return _letter(or_404(Letter, lambda n: watch_actions.acknowledge(request.user, n), number))


@router.get("/mailbox", response=list[MailOut])
def mailbox(request: HttpRequest) -> list[MailOut]:
    """Return the mail delivered to this installation's own mailbox, where it has one."""
    if scope() is not None:
        return []
    return delivered()
