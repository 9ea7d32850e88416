"""The formats a handbook is written in."""

from collections.abc import Callable
from dataclasses import dataclass

from tarn.apps.handbooks.models import Issue
from tarn.apps.handbooks.writing.common import Written, written
from tarn.apps.handbooks.writing.docx import as_docx
from tarn.apps.handbooks.writing.html import as_html
from tarn.apps.handbooks.writing.markdown import as_markdown
from tarn.apps.handbooks.writing.pdf import as_pdf


@dataclass(frozen=True)
class HandbookFormat:
    """A format: its media type, and what writes it."""

    media: str
    write: Callable[[Written], bytes]


FORMATS = {
    "pdf": HandbookFormat("application/pdf", as_pdf),
    "docx": HandbookFormat("application/vnd.openxmlformats-officedocument.wordprocessingml.document", as_docx),
    "html": HandbookFormat("text/html; charset=utf-8", as_html),
    "md": HandbookFormat("text/markdown; charset=utf-8", as_markdown),
}


def file_of(issue: Issue, form: str, language: str = "en") -> tuple[str, bytes, str]:
    """Return name, content and media type of an issue in a format, as a reader of a language is told it. Raises
    KeyError for a format there is none of."""
    made = FORMATS[form]
    word = "".join(c if c.isalnum() else "-" for c in issue.title.lower()).strip("-")[:60] or "handbook"
    return f"{word}-{issue.number}.{form}", made.write(written(issue, language)), made.media
