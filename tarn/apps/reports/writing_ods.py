"""Reports as OpenDocument spreadsheets (OpenDocument 1.3, ISO/IEC 26300), written row by row: memory stays flat.

The libraries there are for it hold the whole document in memory.
"""

import re
import tempfile
import zipfile
from collections.abc import Iterator
from typing import Any, BinaryIO
from xml.sax.saxutils import escape, quoteattr

from tarn.apps.reports.reads.asking import Asked
from tarn.apps.reports.writing import Head, details_of, heading, line_words, local, told

MIME = "application/vnd.oasis.opendocument.spreadsheet"
_NOT_XML = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
"""Characters XML 1.0 (section 2.2) has no way to write."""
_SPACES = " ".join(
    f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name}:1.0"'
    for name in ("office", "table", "text", "style", "number")
)
_MANIFEST = (
    '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest manifest:version="1.3" '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    f'<manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="{MIME}"/>'
    '<manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>'
)
_STYLES = (
    '<office:automatic-styles><number:date-style style:name="D"><number:year number:style="long"/><number:text>-'
    '</number:text><number:month number:style="long"/><number:text>-</number:text><number:day number:style="long"/>'
    '<number:text> </number:text><number:hours number:style="long"/><number:text>:</number:text>'
    '<number:minutes number:style="long"/></number:date-style>'
    '<style:style style:name="W" style:family="table-cell" style:data-style-name="D"/>'
    '<number:date-style style:name="E"><number:year number:style="long"/><number:text>-</number:text>'
    '<number:month number:style="long"/><number:text>-</number:text><number:day number:style="long"/>'
    '</number:date-style><style:style style:name="X" style:family="table-cell" style:data-style-name="E"/>'
    "</office:automatic-styles>"
)


def as_ods(head: Head, asked: Asked) -> BinaryIO:
    """Return the report as a spreadsheet: rows with their figures on one sheet, what it is on another."""
    file = tempfile.TemporaryFile()  # noqa: SIM115 (handed on open; gone when it is closed)
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as made:
        # First and unpacked, so that the type can be told by looking (OpenDocument 1.3, part 2, 3.3).
        made.writestr("mimetype", MIME, zipfile.ZIP_STORED)
        made.writestr("META-INF/manifest.xml", _MANIFEST)
        with made.open("content.xml", "w", force_zip64=True) as content:
            for piece in _content(head, asked):
                content.write(piece.encode())
    file.seek(0)
    return file


def _content(head: Head, asked: Asked) -> Iterator[str]:
    yield f'<?xml version="1.0" encoding="UTF-8"?><office:document-content {_SPACES} office:version="1.3">{_STYLES}'
    yield '<office:body><office:spreadsheet><table:table table:name="Report">'
    yield _row(_text(heading(c)) for c in asked.columns)
    for line in asked.lines:
        if line.kind != "row":
            yield _row([_text(line_words(asked, line, head.zone))])
        else:
            cells = zip(line.values, asked.columns, strict=True)
            yield _row(_cell(told(v, c.type), c.type, head) for v, c in cells)
            for label, columns, rows in details_of(asked, line):
                yield _row(["<table:table-cell/>", _text(label), *(_text(heading(c)) for c in columns)])
                for row in rows:
                    told_ = (_cell(told(v, c.type), c.type, head) for v, c in zip(row, columns, strict=True))
                    yield _row(["<table:table-cell/>", "<table:table-cell/>", *told_])
    yield '</table:table><table:table table:name="About">'
    for what, which in head.lines():
        yield _row([_text(what), _text(which)])
    yield "</table:table></office:spreadsheet></office:body></office:document-content>"


def _row(cells: Any) -> str:
    return f"<table:table-row>{''.join(cells)}</table:table-row>"


def _cell(value: Any, kind: str, head: Head) -> str:
    if value in (None, ""):
        return "<table:table-cell/>"
    if kind == "moment":
        at = local(str(value), head.zone).replace(tzinfo=None).isoformat(timespec="seconds")
        return f'<table:table-cell table:style-name="W" office:value-type="date" office:date-value="{at}"/>'
    if kind == "day":
        return f'<table:table-cell table:style-name="X" office:value-type="date" office:date-value="{value}"/>'
    if isinstance(value, (int, float)):
        return f'<table:table-cell office:value-type="float" office:value={quoteattr(repr(value))}/>'
    return _text(str(value))


def _text(value: str) -> str:
    said = escape(_NOT_XML.sub("", value))
    return f'<table:table-cell office:value-type="string"><text:p>{said}</text:p></table:table-cell>'
