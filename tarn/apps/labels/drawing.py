"""Labels drawn as PDF: the code at the left, the number, the name, whose it is at the right."""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import segno
from reportlab.graphics.barcode import code128, ecc200datamatrix
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from tarn.core.labels import CodeKind, LabelSheet, Placed

FONT, BOLD = "Helvetica", "Helvetica-Bold"
PADDING = 1.5
QUIET = 1.2
"""Millimetres kept free around a code."""


@dataclass(frozen=True, slots=True)
class Drawn:
    """What a label says: its code, the address the code leads to, and lines of text, the first in bold."""

    code: str
    address: str
    lines: tuple[str, ...]


def as_pdf(sheet: LabelSheet, labels: Sequence[Drawn], where: Sequence[Placed], kind: CodeKind) -> bytes:
    """Return the labels as PDF, a page a sheet."""
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(sheet.page[0] * mm, sheet.page[1] * mm), pageCompression=1)
    canvas.setTitle("Labels")
    page = 0
    for label, at in zip(labels, where, strict=True):
        while page < at.page:
            canvas.showPage()
            page += 1
        canvas.saveState()
        canvas.translate(at.left * mm, (sheet.page[1] - at.top - sheet.label[1]) * mm)
        _draw(canvas, sheet, label, kind)
        canvas.restoreState()
    canvas.save()
    return out.getvalue()


def _draw(canvas: Any, sheet: LabelSheet, label: Drawn, kind: CodeKind) -> None:
    wide, high = sheet.label
    if kind == "Code 128":
        below = min(high * 0.45, 14.0)
        _bars(canvas, label.code, (PADDING, PADDING), (wide - 2 * PADDING, below))
        _text(canvas, label.lines, (PADDING, below + 2 * PADDING), (wide - 2 * PADDING, high - below - 3 * PADDING))
        return
    side = min(high - 2 * PADDING, wide * 0.5)
    if kind == "QR":
        _qr(canvas, label.address, PADDING, (high - side) / 2, side)
    else:
        _matrix(canvas, label.address, PADDING, (high - side) / 2, side)
    left = PADDING + side + QUIET
    _text(canvas, label.lines, (left, PADDING), (wide - left - PADDING, high - 2 * PADDING))


def _qr(canvas: Any, address: str, left: float, low: float, side: float) -> None:
    """Draw a QR code (ISO/IEC 18004) of medium correction: runs of dark modules as one path. The mask is always the
    same: every reader takes any of the eight, and weighing them takes eight times as long."""
    rows = [bytes(r) for r in segno.make_qr(address, error="m", mask=2).matrix]
    module = (side - 2 * QUIET) / len(rows) * mm
    path = canvas.beginPath()
    for n, row in enumerate(rows):
        y = (low + QUIET) * mm + (len(rows) - 1 - n) * module
        at = 0
        while at < len(row):
            if not row[at]:
                at += 1
                continue
            end = at
            while end < len(row) and row[end]:
                end += 1
            path.rect((left + QUIET) * mm + at * module, y, (end - at) * module, module)
            at = end
    canvas.drawPath(path, stroke=0, fill=1)


def _matrix(canvas: Any, address: str, left: float, low: float, side: float) -> None:
    """Draw a Data Matrix code (ISO/IEC 16022)."""
    made = ecc200datamatrix.ECC200DataMatrix(address, barWidth=1)
    canvas.saveState()
    canvas.translate((left + QUIET) * mm, (low + QUIET) * mm)
    scale = (side - 2 * QUIET) * mm / made.width
    canvas.scale(scale, scale)
    made.canv, made.x, made.y = canvas, 0, 0
    made.draw()
    canvas.restoreState()


def _bars(canvas: Any, code: str, at: tuple[float, float], room: tuple[float, float]) -> None:
    """Draw a Code 128 (ISO/IEC 15417) with the free room at both ends that it asks for."""
    made = code128.Code128(code, barHeight=room[1] * mm, barWidth=1, quiet=1)
    canvas.saveState()
    canvas.translate(at[0] * mm, at[1] * mm)
    canvas.scale(room[0] * mm / made.width, 1)
    made.drawOn(canvas, 0, 0)
    canvas.restoreState()


def _text(canvas: Any, lines: Sequence[str], at: tuple[float, float], room: tuple[float, float]) -> None:
    """Write lines from the top, each as large as it may be to fit; what does not fit below is left out."""
    sizes = [min(9.0, room[1] * mm / 3.2)] + [min(6.5, room[1] * mm / 4.5)] * (len(lines) - 1)
    y = (at[1] + room[1]) * mm
    for n, (line, size) in enumerate(zip(lines, sizes, strict=True)):
        font = BOLD if n == 0 else FONT
        wide = stringWidth(line, font, size)
        fitted = size * min(1.0, room[0] * mm / wide) if wide else size
        if fitted < 3.5:
            fitted = 3.5
            while line and stringWidth(line + "…", font, fitted) > room[0] * mm:
                line = line[:-1]
            line += "…"
        y -= fitted * 1.18
        if y < at[1] * mm - 0.5:
            return
        canvas.setFont(font, fitted)
        canvas.drawString(at[0] * mm, y, line)
