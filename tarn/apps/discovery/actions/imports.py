"""Files of devices: uploaded, mapped, rehearsed without storing anything, carried out whole or not at all, undone."""

import hashlib
import json
import time
import uuid
from collections.abc import Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from itertools import islice
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from tarn.apps.discovery.models import FileImport, FileMapping
from tarn.apps.estate.actions.reidentify import withdraw
from tarn.apps.estate.actions.take_in import take_in
from tarn.apps.estate.reads.identifiers import numbers_of
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import CannotUndo, undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.sources.files import FileError, Shape, rows, shape_of
from tarn.collect.sources.finding import whose
from tarn.collect.sources.sbom import SbomError, read_sbom
from tarn.core.mapping import IDENTIFYING, TARGETS, MappingError, build, check_mapping, guess_mapping
from tarn.core.sightings import Sighting, compose, make_id

FIRST = 8
"""Rows shown beside the mapping."""
REHEARSED = 1000
"""Rows rehearsed in one transaction that is rolled back."""
MOST_REFUSED = 5000
_SHOWN = 200


def upload(user: Any, file_name: str, pieces: Iterator[bytes], organisation: int | None = None) -> FileImport:
    """Keep an uploaded file and find out how it is read; its mapping is remembered or guessed. Raises Invalid."""
    require(user, "plan")
    folder = Path(settings.HOME) / "imports"
    folder.mkdir(exist_ok=True)
    path = folder / uuid.uuid4().hex
    with path.open("wb") as file:
        for piece in pieces:
            file.write(piece)
    try:
        shape = shape_of(path, file_name)
        first = [r for _, r in islice(rows(path, shape), 50)]
    except FileError as error:
        path.unlink()
        raise Invalid("file", str(error)) from None
    remembered = FileMapping.objects.filter(headings=_digest(shape)).first()
    with transaction.atomic():
        made = FileImport.objects.create(
            name=Path(file_name).stem[:120] or "file",
            file_name=file_name[:200],
            path=str(path),
            shape=asdict(shape),
            mapping=remembered.mapping if remembered else guess_mapping(list(shape.headings), first),
            made_at=int(time.time()),
            asked_by=user,
            organisation=owner(organisation),
        )
        record(user, "uploaded a file", made.file_name)
    return made


def _digest(shape: Shape) -> str:
    return hashlib.sha256(json.dumps(shape.headings).encode()).hexdigest()


def shape(held: FileImport) -> Shape:
    """Return how an import's file is read."""
    kept = held.shape
    return Shape(kept["format"], tuple(kept["headings"]), kept["encoding"], kept["separator"])


def first_rows(held: FileImport) -> list[dict[str, Any]]:
    """Return the first rows of an import's file, as text."""
    found = islice(rows(Path(held.path), shape(held)), FIRST)
    return [{k: "" if v is None else str(v) for k, v in row.items()} for _, row in found]


def set_mapping(user: Any, import_id: int, name: str, mapping: dict[str, dict[str, str]]) -> FileImport:
    """Say what the columns are, and what the source is called. Raises Invalid, FileImport.DoesNotExist."""
    require(user, "plan")
    held = visible(FileImport).get(pk=import_id)
    if held.state in ("done", "undone"):
        raise Invalid("file", f"“{held.file_name}” is {held.state} already; upload it again.")
    if not name.strip():
        raise Invalid("name", "The source needs a name: it stands beside every value it brings.")
    for target, part in mapping.items():
        if target in TARGETS and part.get("from") not in held.shape["headings"]:
            raise Invalid("mapping", f"{TARGETS[target].label}: the file has no column “{part.get('from')}”.")
    try:
        check_mapping(mapping)
    except MappingError as error:
        raise Invalid("mapping", str(error)) from None
    held.name, held.mapping, held.state = name.strip()[:120], mapping, "uploaded"
    held.save(update_fields=["name", "mapping", "state"])
    return held


class _Reader:
    """Reads an import's rows as sightings, and keeps what is refused."""

    def __init__(self, held: FileImport) -> None:
        self.held = held
        self.refused: list[dict[str, Any]] = []
        self.refusals = 0
        self.at = datetime.fromtimestamp(held.made_at, UTC)
        self.whose = whose(held.organisation.name if held.organisation else "", "file")
        self.units = {t: m.get("unit", "") for t, m in held.mapping.items()}

    def refuse(self, number: int, row: dict[str, Any], why: str) -> None:
        self.refusals += 1
        if len(self.refused) < MOST_REFUSED:
            self.refused.append({"row": number, "why": why, "cells": {k: str(v or "") for k, v in row.items()}})

    def sightings(self) -> Iterator[tuple[int, dict[str, Any], Sighting]]:
        for number, row in rows(Path(self.held.path), shape(self.held)):
            values = {t: row.get(m["from"]) for t, m in self.held.mapping.items()}
            readings, faults = build(values, self.units, "file")
            if faults:
                self.refuse(number, row, " ".join(map(str, faults)))
                continue
            if not any(values.get(t) not in (None, "") for t in IDENTIFYING):
                self.refuse(number, row, "Nothing in it tells one device from another.")
                continue
            made = compose(("file", self.held.name), self.at, [*readings, *self.whose], id=document(self.held, number))
            yield number, row, made


def document(held: FileImport, number: int) -> str:
    """Return the id of the sighting a row becomes: the same each time, so that nothing is doubled."""
    return make_id("import", held.pk, number)


def rehearse(user: Any, import_id: int) -> dict[str, Any]:
    """Do everything and take it back: what would be created, matched, changed and refused, row by row."""
    require(user, "plan")
    held = visible(FileImport).get(pk=import_id)
    reader, counts, shown = _Reader(held), _counts(), []
    try:
        stream = reader.sightings()
        while batch := list(islice(stream, REHEARSED)):
            for (number, row, _), taken in zip(batch, _rolled_back([s for _, _, s in batch]), strict=True):
                what = _verdict(taken)
                if what == "refused":
                    reader.refuse(number, row, "; ".join(taken.reasons))
                counts[what] += 1
                if len(shown) < _SHOWN:
                    shown.append({"row": number, "what": what, "asset": taken.asset, "why": "; ".join(taken.reasons)})
    except FileError as error:
        raise Invalid("file", f"Reading stopped at {error}; nothing was stored.") from None
    counts["refused"] = reader.refusals
    held.counts, held.refused, held.state = counts, reader.refused, "rehearsed"
    held.save(update_fields=["counts", "refused", "state"])
    return {"counts": counts, "rows": shown, "refused": reader.refused[:_SHOWN]}


def _rolled_back(sightings: list[Sighting]) -> list[Any]:
    with transaction.atomic():
        taken = list(take_in(sightings))
        transaction.set_rollback(True)
    return taken


def _counts() -> dict[str, int]:
    return {"created": 0, "changed": 0, "matched": 0, "waits for a person": 0, "refused": 0}


def _verdict(taken: Any) -> str:
    if taken.verdict == "new":
        return "created"
    if taken.verdict == "undecided":
        return "waits for a person"
    if taken.verdict in ("same", "already held"):
        return "changed" if taken.changed else "matched"
    return "refused"


def carry_out(user: Any, import_id: int) -> FileImport:
    """Take every sound row in, in one transaction; refused rows are kept with their reasons. Raises Invalid."""
    require(user, "plan")
    try:
        with transaction.atomic():
            held = visible(FileImport).get(pk=import_id)
            if held.state != "rehearsed":
                raise Invalid("file", "Rehearse it first, with the mapping as it is now.")
            reader, counts = _Reader(held), _counts()
            stream = reader.sightings()
            while batch := list(islice(stream, REHEARSED)):
                for (number, row, _), taken in zip(batch, take_in([s for _, _, s in batch]), strict=True):
                    what = _verdict(taken)
                    counts[what] += 1
                    if what == "refused":
                        reader.refuse(number, row, "; ".join(taken.reasons))
            counts["refused"] = reader.refusals
            held.counts, held.refused, held.state = counts, reader.refused, "done"
            held.save(update_fields=["counts", "refused", "state"])
            FileMapping.objects.update_or_create(headings=_digest(shape(held)), defaults={"mapping": held.mapping})
            undo = {"action": "withdraw import", "import": held.pk}
            record(user, "imported a file", held.file_name, detail=dict(counts), undo=undo)
    except FileError as error:
        raise Invalid("file", f"Reading stopped at {error}; nothing was stored.") from None
    return held


def take_sbom(user: Any, asset: int, file_name: str, body: bytes) -> str:
    """Take a bill of materials in as an asset's software. Returns the asset's number. Raises Invalid."""
    require(user, "plan")
    number = numbers_of([asset]).get(asset)
    if number is None:
        raise Invalid("asset", f"There is no asset {asset}.")
    try:
        made = read_sbom(body, number=number)
    except SbomError as error:
        raise Invalid("file", f"“{file_name}”: {error}") from None
    with transaction.atomic():
        source, now = ("file", Path(file_name).stem[:200] or "SBOM"), datetime.now(UTC).replace(microsecond=0)
        list(take_in([compose(source, now, made)]))
        record(user, "took in a bill of materials", number, detail={"file": file_name[:200]})
    return number


@undoer("withdraw import", needs="plan")
def _withdraw(user: Any, undo: dict[str, Any]) -> Any:
    held = visible(FileImport).get(pk=undo["import"])
    if held.state != "done":
        raise CannotUndo("This import is undone already.")
    withdraw(user, [document(held, number) for number, _ in rows(Path(held.path), shape(held))])
    held.state = "undone"
    held.save(update_fields=["state"])
    return None
