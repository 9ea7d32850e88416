"""Mail delivered to a folder of this machine, for an installation that keeps its own mailbox."""

import email
import email.policy
from email.message import EmailMessage
from pathlib import Path

from django.conf import settings

from tarn.apps.reports.results import MailOut


def letters(most: int = 100) -> list[MailOut]:
    """Return the letters of the mailbox, the newest first; none where there is no mailbox."""
    if not settings.TARN_MAILBOX:
        return []
    files = sorted(Path(settings.TARN_MAILBOX).glob("*.eml"), reverse=True)[:most]
    return [_read(f) for f in files]


def _read(path: Path) -> MailOut:
    message = email.message_from_bytes(path.read_bytes(), policy=email.policy.default)
    assert isinstance(message, EmailMessage)
    body = message.get_body(("plain",))
    return {
        "id": path.stem,
        "sender": str(message["From"]),
        "to": str(message["To"]),
        "at": str(message["Date"]),
        "subject": str(message["Subject"]),
        "text": body.get_content() if body is not None else "",
        "attached": [str(a.get_filename()) for a in message.iter_attachments()],
    }
