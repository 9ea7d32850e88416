"""Reports as PDF: every word on a page, rows of any height, bounded in lines and pages. Read back by the standard library."""

import base64
import re
import tracemalloc
import zlib
from types import SimpleNamespace
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st
from reportlab.pdfbase.pdfmetrics import stringWidth

from tarn.apps.reports import pdf
from tarn.apps.reports.writing import Head
from tarn.core.reports import Line, ReportError

HEAD = Head("Disks", "assets whose kind is server", "2026-11-29", "29 November 2026", ZoneInfo("UTC"))


def made(rows, columns):
    """A report's PDF, of rows of texts."""
    named = [SimpleNamespace(name=f"c{n}", label=f"Heading {n}", type="text") for n in range(columns)]
    lines = (Line("row", values=row) for row in rows)
    return pdf.as_pdf(HEAD, SimpleNamespace(columns=named, lines=lines, blocks=[], definition=None)).read()


def pages(document):
    """The text drawn on each page: what stands in brackets in its content (ISO 32000-1, 7.3.4.2, 9.4.3)."""
    for stream in re.findall(rb"/Filter \[ /ASCII85Decode /FlateDecode \].*?stream\r?\n(.*?)endstream", document, re.S):
        content = zlib.decompress(base64.a85decode(stream.strip().removesuffix(b"~>")))
        yield " ".join(t.decode("cp1252") for t in re.findall(rb"\(((?:\\.|[^\\)])*)\) T", content, re.S))


def test_every_row_is_on_a_page_and_each_page_has_the_headings():
    told = list(pages(made([[f"name-{n}", "a word or two " * 12] for n in range(200)], 2)))
    assert len(told) > 3
    assert all("Heading 0" in t and "Heading 1" in t for t in told)
    words = " ".join(told).split()
    assert [w for w in words if w.startswith("name-")] == [f"name-{n}" for n in range(200)]
    assert words.count("two") == 200 * 12
    assert [t.split()[-1] for t in told] == [str(n + 1) for n in range(len(told))], "pages are numbered"
    assert "assets whose kind is server" in told[0]


def test_what_is_taller_than_a_page_is_cut_and_said():
    told = " ".join(pages(made([["first", "word " * 4_000], ["last", "short"]], 2)))
    assert "One cell is too long for a page and cut" in told
    assert "last" in told


@pytest.mark.parametrize("rows", [(["x"] for _ in range(pdf.MOST + 1)), (["word " * 300] * 8 for _ in range(4_000))])
def test_too_many_lines_or_pages_are_refused_in_words(rows):
    rows = list(rows)
    with pytest.raises(ReportError, match="at the most; take XLSX"):
        made(rows, len(rows[0]))


def test_memory_does_not_grow_with_what_is_laid_out():
    rows = [[f"{n} cells of some words each"] * 30 for n in range(150)]
    tracemalloc.start()
    document = made(rows, 30)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert peak < 4 << 20, f"{peak >> 20} MB for {len(document) >> 10} kB"


@given(
    st.text(alphabet=st.characters(codec="cp1252", exclude_categories=["Cc", "Cs"]), max_size=400), st.floats(20, 300)
)
def test_wrapped_lines_fit_and_lose_nothing(text, width):
    lines = pdf.wrapped(text, width)
    assert all(stringWidth(line, pdf.FONT, pdf.SIZE) <= width + 0.01 for line in lines if len(line) > 1)
    if len(lines) <= pdf.TALLEST:
        assert "".join(lines).replace(" ", "") == text.replace(" ", "")
