"""What all formats of a handbook share: its flow, its pictures, and the words under a block."""

from dataclasses import dataclass
from pathlib import Path

from tarn.apps.estate.papers.held import folder, paper
from tarn.apps.handbooks.models import Issue
from tarn.core.handbooks.flow import Flow, flow_of
from tarn.core.handbooks.live import Filled
from tarn.core.speech import said_in


@dataclass(frozen=True)
class Written:
    """An issue ready to be written out."""

    issue: Issue
    flow: Flow
    language: str = "en"

    @property
    def under(self) -> str:
        """The line that says which issue this is."""
        state = {"asked": "waits for approval", "refused": "refused"}.get(self.issue.state, "")
        by = self.issue.variables.get("approved") or self.issue.asked_by
        said = state or f"approved by {by}"
        under = f"no. {self.issue.number} of {self.issue.variables['date']}, {said}"
        return f"{self.issue.title}, {said_in(under, self.language)}"


def written(issue: Issue, language: str) -> Written:
    """Return an issue as pieces; what Tarn filled in is told in the reader's language, prose as it was written."""
    filled = {key: _told(block, language) for key, block in issue.filled.items()}
    return Written(issue, flow_of(issue.title, issue.document, filled, issue.variables), language)


def _told(block: Filled, language: str) -> Filled:
    return {
        **block,
        "title": said_in(block["title"], language),
        "note": said_in(block["note"], language),
        "columns": [said_in(column, language) for column in block["columns"]],
        "rows": [[said_in(cell, language) for cell in row] for row in block["rows"]],
        "trouble": said_in(block["trouble"], language),
    }


def note_of(filled: Filled) -> str:
    """Return what stands beside a block's heading."""
    cut = f"{filled['cut']:,} more rows are not shown" if filled["cut"] else ""
    return "; ".join(part for part in (filled["note"], cut) if part)


def picture(number: int) -> Path | None:
    """Return the file of a picture; None where it is not there any more."""
    from tarn.apps.estate.models import Paper

    try:
        held = paper(number)
    except Paper.DoesNotExist:
        return None
    path = folder() / held.sha256
    return path if held.sha256 and path.exists() else None
