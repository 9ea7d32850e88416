"""The protocol of a count: gathered, drawn for reading, and signed."""

import io
from datetime import datetime
from typing import Any
from xml.sax.saxutils import escape

from django.conf import settings
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import getSampleStyleSheet
from reportlab.platypus import Flowable, LongTable, Paragraph, SimpleDocTemplate, Spacer, TableStyle

from tarn.apps.counts.models import Count
from tarn.apps.counts.reads.lines import CountedLine
from tarn.apps.counts.reads.shown import describe_all
from tarn.apps.counts.results import TakingLine
from tarn.apps.estate.asking.branches import trees
from tarn.apps.estate.asking.dial import iso, zone
from tarn.apps.estate.register.identifiers import assets_of
from tarn.core.count_protocol import make_protocol, said
from tarn.core.counting import STATES
from tarn.core.signed_archive import key_of

LISTED = 2_000
"""Lines of a state that the PDF lists; all are in the table beside it."""
_AT_ONCE = 200
_KEPT = ("number", "name", "serial", "kind", "model", "place", "person", "settled")


def protocol_of(count: Count, lines: list[CountedLine]) -> bytes:
    """Return the signed protocol of a count that is being closed."""
    told = describe_all(lines)
    about = {
        "number": count.number,
        "name": count.name,
        "filter": count.filter,
        "opened_by": count.made_by,
        "opened_at": iso(count.made_at),
        "closed_by": count.ended_by,
        "closed_at": iso(count.ended_at),
        "counters": count.counters,
        "places": trees()["place"],
        "sample": count.sample,
    }
    expected = [
        {
            "key": e.pk,
            **{n: getattr(e, n) for n in ("number", "name", "serial", "kind", "model", "place", "person", "settled")},
        }
        for e in (line.expected for line in lines)
        if e is not None
    ]
    met = _met(count, lines, told)
    pdf = _drawn(count, told, said(about, expected, met))
    return make_protocol(about, expected, met, pdf, key_of(settings.TARN_SECRETS_KEY))


def _met(count: Count, lines: list[CountedLine], told: list[TakingLine]) -> list[dict[str, Any]]:
    """Return all that was met, each with the expected devices it is."""
    things = list(count.met.filter(taken_back_by="").order_by("pk"))
    of = assets_of(m.anchor for m in things if m.anchor)
    expected: dict[int, list[int]] = {}
    for line in lines:
        if line.expected is not None and line.asset is not None:
            expected.setdefault(line.asset, []).append(line.expected.pk)
    words = {t["met"]: t for t in told}
    return [
        {
            "key": m.pk,
            "of": expected.get(of.get(m.anchor, 0), []),
            "known": m.anchor in of,
            "number": words[m.pk]["number"] if m.pk in words else "",
            "name": words[m.pk]["name"] if m.pk in words else "",
            "place": m.place,
            "at": m.at,
            "moment": iso(m.at),
            "by": m.by,
            "how": m.how,
            "code": m.code,
            "note": m.note,
            "settled": m.settled,
        }
        for m in things
    ]


def _drawn(count: Count, told: list[TakingLine], result: Any) -> bytes:
    """Return the protocol as PDF: the figures, then line by line what is not as it was expected."""
    style = getSampleStyleSheet()
    out = io.BytesIO()
    document = SimpleDocTemplate(out, pagesize=A4, title=f"{count.number} {count.name}", author="Tarn")
    figures = ", ".join(f"{n} {state}" for state, n in result["figures"].items())
    parts: list[Flowable] = [
        Paragraph(escape(f"Protocol of the count {count.number}"), style["Title"]),
        Paragraph(escape(count.name), style["Heading2"]),
        Paragraph(escape(f"Opened by {count.made_by} on {_day(count.made_at)}."), style["Normal"]),
        Paragraph(escape(f"Closed by {count.ended_by} on {_day(count.ended_at or 0)}."), style["Normal"]),
        Paragraph(escape(f"What was counted: {count.filter or 'the whole register'}"), style["Normal"]),
        Paragraph(escape(f"{sum(result['figures'][s] for s in STATES[:3])} expected: {figures}."), style["Normal"]),
    ]
    if (most := result["missing_at_most"]) is not None and count.sample:
        sure = f"With {count.sample['confidence']:.1%} confidence at most {most} of {count.sample['of']} are missing."
        parts.append(Paragraph(escape(sure), style["Normal"]))
    for state in STATES[1:]:
        some = [line for line in told if line["state"] == state]
        if some:
            parts += [Spacer(1, 10), Paragraph(escape(f"{state.capitalize()}: {len(some)}"), style["Heading3"])]
            parts += list(_tables(some[:LISTED], style))
            if len(some) > LISTED:
                parts.append(Paragraph(f"{len(some) - LISTED} more are in lines.csv.", style["Normal"]))
    document.build(parts)
    return out.getvalue()


def _tables(lines: list[TakingLine], style: Any) -> Any:
    small = style["BodyText"].clone("small", fontSize=8, leading=9.5)
    widths = (62, 105, 100, 100, 130)
    head = ["Number", "Name", "Expected at", "Met", "What was done, and notes"]
    look = TableStyle(
        [("GRID", (0, 0), (-1, -1), 0.3, colors.HexColor("#dcdcd3")), ("VALIGN", (0, 0), (-1, -1), "TOP"),
         ("BACKGROUND", (0, 0), (-1, 0), colors.HexColor("#f4f3ee"))]
    )  # fmt: skip
    for begin in range(0, len(lines), _AT_ONCE):
        rows = [[Paragraph(f"<b>{h}</b>", small) for h in head]]
        for line in lines[begin : begin + _AT_ONCE]:
            met = ", ".join(p for p in (line["met_place"], line["met_by"]) if p) if line["met_at"] else ""
            done = "; ".join(p for p in (line["settled"], line["note"], *line["beside"]) if p)
            cells = (line["number"] or line["code"], line["name"], line["place"] if line["expected"] else "", met, done)
            rows.append([Paragraph(escape(cell[:400]), small) for cell in cells])
        yield LongTable(rows, colWidths=widths, repeatRows=1, style=look)


def _day(second: int) -> str:
    return f"{datetime.fromtimestamp(second, zone()):%-d %B %Y, %H:%M}"
