"""Notes and files on assets: added, and taken away in a way that can be undone."""

import hashlib
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from django.db import transaction

from tarn.apps.estate.models import Paper, Sighting
from tarn.apps.estate.papers.held import folder, paper
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require

MOST_BYTES = 50_000_000
"""Bytes a file may have."""
MOST_TEXT = 20_000


def add_paper(
    user: Any, asset: int, text: str, file_name: str = "", pieces: Iterable[bytes] = (), document: str = ""
) -> Paper:
    """Keep a note, a file or both with an asset, or with one `document` of it. Raises Invalid."""
    documents = Sighting.objects.filter(asset=asset).order_by("at", "pk").values_list("document", flat=True)
    anchor = documents.filter(document=document).first() if document else documents.first()
    if anchor is None:
        raise Invalid("text", f"There is no asset {asset}.")
    return add_paper_to(user, anchor, f"asset {asset}", text, file_name, pieces)


def add_paper_to(
    user: Any, anchor: str, named: str, text: str, file_name: str = "", pieces: Iterable[bytes] = ()
) -> Paper:
    """Keep a note, a file or both with what `anchor` stands for, called so in the audit trail. Raises Invalid."""
    require(user, "keep")
    text, file_name = text.strip(), Path(file_name).name[:200]
    if not text and not file_name:
        raise Invalid("text", "Write something, or choose a file.")
    if len(text) > MOST_TEXT:
        raise Invalid("text", f"A note may have {MOST_TEXT:,} characters; this has {len(text):,}.")
    digest, size = _keep(pieces) if file_name else ("", 0)
    with transaction.atomic():
        made = Paper.objects.create(
            anchor=anchor,
            text=text,
            file_name=file_name,
            sha256=digest,
            size=size,
            made_by=user.username,
            made_at=int(time.time()),
        )
        undo = {"action": "papers", "id": made.pk, "removed": True}
        record(user, "kept a paper with", named, detail={"file": file_name, "text": text[:200]}, undo=undo)
    return made


def _keep(pieces: Iterable[bytes]) -> tuple[str, int]:
    """Write a file's content under its SHA-256; one content is kept once. Raises Invalid where it is too large."""
    digest, size = hashlib.sha256(), 0
    folder().mkdir(exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder(), prefix="part-", delete=False) as file:
        part = Path(file.name)
        for piece in pieces:
            size += len(piece)
            if size > MOST_BYTES:
                break
            digest.update(piece)
            file.write(piece)
    if size > MOST_BYTES:
        part.unlink()
        most = MOST_BYTES // 1_000_000
        raise Invalid("file", f"The file is larger than {most} MB; keep it elsewhere and link to it.")
    part.replace(folder() / digest.hexdigest())
    return digest.hexdigest(), size


def remove_paper(user: Any, number: int) -> None:
    """Take a paper away; its content stays for the past and for whoever undoes this. Raises Paper.DoesNotExist."""
    require(user, "keep")
    with transaction.atomic():
        held = paper(number)
        _mark(held, removed=True)
        record(user, "took away a paper", str(held), undo={"action": "papers", "id": held.pk, "removed": False})


def _mark(held: Paper, *, removed: bool) -> None:
    held.removed_at = int(time.time()) if removed else None
    held.save(update_fields=["removed_at"])


@undoer("papers", needs="keep")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    _mark(paper(inverse["id"], removed=True), removed=inverse["removed"])
    return {**inverse, "removed": not inverse["removed"]}
