"""Reports as files: CSV, JSON, XLSX, HTML. Every file carries the question, its day, and when it was made."""

import csv
import io
import json
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from html import escape
from typing import Any, BinaryIO
from zoneinfo import ZoneInfo

import xlsxwriter

from tarn.apps.reports.reads.asking import Asked
from tarn.core.reports import Line, ShownColumn
from tarn.core.text import RUNS, cell

FORMATS = {
    "csv": "text/csv; charset=utf-8",
    "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "ods": "application/vnd.oasis.opendocument.spreadsheet",
    "html": "text/html; charset=utf-8",
    "pdf": "application/pdf",
}
_UNITS: dict[str, tuple[str, float]] = {"memory": ("GB", 2**30), "bytes": ("GB", 1e9), "bits": ("Mb/s", 1e6)}
_CHUNK = 65_536


@dataclass(frozen=True)
class Head:
    """What every file says of itself: the report's name, the question in words, its day, when it was made."""

    name: str
    question: str
    as_of: str
    made: str
    zone: ZoneInfo

    def lines(self) -> list[tuple[str, str]]:
        """Return it as pairs of what and which."""
        return [("Report", self.name), ("Question", self.question), ("As of", self.as_of), ("Made", self.made)]


def heading(column: ShownColumn) -> str:
    """Return a column's label with its unit."""
    unit = _UNITS.get(column.type)
    return f"{column.label} ({unit[0]})" if unit else column.label


def told(value: Any, kind: str) -> Any:
    """Return a value in its heading's unit; numbers stay numbers."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if kind in _UNITS and isinstance(value, (int, float)):
        return round(value / _UNITS[kind][1], 3)
    if kind == "day" and isinstance(value, str):
        return value[:10]
    # What binary fractions leave beyond the tenth place is no figure of anybody's: 823.3199999999999.
    return round(value, 10) if isinstance(value, float) else value


_RETOLD = frozenset({*_UNITS, "yes/no", "day", "number"})


def total_words(asked: Asked, line: Line, zone: ZoneInfo) -> list[str]:
    """Return a group's or the whole's figures in words."""
    types = {c.name: c for c in asked.columns}
    out = []
    for total, value in zip(asked.definition.totals, line.totals, strict=True):
        column = types[total.column]
        if total.function in ("count", "distinct"):
            what = (
                "different " + column.label.lower() if total.function == "distinct" else "with " + column.label.lower()
            )
            out.append(f"{value:,} {what}")
        else:
            out.append(f"{total.function} of {heading(column)}: {shown(value, column.type, zone) or 'none'}")
    return out


def _label(line: Line) -> str:
    name = "All" if line.kind == "whole" else " / ".join("none" if k in (None, "") else str(k) for k in line.keys)
    return f"{name}: {line.rows:,} {'row' if line.rows == 1 else 'rows'}"


def line_words(asked: Asked, line: Line, zone: ZoneInfo) -> str:
    """Return what a figure line says: of which group, how many rows, its figures."""
    return "; ".join([_label(line), *total_words(asked, line, zone)])


def details_of(asked: Asked, line: Line) -> Iterator[tuple[str, list[ShownColumn], list[list[Any]]]]:
    """Yield what is listed under a row: of each block that has any, what it lists, its columns, its rows."""
    for block, rows in zip(asked.blocks, line.details, strict=False):
        if rows:
            yield block.label, block.columns, rows


def as_csv(head: Head | None, asked: Asked) -> Iterator[str]:
    """Yield the report as CSV (RFC 4180): what it is first where a head is given, then the rows. Group figures are left
    to the reader."""
    buffer = io.StringIO()
    writer = csv.writer(buffer)
    for what, which in head.lines() if head else ():
        writer.writerow([f"# {what}", cell(which)])
    writer.writerow([cell(heading(c)) for c in asked.columns])
    # Only values in other units than they are stored in, days and truths need telling; the rest is text or a number.
    retold = [(n, c.type) for n, c in enumerate(asked.columns) if c.type in _RETOLD]
    for line in asked.lines:
        if line.kind != "row":
            continue
        values = line.values
        for place, kind in retold:
            values[place] = told(values[place], kind)
        writer.writerow([v if v is None or v.__class__ is not str or v[:1] not in RUNS else "'" + v for v in values])
        for label, columns, rows in details_of(asked, line):
            # An empty cell first, then what it is: a reader can tell rows under a row from rows.
            writer.writerow(["", label, *(cell(heading(c)) for c in columns)])
            for row in rows:
                writer.writerow(["", "", *(cell(told(v, c.type)) for v, c in zip(row, columns, strict=True))])
        if buffer.tell() > _CHUNK:
            yield buffer.getvalue()
            buffer.seek(0)
            buffer.truncate()
    yield buffer.getvalue()


def as_json(head: Head, asked: Asked) -> Iterator[str]:
    """Yield the report as one JSON object; values as they are stored, moments in ISO 8601.

    Where something is listed under rows each is an object of `row` and `details`, and `blocks` tells their columns.
    """
    about = {what.lower().replace(" ", "_"): which for what, which in head.lines()}
    columns = told_columns(asked.columns)
    blocks = {"blocks": {b.label: told_columns(b.columns) for b in asked.blocks}} if asked.blocks else {}
    yield json.dumps({**about, "columns": columns, **blocks}, ensure_ascii=False)[:-1] + ', "rows": ['
    figures = []
    between = ""
    for line in asked.lines:
        if line.kind == "row":
            under = {label: rows for label, _, rows in details_of(asked, line)}
            shaped = {"row": line.values, "details": under} if asked.blocks else line.values
            yield between + json.dumps(shaped, ensure_ascii=False)
            between = ",\n"
        else:
            figures.append({"group": list(line.keys), "rows": line.rows, "totals": line.totals})
    yield '], "figures": ' + json.dumps(figures, ensure_ascii=False) + "}\n"


def told_columns(columns: list[ShownColumn]) -> list[dict[str, str]]:
    """Return columns as files and messages in JSON tell them."""
    return [{"name": c.name, "label": c.label, "type": c.type} for c in columns]


def as_xlsx(head: Head, asked: Asked) -> BinaryIO:
    """Return the report as a workbook: rows with their figures on one sheet, what it is on another.

    Rows are written as they come, so memory stays flat. What is listed under a row can be folded away.
    """
    file = tempfile.TemporaryFile()  # noqa: SIM115 (handed on open; gone when it is closed)
    book = xlsxwriter.Workbook(file, {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    bold = book.add_format({"bold": True})
    dated = {
        "moment": book.add_format({"num_format": "yyyy-mm-dd hh:mm"}),
        "day": book.add_format({"num_format": "yyyy-mm-dd"}),
    }
    sheet, about = book.add_worksheet("Report"), book.add_worksheet("About")
    for place, (what, which) in enumerate(head.lines()):
        about.write_string(place, 0, what, bold)
        about.write_string(place, 1, which)
    for place, column in enumerate(asked.columns):
        sheet.write_string(0, place, heading(column), bold)
    sheet.freeze_panes(1, 0)
    at = 0
    for line in asked.lines:
        at += 1
        if line.kind != "row":
            sheet.write_string(at, 0, line_words(asked, line, head.zone), bold)
            continue
        for place, (value, column) in enumerate(zip(line.values, asked.columns, strict=True)):
            _cell(sheet, at, place, told(value, column.type), column.type, dated, head.zone)
        for label, columns, rows in details_of(asked, line):
            at += 1
            sheet.set_row(at, None, None, {"level": 1})
            for place, said in enumerate([label, *(heading(c) for c in columns)], start=1):
                sheet.write_string(at, place, said, bold)
            for row in rows:
                at += 1
                sheet.set_row(at, None, None, {"level": 1})
                for place, (value, column) in enumerate(zip(row, columns, strict=True), start=2):
                    _cell(sheet, at, place, told(value, column.type), column.type, dated, head.zone)
    book.close()
    file.seek(0)
    return file


def _cell(sheet: Any, row: int, place: int, value: Any, kind: str, dated: Any, zone: ZoneInfo) -> None:
    if value in (None, ""):
        return
    if kind in dated and str(value) > "1900-03":  # a sheet's calendar does not go further back
        at = local(str(value), zone).replace(tzinfo=None) if kind == "moment" else datetime.fromisoformat(str(value))
        sheet.write_datetime(row, place, at, dated[kind])
    elif isinstance(value, (int, float)):
        sheet.write_number(row, place, value)
    else:
        sheet.write_string(row, place, str(value))


def local(iso: str, zone: ZoneInfo) -> datetime:
    """Return a moment in ISO 8601 in the company's time."""
    return datetime.fromisoformat(iso.replace("Z", "+00:00")).astimezone(zone)


def shown(value: Any, kind: str, zone: ZoneInfo) -> str:
    """Return a value as people read it."""
    value = told(value, kind)
    if value in (None, ""):
        return ""
    if kind == "moment":
        return f"{local(str(value), zone):%Y-%m-%d %H:%M}"
    if kind == "day":
        return str(value)[:10]
    return f"{value:,}" if isinstance(value, (int, float)) and kind != "code" else str(value)


_STYLE = (
    "body{font:14px/1.4 'Atkinson Hyperlegible Next',system-ui,sans-serif;margin:2em;color:#15252c}"
    "table{border-collapse:collapse;width:100%;font-size:12.5px}th,td{text-align:left;padding:4px 8px;"
    "border-bottom:1px solid #dcdcd3;vertical-align:top}th{background:#f4f3ee}.n{text-align:right}"
    ".f td{font-weight:600;background:#faf9f5}.d>td{padding-left:28px}caption{text-align:left;color:#46585f}"
    "dl{display:grid;grid-template-columns:6em 1fr;margin:0 0 1em}"
    "dt{color:#46585f}dd{margin:0}@media print{body{margin:0}thead{display:table-header-group}}"
)
_NUMBERS = ("number", "code", "memory", "bytes", "bits", "percent")


def as_html(head: Head, asked: Asked) -> Iterator[str]:
    """Yield the report as one page that needs nothing else, fit for print."""
    about = "".join(f"<dt>{w}</dt><dd>{escape(v)}</dd>" for w, v in head.lines()[1:])
    yield (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{escape(head.name)}</title><style>{_STYLE}</style>"
        f"<h1>{escape(head.name)}</h1><dl>{about}</dl><table><thead><tr>"
    )
    right = [" class=n" if c.type in _NUMBERS else "" for c in asked.columns]
    yield "".join(f"<th{r}>{escape(heading(c))}</th>" for c, r in zip(asked.columns, right, strict=True))
    yield "</tr></thead><tbody>"
    for line in asked.lines:
        if line.kind != "row":
            said = line_words(asked, line, head.zone)
            yield f"<tr class=f><td colspan={len(asked.columns)}>{escape(said)}</td></tr>\n"
            continue
        cells = zip(line.values, asked.columns, right, strict=True)
        yield "<tr>" + "".join(f"<td{r}>{escape(shown(v, c.type, head.zone))}</td>" for v, c, r in cells) + "</tr>\n"
        for label, columns, rows in details_of(asked, line):
            heads = "".join(f"<th>{escape(heading(c))}</th>" for c in columns)
            body = "".join("<tr>" + _html_cells(row, columns, head) + "</tr>" for row in rows)
            yield (
                f"<tr class=d><td colspan={len(asked.columns)}><table><caption>{escape(label)}</caption>"
                f"<thead><tr>{heads}</tr></thead><tbody>{body}</tbody></table></td></tr>\n"
            )
    yield "</tbody></table></html>\n"


def _html_cells(row: list[Any], columns: list[ShownColumn], head: Head) -> str:
    return "".join(f"<td>{escape(shown(v, c.type, head.zone))}</td>" for v, c in zip(row, columns, strict=True))
