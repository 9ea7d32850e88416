"""A handbook as a document of a word processor (Office Open XML, ISO/IEC 29500)."""

import io
from typing import Any

import docx
from docx.document import Document
from docx.enum.text import WD_BREAK
from docx.image.exceptions import UnrecognizedImageError
from docx.opc.constants import RELATIONSHIP_TYPE
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Cm, Pt, RGBColor

from tarn.apps.handbooks.writing.common import Written, note_of, picture
from tarn.core.handbooks.flow import Piece, Runs
from tarn.core.handbooks.live import Filled

_DIM = RGBColor(0x46, 0x58, 0x5F)
_BAD = RGBColor(0x8A, 0x2C, 0x1A)


def as_docx(made: Written) -> bytes:
    """Return an issue as DOCX."""
    document = docx.Document()
    document.core_properties.title = made.flow.title
    document.core_properties.author = made.issue.asked_by
    for section in document.sections:
        section.left_margin = section.right_margin = Cm(2.2)
        section.footer.paragraphs[0].text = made.under
    for piece in made.flow.pieces:
        _piece(document, piece)
    if made.flow.notes:
        document.add_heading("Notes", 2)
        for number, text in enumerate(made.flow.notes, 1):
            document.add_paragraph(f"{number}. {_said(text)}")
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _said(text: str) -> str:
    """Return a text without what XML has no place for."""
    return "".join(c for c in text if c >= " " or c in "\n\t")


def _piece(document: Document, piece: Piece) -> None:
    if piece.kind == "heading":
        _runs(document.add_heading(level=piece.level), piece.runs)
    elif piece.kind == "item":
        paragraph = document.add_paragraph()
        paragraph.paragraph_format.left_indent = Cm(0.7 * (piece.level + 1))
        paragraph.paragraph_format.first_line_indent = Cm(-0.5)
        paragraph.add_run(f"{piece.mark}\u00a0" if piece.mark else "")
        _runs(paragraph, piece.runs)
    elif piece.kind == "quote":
        _runs(document.add_paragraph(style="Intense Quote"), piece.runs)
    elif piece.kind == "break":
        document.add_paragraph().add_run().add_break(WD_BREAK.PAGE)
    elif piece.kind == "table":
        _table(document, [list(row) for row in piece.rows], head=piece.head)
    elif piece.kind == "live":
        _live(document, piece.filled)
    elif piece.kind == "picture":
        _picture(document, piece)
    else:
        _runs(document.add_paragraph(), piece.runs)


def _runs(paragraph: Any, runs: Runs) -> None:
    for run in runs:
        if run.note:
            paragraph.add_run(str(run.note)).font.superscript = True
            continue
        made = _link(paragraph, run.link, run.text) if run.link else paragraph.add_run(_said(run.text))
        made.bold, made.italic = run.bold or None, run.italic or None
        if run.code:
            made.font.name = "Courier New"


def _link(paragraph: Any, to: str, text: str) -> Any:
    """Return a run that leads somewhere, put into a paragraph."""
    key = paragraph.part.relate_to(to, RELATIONSHIP_TYPE.HYPERLINK, is_external=True)
    link = OxmlElement("w:hyperlink")
    link.set(qn("r:id"), key)
    made = paragraph.add_run(_said(text))
    made.font.color.rgb, made.font.underline = RGBColor(0x1B, 0x5C, 0x66), True
    link.append(made._r)
    paragraph._p.append(link)
    return made


def _table(document: Document, rows: list[list[Any]], *, head: bool) -> None:
    """Add a table of cells that are texts or runs. Written row by row in XML: by the library's cells a thousand rows
    take minutes."""
    if not rows:
        document.add_paragraph("None.")
        return
    width = max(map(len, rows))
    table = document.add_table(rows=0, cols=width, style="Light Grid Accent 1")
    for number, row in enumerate(rows):
        line = OxmlElement("w:tr")
        for cell in [*row, *[""] * (width - len(row))]:
            box, paragraph = OxmlElement("w:tc"), OxmlElement("w:p")
            box.append(paragraph)
            runs = [(cell, head and number == 0)] if isinstance(cell, str) else [(r.text, r.bold) for r in cell]
            for text, bold in runs:
                paragraph.append(_text(_said(text), bold=bold))
            line.append(box)
        if head and number == 0:
            known = OxmlElement("w:trPr")
            known.append(OxmlElement("w:tblHeader"))
            line.insert(0, known)
        table._tbl.append(line)
    document.add_paragraph()


def _text(text: str, *, bold: bool) -> Any:
    run = OxmlElement("w:r")
    known = OxmlElement("w:rPr")
    if bold:
        known.append(OxmlElement("w:b"))
    size = OxmlElement("w:sz")
    size.set(qn("w:val"), "17")
    known.append(size)
    run.append(known)
    for number, line in enumerate(text.split("\n")):
        if number:
            run.append(OxmlElement("w:br"))
        held = OxmlElement("w:t")
        held.text = line
        held.set(qn("xml:space"), "preserve")
        run.append(held)
    return run


def _live(document: Document, filled: Filled | None) -> None:
    head = document.add_paragraph()
    head.paragraph_format.keep_with_next = True
    if filled is None:
        head.add_run("This block was not filled.").font.color.rgb = _BAD
        return
    head.add_run(_said(filled["title"])).bold = True
    note = head.add_run(f"   {_said(note_of(filled))}")
    note.font.size, note.font.color.rgb = Pt(9), _DIM
    if filled["trouble"]:
        document.add_paragraph().add_run(_said(filled["trouble"])).font.color.rgb = _BAD
    elif filled["shape"] == "figure":
        paragraph = document.add_paragraph()
        figure = paragraph.add_run(filled["figure"])
        figure.bold, figure.font.size = True, Pt(20)
        paragraph.add_run(f" {_said(filled['rows'][0][0])}")
    elif filled["shape"] == "table":
        _table(document, [filled["columns"], *filled["rows"]] if filled["rows"] else [], head=True)
    elif filled["shape"] == "facts":
        _table(document, [list(row) for row in filled["rows"]], head=False)
    else:
        for row in filled["rows"]:
            document.add_paragraph(_said(" ".join(row)))


def _picture(document: Document, piece: Piece) -> None:
    path, said = picture(piece.paper), "".join(run.text for run in piece.runs)
    try:
        if path is None:
            raise FileNotFoundError
        document.add_picture(str(path), width=Cm(15))
        document.add_paragraph(_said(said), style="Caption")
    except (FileNotFoundError, UnrecognizedImageError, OSError):
        missing = document.add_paragraph().add_run(f"The picture {piece.paper} cannot be shown. {_said(said)}")
        missing.font.color.rgb = _BAD
