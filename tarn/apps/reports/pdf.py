"""Reports as PDF, landscape A4: drawn line by line, so that a page is done with when it is full.

A table laid out as a whole by the library took 1.2 GB and 141 s for 5,000 lines of 30 columns, and could not be laid
out at all where a row was taller than a page.
"""

import io
from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import Any, BinaryIO

from reportlab.lib import colors
from reportlab.lib.pagesizes import A4, landscape
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from tarn.apps.reports.reads.asking import Asked
from tarn.apps.reports.writing import Head, details_of, heading, line_words, shown
from tarn.core.reports import ReportError

MOST = 5_000
"""Lines a PDF may have: nobody reads more on paper."""
MOST_PAGES = 1_000
TALLEST = 40
"""Lines of text a cell may have; what is longer is cut, and the end of the document says so."""
FONT, BOLD, SIZE, LEADING = "Helvetica", "Helvetica-Bold", 7.5, 9.0
MARGIN, PADDING = 36.0, 4.0
RULE, SHADE, FIGURES = (colors.HexColor(c) for c in ("#dcdcd3", "#f4f3ee", "#faf9f5"))


@lru_cache(50_000)
def _wide(word: str, font: str, size: float) -> float:
    return float(stringWidth(word, font, size))


def wrapped(text: str, width: float, font: str = FONT, size: float = SIZE) -> list[str]:
    """Return a text as lines no wider than `width` points: parted at spaces, and within a word that alone is wider.

    Of a text of more than TALLEST lines some more than those come.
    """
    out: list[str] = []
    space = _wide(" ", font, size)
    for line in text.split("\n"):
        at: list[str] = []
        taken = 0.0
        for word in _parted(line.split(" "), width, font, size):
            wide = _wide(word, font, size)
            if at and taken + space + wide > width:
                out.append(" ".join(at))
                at, taken = [], 0.0
                if len(out) > TALLEST:
                    return out
            taken += wide + (space if at else 0.0)
            at.append(word)
        out.append(" ".join(at))
    return out


def _parted(words: list[str], width: float, font: str, size: float) -> Iterator[str]:
    """Yield words, those that are wider than a line in pieces that fit."""
    for word in words:
        if _wide(word, font, size) <= width:
            yield word
            continue
        at, taken = 0, 0.0
        for place, sign in enumerate(word):
            taken += _wide(sign, font, size)
            if taken > width and place > at:
                yield word[at:place]
                at, taken = place, _wide(sign, font, size)
        yield word[at:]


class _Sheet:
    """The pages so far, and how far down the present one is written."""

    def __init__(self, head: Head, asked: Asked, file: BinaryIO) -> None:
        self._size = landscape(A4)
        self._canvas = Canvas(file, pagesize=self._size, pageCompression=1)
        self._canvas.setTitle(head.name)
        self._wide = self._size[0] - 2 * MARGIN
        self._columns = len(asked.columns)
        named = self._wide / self._columns - 2 * PADDING
        self._headings = [wrapped(heading(c), named, BOLD)[:6] for c in asked.columns]
        self._page, self.cut = 0, 0
        self._top()
        self.said([head.name], BOLD, 15)
        for what, which in head.lines()[1:]:
            self.said([f"{what}: {which}"])
        self._down(8)
        self._heads()

    def row(self, values: Sequence[str]) -> None:
        """Draw a row of the table."""
        width = self._wide / self._columns
        self._cells([self._kept(wrapped(v, width - 2 * PADDING)) for v in values], width, FONT, None)

    def across(self, text: str, *, figures: bool) -> None:
        """Draw a line over the whole table: figures of a group, or what is listed under a row."""
        font = BOLD if figures else FONT
        lines = self._kept(wrapped(text, self._wide - 2 * PADDING, font))
        self._cells([lines], self._wide, font, FIGURES if figures else None)

    def said(self, texts: list[str], font: str = FONT, size: float = SIZE) -> None:
        """Write lines beside the table."""
        for text in texts:
            for line in wrapped(text, self._wide, font, size)[:TALLEST]:
                self._room(size * 1.3)
                self._canvas.setFont(font, size)
                self._canvas.drawString(MARGIN, self._y - size, line)
                self._down(size * 1.3)

    def end(self) -> None:
        """Finish the document."""
        self._foot()
        self._canvas.save()

    def _kept(self, lines: list[str]) -> list[str]:
        if len(lines) <= TALLEST:
            return lines
        self.cut += 1
        return [*lines[: TALLEST - 1], "…"]

    def _cells(self, cells: list[list[str]], width: float, font: str, shade: Any) -> None:
        height = max(len(lines) for lines in cells) * LEADING + PADDING
        if self._y - height < MARGIN:
            self._foot()
            self._top()
            self._heads()
        if shade is not None:
            self._canvas.setFillColor(shade)
            self._canvas.rect(MARGIN, self._y - height, self._wide, height, stroke=0, fill=1)
            self._canvas.setFillColor(colors.black)
        for place, lines in enumerate(cells):
            text = self._canvas.beginText(MARGIN + place * width + PADDING, self._y - SIZE - PADDING / 2)
            text.setFont(font, SIZE, LEADING)
            for line in lines:
                text.textLine(line)
            self._canvas.drawText(text)
        self._down(height)
        self._canvas.setStrokeColor(RULE)
        self._canvas.setLineWidth(0.4)
        self._canvas.line(MARGIN, self._y, MARGIN + self._wide, self._y)

    def _heads(self) -> None:
        self._cells(self._headings, self._wide / self._columns, BOLD, SHADE)

    def _top(self) -> None:
        self._y = self._size[1] - MARGIN

    def _room(self, height: float) -> None:
        if self._y - height < MARGIN:
            self._foot()
            self._top()

    def _down(self, height: float) -> None:
        self._y -= height

    def _foot(self) -> None:
        self._page += 1
        if self._page > MOST_PAGES:
            raise ReportError("format", f"A PDF may have {MOST_PAGES:,} pages at the most; take XLSX, CSV or HTML.")
        self._canvas.setFont(FONT, SIZE)
        self._canvas.drawRightString(MARGIN + self._wide, MARGIN - 16, str(self._page))
        self._canvas.showPage()


def as_pdf(head: Head, asked: Asked) -> BinaryIO:
    """Return the report as PDF. Raises ReportError where it has more lines or pages than it may."""
    file = io.BytesIO()
    sheet, drawn = _Sheet(head, asked, file), 0
    for line in asked.lines:
        if drawn >= MOST:
            raise ReportError("format", f"A PDF may have {MOST:,} lines at the most; take XLSX, CSV or HTML.")
        drawn += 1
        if line.kind != "row":
            sheet.across(line_words(asked, line, head.zone), figures=True)
            continue
        sheet.row([shown(v, c.type, head.zone) for v, c in zip(line.values, asked.columns, strict=True)])
        for label, columns, rows in details_of(asked, line):
            for row in rows:
                drawn += 1
                named = zip(row, columns, strict=True)
                told = "; ".join(f"{heading(c)}: {shown(v, c.type, head.zone)}" for v, c in named)
                sheet.across(f"– {label}: {told}", figures=False)
    if sheet.cut:
        cells = "One cell is" if sheet.cut == 1 else f"{sheet.cut:,} cells are"
        sheet.said([f"{cells} too long for a page and cut at “…”; XLSX, CSV and HTML hold all of it."], BOLD)
    sheet.end()
    file.seek(0)
    return file
