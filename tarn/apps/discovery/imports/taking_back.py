"""Taking an import back, row by row of its file, in pieces: who began it and the queue both do."""

import time
from pathlib import Path

from django.db import transaction

from tarn.apps.discovery.models import FileImport
from tarn.apps.estate.register.reidentify import withdraw
from tarn.apps.people.breath import Breath
from tarn.collect.sources.files import Shape, rows
from tarn.core.sightings import make_id

STALE = 60
"""Seconds without a sign of life after which work on an import counts as broken off."""


def shape(held: FileImport) -> Shape:
    """Return how an import's file is read."""
    kept = held.shape
    return Shape(kept["format"], tuple(kept["headings"]), kept["encoding"], kept["separator"], kept.get("heading", 1))


def document(held: FileImport, number: int) -> str:
    """Return the id of the sighting a row becomes: the same each time, so that nothing is doubled."""
    return make_id("import", held.pk, number)


def take_back(import_id: int, username: str) -> None:
    """Take the rows of an import back, piece by piece; what is taken back already is passed over."""
    file_import = FileImport.objects.get(pk=import_id)
    if file_import.state != "undoing":
        return
    documents = [document(file_import, number) for number, _ in rows(Path(file_import.path), shape(file_import))]
    for piece in Breath(100).pieces(documents):
        with transaction.atomic():
            withdraw(username, piece)
            file_import.progress += len(piece)
            FileImport.objects.filter(pk=file_import.pk).update(progress=file_import.progress, beat=int(time.time()))
    FileImport.objects.filter(pk=file_import.pk).update(state="undone")
