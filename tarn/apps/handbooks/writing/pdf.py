"""A handbook as PDF, A4, with its headings as bookmarks and its pages numbered."""

import io
from collections.abc import Iterator
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle, getSampleStyleSheet
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import (
    BaseDocTemplate,
    Flowable,
    Frame,
    Image,
    LongTable,
    PageBreak,
    PageTemplate,
    Paragraph,
    Spacer,
    TableStyle,
)

from tarn.apps.handbooks.writing.common import Written, note_of, picture
from tarn.core.handbooks.flow import Piece, Run, Runs
from tarn.core.handbooks.live import Filled

WIDE = A4[0] - 40 * mm
_AT_ONCE = 100
"""Rows laid out as one table: the library's time grows faster than their number."""
_LONGEST = 600
"""Characters of a cell: what is longer than a page cannot be laid out."""
_BASE = getSampleStyleSheet()["BodyText"]
_TEXT = ParagraphStyle("text", _BASE, fontSize=10, leading=14)
_CELL = ParagraphStyle("cell", _BASE, fontSize=8, leading=10, spaceBefore=0)
_NOTE = ParagraphStyle("note", _BASE, fontSize=8, textColor=colors.HexColor("#46585f"), spaceBefore=0)
_BAD = ParagraphStyle("bad", _TEXT, textColor=colors.HexColor("#8a2c1a"))
_TITLE = ParagraphStyle("block", _TEXT, fontName="Helvetica-Bold", keepWithNext=1, textColor=colors.HexColor("#1b5c66"))
_BIG = ParagraphStyle("big", _TEXT, fontSize=18, leading=22)
_HEADS = {
    n: ParagraphStyle(f"h{n}", _BASE, fontName="Helvetica-Bold", fontSize=s, leading=s * 1.25, spaceBefore=s * 0.7,
                      keepWithNext=1)
    for n, s in ((1, 20), (2, 14), (3, 11))
}  # fmt: skip
_LOOK = TableStyle(
    [
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.3, colors.HexColor("#dcdcd3")),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
    ]
)
_HEAD_LOOK = TableStyle([("BACKGROUND", (0, 0), (-1, 0), colors.HexColor("#f4f3ee"))], parent=_LOOK)


class _Pages(BaseDocTemplate):
    """Pages with the issue's line and their number at the foot; headings become bookmarks."""

    def __init__(self, file: io.BytesIO, made: Written) -> None:
        super().__init__(file, pagesize=A4, title=made.flow.title, author=made.issue.asked_by, lang="en")
        self._under, self._heads = made.under, 0
        frame = Frame(20 * mm, 20 * mm, WIDE, A4[1] - 40 * mm, 0, 0, 0, 0)
        self.addPageTemplates(PageTemplate("page", frame, onPage=self._foot))

    def _foot(self, canvas: Any, document: Any) -> None:
        canvas.setFont("Helvetica", 8)
        canvas.setFillColor(colors.HexColor("#46585f"))
        canvas.drawString(20 * mm, 12 * mm, self._under[:110])
        canvas.drawRightString(A4[0] - 20 * mm, 12 * mm, str(document.page))

    def afterFlowable(self, flowable: Flowable) -> None:
        """Note a heading as a bookmark."""
        level = getattr(flowable, "heading_level", 0)
        if level:
            self._heads += 1
            self.canv.bookmarkPage(f"h{self._heads}")
            self.canv.addOutlineEntry(flowable.getPlainText(), f"h{self._heads}", min(level - 1, 2), closed=False)


def as_pdf(made: Written) -> bytes:
    """Return an issue as PDF."""
    out = io.BytesIO()
    parts: list[Flowable] = []
    last = 0
    for piece in made.flow.pieces:
        if piece.kind == "heading":
            # A bookmark lies one level deeper than the one before at the most.
            last = min(piece.level, last + 1)
        parts += _piece(piece, last)
    if made.flow.notes:
        parts.append(Paragraph("Notes", _HEADS[2]))
        parts += [Paragraph(f"{n}. {_safe(text)}", _NOTE) for n, text in enumerate(made.flow.notes, 1)]
    _Pages(out, made).build(parts or [Spacer(1, 1)])
    return out.getvalue()


def _safe(text: str) -> str:
    return escape("".join(c for c in text if c >= " " or c == "\n")).replace("\n", "<br/>")


def _runs(runs: Runs) -> str:
    return "".join(map(_run, runs)) or "&nbsp;"


def _run(run: Run) -> str:
    if run.note:
        return f"<super>{run.note}</super>"
    text = _safe(run.text)
    for on, begin, end in (
        (run.code, '<font face="Courier">', "</font>"),
        (run.italic, "<i>", "</i>"),
        (run.bold, "<b>", "</b>"),
        (bool(run.link) and not run.link.startswith("/"), f"<a color='#1b5c66' href={quoteattr(run.link)}>", "</a>"),
    ):
        text = f"{begin}{text}{end}" if on else text
    return text


def _piece(piece: Piece, level: int) -> Iterator[Flowable]:
    if piece.kind == "heading":
        made = Paragraph(_runs(piece.runs), _HEADS[piece.level])
        made.heading_level = level
        yield made
    elif piece.kind == "item":
        style = ParagraphStyle("item", _TEXT, leftIndent=14 * (piece.level + 1), bulletIndent=14 * piece.level + 2)
        yield Paragraph(_runs(piece.runs), style, bulletText=piece.mark or None)
    elif piece.kind == "quote":
        yield Paragraph(f"<i>{_runs(piece.runs)}</i>", ParagraphStyle("quote", _TEXT, leftIndent=16))
    elif piece.kind == "break":
        yield PageBreak()
    elif piece.kind == "table":
        rows = [[_runs(cell) for cell in row] for row in piece.rows]
        yield from _table(rows, head=piece.head)
    elif piece.kind == "live":
        yield from _live(piece.filled)
    elif piece.kind == "picture":
        yield from _picture(piece)
    else:
        yield Paragraph(_runs(piece.runs), _TEXT)


def _table(rows: list[list[str]], *, head: bool) -> Iterator[Flowable]:
    """Yield a table in pieces, its heads on each page. Cells are text as the library marks it up."""
    if not rows:
        return
    width = max(map(len, rows))
    longest = [max(6, *(min(40, len(r[n])) if n < len(r) else 0 for r in rows[:60])) for n in range(width)]
    wide = [WIDE * n / sum(longest) for n in longest]
    heads, body = (rows[:1], rows[1:]) if head else ([], rows)
    for begin in range(0, max(1, len(body)), _AT_ONCE):
        some = [*heads, *body[begin : begin + _AT_ONCE]]
        cells = [[Paragraph(c, _CELL) for c in [*row, *[""] * (width - len(row))]] for row in some]
        yield LongTable(cells, colWidths=wide, repeatRows=len(heads), style=_HEAD_LOOK if heads else _LOOK)


def _live(filled: Filled | None) -> Iterator[Flowable]:
    yield Spacer(1, 4)
    if filled is None:
        yield Paragraph("This block was not filled.", _BAD)
        return
    title = ParagraphStyle(
        "block", _TEXT, fontName="Helvetica-Bold", keepWithNext=1, textColor=colors.HexColor("#1b5c66")
    )
    yield Paragraph(_safe(filled["title"]), title)
    yield Paragraph(_safe(note_of(filled)), _NOTE)
    if filled["trouble"]:
        yield Paragraph(_safe(filled["trouble"]), _BAD)
    elif filled["shape"] == "figure":
        yield Paragraph(f"<b>{_safe(filled['figure'])}</b> <font size='10'>{_safe(filled['rows'][0][0])}</font>", _BIG)
    elif filled["shape"] == "table":
        if not filled["rows"]:
            yield Paragraph("None.", _TEXT)
            return
        rows = [[f"<b>{_safe(c)}</b>" for c in filled["columns"]]]
        rows += [[_safe(v[:_LONGEST]) for v in row] for row in filled["rows"]]
        yield from _table(rows, head=True)
    elif filled["shape"] == "facts":
        yield from _table([[f"<b>{_safe(a)}</b>", _safe(b[:_LONGEST])] for a, b in filled["rows"]], head=False)
    else:
        for row in filled["rows"]:
            yield Paragraph(_safe(" ".join(row)), _TEXT)
    yield Spacer(1, 6)


def _picture(piece: Piece) -> Iterator[Flowable]:
    path, said = picture(piece.paper), _safe("".join(run.text for run in piece.runs))
    try:
        if path is None:
            raise OSError
        wide, high = ImageReader(str(path)).getSize()
        scale = min(WIDE / wide, 180 * mm / high, 1.0)
        yield Image(str(path), wide * scale, high * scale)
        yield Paragraph(said or "&nbsp;", _NOTE)
    except OSError:
        yield Paragraph(f"The picture {piece.paper} cannot be shown. {said}", _BAD)
