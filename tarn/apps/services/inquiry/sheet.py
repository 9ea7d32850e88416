"""An inquiry as a sheet for the ticket: HTML that stands alone, or PDF; the same lines in both."""

import io
from collections.abc import Callable, Iterator
from html import escape

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import getSampleStyleSheet
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from tarn.apps.services.inquiry.results import InquiryColumn, InquiryOut

Lines = list[tuple[str, list[str]]]
"""What of a device, and its lines in words."""


def lines_of(column: InquiryColumn) -> Lines:
    """Return what a sheet says of a device; what there is nothing of is left out."""
    told: Lines = [
        ("It is", [", ".join(filter(None, (column["kind"], column["os"], column["place"], column["address"])))]),
        ("Who is hurt", [f"{h['name']}: {h['fate']}" for h in column["hurt"]]),
        (
            "Health",
            [
                *(f"{b['what']}: {b['words']}" for b in column["bars"]),
                *(f"{p['name']} {p['port']}: {p['words']}" for p in column["ports"] if p["grade"]),
            ],
        ),
        (
            "Certificates",
            [
                f"{c['subject']} on {c['port']}, until {c['ends_at'][:10]} ({c['days']} days)"
                for c in column["certificates"]
            ],
        ),
        ("In use by attackers", column["in_use"]),
        ("What happened", [f"{_when(e['at'])} {e['text']}" for e in column["events"][-20:]]),
        ("Stands on", [f"{s['kind']} {s['name']} {s['over']}".rstrip() for s in column["on"]]),
        (
            "Talk",
            [
                f"{'calls' if t['direction'] == 'out' else 'is called by'} {t['name']} over {t['over']}, "
                f"{'quiet since' if t['quiet'] else 'last heard'} {_when(t['last_heard'])}"
                for t in column["talk"][:20]
            ],
        ),
        ("Tickets", [f"{t['number']} {t['title']} ({t['state']})" for t in column["tickets"]]),
        ("Who to tell", [f"{t['name']}: {t['why']}" for t in column["tell"]]),
    ]
    return [(what, lines) for what, lines in told if any(lines)]


def _when(moment: str) -> str:
    return f"{moment[:10]} {moment[11:16]}"


def as_html(told: InquiryOut) -> bytes:
    """Return the sheet as one file that needs no other."""
    return "".join(_html(told)).encode()


def _html(told: InquiryOut) -> Iterator[str]:
    title = escape(_title(told))
    yield (
        f"<!doctype html><html lang='en'><meta charset='utf-8'><title>{title}</title>"
        "<style>body{font:14px/1.45 system-ui,sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#13262b}"
        "h1{font-size:1.3rem}h2{font-size:1.05rem;margin-top:1.6rem}table{border-collapse:collapse;width:100%}"
        "th{text-align:left;vertical-align:top;width:9rem;font-weight:600}th,td{padding:.25rem .5rem;"
        "border-top:1px solid #dcdcd3}small{color:#5b686b}</style>"
    )
    yield f"<h1>{title}</h1><p><small>{_clock(told)}</small></p>"
    for word in told["words"]:
        if word["trouble"]:
            yield f"<p>{escape(word['word'])}: {escape(word['trouble'])}</p>"
    if told["telling"]:
        yield "<h2>Most telling</h2><ol>"
        for one in told["telling"]:
            yield f"<li>{escape(one['text'])} <small>weighs {one['weight']}: {escape(one['why'])}</small></li>"
        yield "</ol>"
    for column in told["columns"]:
        yield f"<h2>{escape(column['name'])} <small>{escape(column['number'])}</small></h2><table>"
        for what, lines in lines_of(column):
            yield f"<tr><th>{escape(what)}</th><td>{'<br>'.join(map(escape, lines))}</td></tr>"
        yield "</table>"
    if told["notes"]:
        yield "<h2>Notes</h2><table>"
        for note in told["notes"]:
            who = f"{_when(note['at'])}<br><small>{escape(note['by'])}</small>"
            yield f"<tr><th>{who}</th><td>{escape(note['text'])}</td></tr>"
        yield "</table>"
    yield "</html>"


def _title(told: InquiryOut) -> str:
    return f"Inquiry: {', '.join(w['word'] for w in told['words']) or 'nothing asked'}"


def _clock(told: InquiryOut) -> str:
    return f"As of {_when(told['until'])} UTC; what happened goes back to {told['since'][:10]}."


def as_pdf(told: InquiryOut) -> bytes:
    """Return the sheet as PDF, A4."""
    styles, out = getSampleStyleSheet(), io.BytesIO()
    plain, small = styles["BodyText"], styles["BodyText"].clone("small", fontSize=8, textColor=colors.grey)
    story: list[Flowable] = [
        Paragraph(escape(_title(told)), styles["Heading1"]),
        Paragraph(_clock(told), small),
    ]
    story += [Paragraph(escape(f"{w['word']}: {w['trouble']}"), plain) for w in told["words"] if w["trouble"]]
    if told["telling"]:
        story.append(Paragraph("Most telling", styles["Heading2"]))
    for one in told["telling"]:
        why = escape(f"weighs {one['weight']}: {one['why']}".replace("×", "x"))
        story.append(Paragraph(f"{escape(one['text'])} <font size=8 color=grey>{why}</font>", plain))
    for column in told["columns"]:
        story.append(Paragraph(escape(f"{column['name']} ({column['number']})"), styles["Heading2"]))
        story.append(_table([(what, "<br/>".join(map(escape, lines))) for what, lines in lines_of(column)], plain))
    if told["notes"]:
        story.append(Paragraph("Notes", styles["Heading2"]))
        story.append(_table([(f"{_when(n['at'])} {escape(n['by'])}", escape(n["text"])) for n in told["notes"]], plain))
    story.append(Spacer(1, 6))
    SimpleDocTemplate(out, pagesize=A4, title=_title(told), leftMargin=42, rightMargin=42).build(story)
    return out.getvalue()


def _table(rows: list[tuple[str, str]], style: object) -> Table:
    cells = [[Paragraph(f"<b>{what}</b>", style), Paragraph(text, style)] for what, text in rows]
    made = Table(cells, colWidths=[105, 400], splitInRow=1)
    made.setStyle(
        TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, 0), (-1, -1), 0.4, colors.lightgrey)])
    )
    return made


SHEETS: dict[str, tuple[str, Callable[[InquiryOut], bytes]]] = {
    "html": ("text/html; charset=utf-8", as_html),
    "pdf": ("application/pdf", as_pdf),
}
"""By format its type and what makes it."""
