"""Reports and selections as files."""

import re
import time
from collections.abc import Iterator
from dataclasses import replace
from itertools import chain
from typing import Annotated

from django.http import FileResponse, Http404, HttpRequest, StreamingHttpResponse
from django.http.response import HttpResponseBase
from ninja import Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.dial import read_dial, zone
from tarn.apps.estate.register.pages import GIVEN, everything, field_named
from tarn.apps.estate.register.streaming import stream
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.reports import composing, writing
from tarn.apps.reports.listed import Head, ListError, as_asked
from tarn.apps.reports.pdf import as_pdf
from tarn.apps.reports.reads.asking import Asked, Found, ask, found
from tarn.apps.reports.writing_ods import as_ods
from tarn.core.reports import Column, Definition
from tarn.core.text import fold

router = Router(tags=["reports"])
SELECTION = "devices"
"""What files of a selection are called."""
BYTE_ORDER_MARK = "\ufeff"
LISTED = ("xlsx", "ods", "csv")
"""What a list of the screen is written as."""


def report_named(key: str) -> Found:
    """Return a report by its key or number; answer 404 where there is none."""
    try:
        return found(key)
    except Http404 as error:
        raise HttpError(404, str(error)) from None


@router.get("/reports/shown/{key}/{format}")
def file(request: HttpRequest, key: str, format: str, as_of: str | None = None) -> HttpResponseBase:
    """Return a report as a file: csv, json, xlsx, ods, html or pdf."""
    one = report_named(key)
    return _as_file(one.definition, one.key, one.name, format, as_of)


@router.get("/reports/asked/{format}")
def selection(
    request: HttpRequest,
    format: str,
    filter: str = "",
    fields: str = "name",
    sort: str = "name",
    as_of: str | None = None,
) -> HttpResponseBase:
    """Return a selection of devices with these columns as a file, as a report of them would be."""
    columns = [Column(field=name) for name in dict.fromkeys(f for f in fields.split(",") if f)]
    shown = sort.lstrip("-") in {c.field for c in columns}
    if not shown and sort.lstrip("-") != GIVEN:
        field_named(sort.lstrip("-"))
    definition = Definition(row="asset", columns=columns, filter=filter, sort=sort if shown else "")
    return _as_file(definition, SELECTION, "Devices", format, as_of, "" if shown else sort)


def _as_file(
    definition: Definition, key: str, title: str, format: str, as_of: str | None, order: str = ""
) -> HttpResponseBase:
    """Return a report as a file; `order`: of devices, by what is no column of it."""
    if format not in writing.FORMATS:
        raise HttpError(404, f"There is no file “{format}”; {', '.join(writing.FORMATS)} are.")
    at = read_dial(as_of)
    asked = ask(definition, at)
    if order:
        place = {row["id"]: n for n, row in enumerate(everything(question(definition.filter, at), [], order))}
        lines = sorted(asked.lines, key=lambda line: place.get(line.id or 0, len(place)))
        asked = replace(asked, lines=iter(lines))
    head = composing.head(title, asked.sentence, as_of or "now", zone())
    name = f"{key}-{(as_of or time.strftime('%Y-%m-%d'))[:10]}.{format}"
    return _written(head, asked, name, format, plain=key == SELECTION)


def _written(head: writing.Head, asked: Asked, name: str, format: str, plain: bool) -> HttpResponseBase:
    """Return what was asked as a file; `plain`: without a head in CSV, so that a spreadsheet opens it right."""
    disposition = {"Content-Disposition": f'attachment; filename="{name}"'}
    kind = writing.FORMATS[format]
    if (whole := {"xlsx": writing.as_xlsx, "ods": as_ods, "pdf": as_pdf}.get(format)) is not None:
        made = whole(head, asked)
        return FileResponse(made, content_type=kind, as_attachment=True, filename=name)
    if format == "csv" and plain:
        # Its first line are the headings and its mark says that it is UTF-8, so that a spreadsheet opens it right.
        pieces: Iterator[str] = chain([BYTE_ORDER_MARK], writing.as_csv(None, asked))
    else:
        pieces = {"csv": writing.as_csv, "json": writing.as_json, "html": writing.as_html}[format](head, asked)
    return StreamingHttpResponse(stream(pieces), content_type=kind, headers=disposition)


class HeadIn(Schema):
    label: Annotated[str, Field(max_length=200)]
    number: bool = False


class ListIn(Schema):
    name: Annotated[str, Field(max_length=200)]
    columns: Annotated[list[HeadIn], Field(max_length=200)]
    rows: list[list[str | int | float | None]]


@router.post("/reports/listed/{format}")
def listed(request: HttpRequest, format: str, data: ListIn) -> HttpResponseBase:
    """Return a list of the screen, its columns and rows as they stand there, as a file: xlsx, ods or csv."""
    if format not in LISTED:
        raise HttpError(404, f"There is no file “{format}” of a list; {', '.join(LISTED)} are.")
    try:
        asked = as_asked([Head(c.label, c.number) for c in data.columns], data.rows)
    except ListError as error:
        raise Invalid("rows", str(error)) from None
    head = composing.head(data.name, asked.sentence, "as it was shown", zone())
    word = re.sub(r"[^a-z0-9]+", "-", fold(data.name)).strip("-")[:60] or "list"
    return _written(head, asked, f"{word}-{time.strftime('%Y-%m-%d')}.{format}", format, plain=True)
