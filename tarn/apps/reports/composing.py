"""What a watch writes: the new rows first, plain text and HTML, the file if wanted, and a link to the same question."""

import io
import json
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime
from html import escape
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings

from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.asking.dial import zone
from tarn.apps.estate.people.persons import holders_of
from tarn.apps.people.reads import addresses_of_role, roster
from tarn.apps.people.scope import asker, asking_as
from tarn.apps.people.speaking import language_at
from tarn.apps.reports.calling import is_call
from tarn.apps.reports.models import Letter, Watch
from tarn.apps.reports.pdf import as_pdf
from tarn.apps.reports.reads.asking import Asked, Found, ask, found
from tarn.apps.reports.writing import Head, as_csv, as_html, as_json, as_xlsx, heading, shown, told_columns
from tarn.apps.reports.writing_ods import as_ods
from tarn.core.reports import ShownColumn
from tarn.core.watching import Finding, told_condition

SHOWN = 50
"""Rows a letter shows; the rest is a number and a link."""
CALLED = 1_000
"""Rows a call on the web brings at the most."""


@dataclass(frozen=True)
class ReportAnswer:
    """What a watch's report answers: its rows by key, in order, with the columns they are shown in, and the device each
    is of."""

    found: Found
    columns: list[ShownColumn]
    rows: dict[str, list[Any]]
    devices: dict[str, int | None]
    sentence: str
    share: float | None
    """How many percent of the register's devices the rows are of; None where they are of none."""
    whole: bool = True
    """Whether these are all the rows; a holder is told of their own only, and gets no file of the others'."""

    @property
    def keys(self) -> list[str]:
        """Return the rows' keys."""
        return list(self.rows)


def answer(watch: Watch, at: int | None) -> ReportAnswer:
    """Ask a watch's report.

    A row is known by what it is of (a device, an item of one of its lists, an end and the days before it): what is told
    of it may change and it is the same row still.
    """
    # Of the whole estate, wherever the person stands who makes or tries it: by itself it stands nowhere.
    with asking_as(asker().everywhere()):
        return _answer(found(watch.report), at)


def _answer(report: Found, at: int | None) -> ReportAnswer:
    asked = ask(report.definition, at)
    rows: dict[str, list[Any]] = {}
    devices: dict[str, int | None] = {}
    for line in asked.lines:
        if line.kind == "row":
            key = json.dumps(line.key, default=str)
            rows[key], devices[key] = line.values, line.id
    return ReportAnswer(report, asked.columns, rows, devices, asked.sentence, _share(devices.values(), at))


def _share(devices: Iterable[int | None], at: int | None) -> float | None:
    mine = {one for one in devices if one is not None}
    whole = count(question("", at))
    return round(100 * len(mine) / whole, 2) if whole else None


def addressed(watch: Watch, told: ReportAnswer, finding: Finding) -> Iterator[tuple[list[str], ReportAnswer, Finding]]:
    """Yield to whom a finding is written, with what each is told: all of it, or a holder only their own devices'."""
    known = roster()
    plain: list[str] = []
    for one in watch.to:
        kind, _, name = one.partition(":")
        if kind == "role":
            plain += addresses_of_role(name)
        elif kind == "person":
            plain += [p.email] if (p := known.get(name)) and p.email else []
        elif is_call(one):
            yield [one], told, finding
        elif one != "holder":
            plain.append(one)
    by_language: dict[str, list[str]] = {}
    for one in dict.fromkeys(plain):
        by_language.setdefault(language_at(one), []).append(one)
    for some in by_language.values():
        yield some, told, finding
    if "holder" not in watch.to:
        return
    holders = holders_of({device for device in told.devices.values() if device is not None})
    by_person: dict[str, list[str]] = {}
    for key in told.rows:
        device = told.devices[key]
        holder = known.get((holders.get(device) if device is not None else None) or "")
        if holder is not None and holder.email:
            by_person.setdefault(holder.email, []).append(key)
    for email, keys in by_person.items():
        mine = set(keys)
        theirs = Finding(finding.fires, [k for k in finding.new if k in mine], [])
        yield [email], replace(told, rows={k: told.rows[k] for k in keys}, whole=False), theirs


def head(name: str, sentence: str, as_of: str, here: ZoneInfo) -> Head:
    """Return what a file says of itself."""
    made = f"{datetime.fromtimestamp(time.time(), here):%Y-%m-%d %H:%M}"
    return Head(name, sentence, as_of, made, here)


def _subject(watch: Watch, told: ReportAnswer, finding: Finding) -> str:
    total = len(told.rows)
    subject = f"{watch.name}: {total:,} {'row' if total == 1 else 'rows'}"
    if finding.new:
        subject += f", {len(finding.new):,} new"
    if finding.gone:
        subject += f", {len(finding.gone):,} gone"
    return subject[:200]


def _link(told: ReportAnswer) -> str:
    return f"{settings.TARN_URL}/reports/{told.found.key}"


def compose(watch: Watch, told: ReportAnswer, finding: Finding, now: int) -> Letter:
    """Return the letter for an answer; not saved yet."""
    here = zone()
    fresh = set(finding.new)
    ordered = [k for k in told.rows if k in fresh] + [k for k in told.rows if k not in fresh]
    link = _link(told)
    why = told_condition(watch.condition, watch.number)
    if watch.condition == "share":
        why += f" (from {watch.share or 0:g} % to {told.share or 0:g} %)"
    intro = f"“{told.found.name}” — written because {why}."
    lines = [(k in fresh, [shown(v, c.type, here) for v, c in zip(told.rows[k], told.columns, strict=True)])
             for k in ordered[:SHOWN]]  # fmt: skip
    more = len(told.rows) - len(lines)
    lost = [(key, _as_held(watch, key)) for key in finding.gone]
    letter = Letter(
        watch=watch,
        made_at=now,
        due_at=now,
        to=watch.to,
        subject=_subject(watch, told, finding),
        text=_text(intro, told, lines, more, link, lost),
        html=_html(intro, told, lines, more, link, lost),
    )
    if watch.attach and told.whole:
        with asking_as(asker().everywhere()):
            asked = ask(told.found.definition, None)
            letter.attachment = _file(watch.attach, head(told.found.name, told.sentence, "now", here), asked)
        letter.attached_as = f"{told.found.key}-{datetime.fromtimestamp(now, here):%Y-%m-%d}.{watch.attach}"
    return letter


def called(watch: Watch, told: ReportAnswer, finding: Finding, now: int) -> Letter:
    """Return the message for a call on the web: the same, as JSON; not saved yet."""
    body = {
        "watch": watch.name,
        "report": told.found.name,
        "question": told.sentence,
        "at": now,
        "total": len(told.rows),
        "share": told.share,
        "columns": told_columns(told.columns),
        "rows": [told.rows[k] for k in list(told.rows)[:CALLED]],
        "new": [told.rows[k] for k in finding.new if k in told.rows][:CALLED],
        "gone": [{"row": _as_held(watch, k), "key": json.loads(k)} for k in finding.gone[:CALLED]],
        "link": _link(told),
    }
    subject, text = _subject(watch, told, finding), json.dumps(body, ensure_ascii=False)
    return Letter(watch=watch, made_at=now, due_at=now, to=watch.to, subject=subject, text=text)


def held_rows(told: ReportAnswer) -> dict[str, list[str]]:
    """Return the rows of an answer by key in words, as a watch keeps them to say later what is gone."""
    here = zone()
    return {k: [shown(v, c.type, here) for v, c in zip(row, told.columns, strict=True)] for k, row in told.rows.items()}


def _as_held(watch: Watch, key: str) -> list[str]:
    """Return a row that is gone as it was last told."""
    return list(watch.rows.get(key, ()))


_Lost = list[tuple[str, list[str]]]


def _text(
    intro: str, told: ReportAnswer, lines: list[tuple[bool, list[str]]], more: int, link: str, lost: _Lost
) -> str:
    heads = [heading(c) for c in told.columns]
    out = [intro, ""]
    for new, cells in lines:
        said = ", ".join(f"{h}: {c}" for h, c in zip(heads, cells, strict=True) if c)
        out.append(f"{'NEW  ' if new else '     '}{said}")
    if more > 0:
        out.append(f"     … and {more:,} more")
    if lost:
        out += ["", f"Gone since last time: {len(lost):,}"]
        out += [
            f"GONE {', '.join(f'{h}: {c}' for h, c in zip(heads, row, strict=False) if c)}" for _, row in lost[:SHOWN]
        ]
    if len(lost) > SHOWN:
        out.append(f"     … and {len(lost) - SHOWN:,} more that are gone")
    return "\n".join([*out, "", f"All of it: {link}", ""])


def _html(
    intro: str, told: ReportAnswer, lines: list[tuple[bool, list[str]]], more: int, link: str, lost: _Lost
) -> str:
    cell = "padding:3px 8px;border-bottom:1px solid #dcdcd3;text-align:left;vertical-align:top"
    heads = "".join(f'<th style="{cell};background:#f4f3ee">{escape(heading(c))}</th>' for c in told.columns)
    rows = "".join(
        f'<tr><td style="{cell};color:#6d4c00"><b>{"new" if new else ""}</b></td>'
        + "".join(f'<td style="{cell}">{escape(c)}</td>' for c in cells)
        + "</tr>"
        for new, cells in lines
    )
    rows += "".join(
        f'<tr><td style="{cell};color:#8a3b12"><b>gone</b></td>'
        + "".join(f'<td style="{cell};color:#6a767b">{escape(c)}</td>' for c in row)
        + "</tr>"
        for _, row in lost[:SHOWN]
    )
    rest = f"<p>… and {more:,} more.</p>" if more > 0 else ""
    rest += f"<p>… and {len(lost) - SHOWN:,} more that are gone.</p>" if len(lost) > SHOWN else ""
    return (
        f'<div style="font-family:sans-serif;font-size:14px;color:#15252c"><p>{escape(intro)}</p>'
        f'<table style="border-collapse:collapse;font-size:13px"><tr><th style="{cell}"></th>{heads}</tr>{rows}</table>'
        f'{rest}<p><a href="{escape(link)}">Open it in Tarn</a></p></div>'
    )


def _file(kind: str, head: Head, asked: Asked) -> bytes:
    if kind == "xlsx":
        return as_xlsx(head, asked).read()
    if kind == "ods":
        return as_ods(head, asked).read()
    if kind == "pdf":
        return as_pdf(head, asked).read()
    pieces = {"csv": as_csv, "json": as_json, "html": as_html}[kind](head, asked)
    out = io.StringIO()
    for piece in pieces:
        out.write(piece)
    return out.getvalue().encode()
