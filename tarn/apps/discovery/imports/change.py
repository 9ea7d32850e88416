"""Files of devices: uploaded, mapped, rehearsed without storing anything, carried out piece by piece, undone."""

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

from tarn.apps.discovery.imports.jobs import take_import_back
from tarn.apps.discovery.imports.results import QuestionOut, RefusedOut, RehearsalOut, RehearsedRow
from tarn.apps.discovery.imports.taking_back import STALE, document, shape, take_back
from tarn.apps.discovery.models import FileImport, FileMapping
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import CannotUndo, undoer
from tarn.apps.people.breath import Breath
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.collect.sources.files import BEYOND, FileError, Shape, rows, shape_of
from tarn.collect.sources.finding import whose
from tarn.collect.sources.sbom import SbomError, read_sbom
from tarn.core.mapping import IDENTIFYING, TARGETS, MappingError, build, check_mapping
from tarn.core.mapping_guess import guess_mapping
from tarn.core.sightings import Sighting, compose
from tarn.core.written import Ambiguous, Written, read_amount, read_day, told_by

FIRST = 8
"""Rows shown beside the mapping."""
REHEARSED = 1000
"""Rows rehearsed in one transaction that is rolled back."""
AT_ONCE = 500
"""Rows of an import that are taken back while its person waits; more are in the background."""
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


def written(held: FileImport) -> Written:
    """Return how an import's file writes amounts and days: as its person said, else as its own values show."""
    said = held.shape.get("written") or {}
    told = told_by(_open_values(held))
    return Written(said.get("decimals") or told.decimals, said.get("dates") or told.dates)


def _open_values(held: FileImport) -> Iterator[str]:
    """Yield the values of columns of amounts and days, as text."""
    columns = [m["from"] for t, m in held.mapping.items() if t in TARGETS and TARGETS[t].type in ("price", "moment")]
    if columns:
        for _, row in rows(Path(held.path), shape(held)):
            yield from (str(row[c]) for c in columns if isinstance(row.get(c), str))


QUESTIONS = {
    "decimals": (
        "Some amounts may be read in two ways, such as {example}. What parts the decimals in this file?",
        {"comma": "a comma: 1.249,50", "point": "a point: 1,249.50"},
    ),
    "dates": (
        "Some days may be read in two ways, such as {example}. What comes first in this file?",
        {"day first": "the day: 3 April is 03/04", "month first": "the month: 3 April is 04/03"},
    ),
}
"""What a file may leave open, asked once for all of it, and the answers with what they mean."""


def questions(held: FileImport, known: Written) -> list[QuestionOut]:
    """Return what is still open of how a file is written, each with a value that shows it."""
    out: dict[str, QuestionOut] = {}
    for value in _open_values(held):
        for name, read in (("decimals", read_amount), ("dates", read_day)):
            try:
                read(value, known)
            except Ambiguous as open_:
                asks, choices = QUESTIONS[open_.about]
                out.setdefault(name, {"name": name, "asks": asks.format(example=f"“{value[:40]}”"), "choices": choices})
            except ValueError:
                continue
    return [out[n] for n in QUESTIONS if n in out]


def first_rows(held: FileImport) -> list[dict[str, Any]]:
    """Return the first rows of an import's file, as text."""
    try:
        found = list(islice(rows(Path(held.path), shape(held)), FIRST))
    except FileError:
        return []  # what is wrong with it is said when it is rehearsed
    return [{k: "" if v is None else str(v) for k, v in row.items() if k != BEYOND} for _, row in found]


def set_mapping(
    user: Any,
    import_id: int,
    name: str,
    mapping: dict[str, dict[str, str]],
    *,
    heading: int | None = None,
    as_written: dict[str, str] | None = None,
) -> FileImport:
    """Say what the columns are, what the source is called, in which row the headings stand, and how it is written.

    Another heading row guesses the columns anew. Raises Invalid, FileImport.DoesNotExist.
    """
    require(user, "plan")
    held = visible(FileImport).get(pk=import_id)
    if held.state in ("running", "done", "undoing", "undone"):
        raise Invalid("file", f"“{held.file_name}” is {held.state} already; upload it again.")
    if not name.strip():
        raise Invalid("name", "The source needs a name: it stands beside every value it brings.")
    for about, answer in (as_written or {}).items():
        if answer and (about not in QUESTIONS or answer not in QUESTIONS[about][1]):
            raise Invalid("written", f"“{answer}” is no answer to what the {about} of a file are.")
    if heading is not None and heading != shape(held).heading:
        return _headed_anew(held, heading)
    held.shape = {**held.shape, "written": {k: v for k, v in (as_written or {}).items() if v}}
    for target, part in mapping.items():
        if target in TARGETS and part.get("from") not in held.shape["headings"]:
            raise Invalid("mapping", f"{TARGETS[target].label}: the file has no column “{part.get('from')}”.")
    try:
        check_mapping(mapping)
    except MappingError as error:
        raise Invalid("mapping", str(error)) from None
    held.name, held.mapping, held.state = name.strip()[:120], mapping, "uploaded"
    held.save(update_fields=["name", "mapping", "state", "shape"])
    return held


def _headed_anew(held: FileImport, heading: int) -> FileImport:
    """Take the headings from another row; what the columns are is found out anew."""
    try:
        made = shape_of(Path(held.path), held.file_name, heading)
        first = [r for _, r in islice(rows(Path(held.path), made), 50)]
    except FileError as error:
        raise Invalid("heading", str(error)) from None
    held.shape, held.mapping, held.state = asdict(made), guess_mapping(list(made.headings), first), "uploaded"
    held.save(update_fields=["shape", "mapping", "state"])
    return held


class _Reader:
    """Reads an import's rows as sightings, and keeps what is refused."""

    def __init__(self, held: FileImport) -> None:
        self.held = held
        self.refused: list[RefusedOut] = []
        self.refusals = 0
        self.at = datetime.fromtimestamp(held.made_at, UTC)
        self.whose = whose(held.organisation.name if held.organisation else "", "file")
        self.units = {t: m.get("unit", "") for t, m in held.mapping.items()}
        self.written = written(held)
        self.currency = ledger().currency

    def refuse(self, number: int, row: dict[str, Any], why: str) -> None:
        self.refusals += 1
        if len(self.refused) < MOST_REFUSED:
            self.refused.append(
                {"row": number, "why": why, "cells": {k: str(v or "") for k, v in row.items() if k != BEYOND}}
            )

    def sightings(self) -> Iterator[tuple[int, dict[str, Any], Sighting]]:
        for number, row in rows(Path(self.held.path), shape(self.held)):
            values = {t: row.get(m["from"]) for t, m in self.held.mapping.items()}
            if beyond := row.get(BEYOND):
                more = f"{len(beyond)} more cells than headings" if len(beyond) > 1 else "a cell more than headings"
                self.refuse(number, row, f"It has {more}: {', '.join(f'“{c[:40]}”' for c in beyond[:3])}.")
                continue
            readings, faults = build(values, self.units, "file", written=self.written, currency=self.currency)
            if faults:
                self.refuse(number, row, " ".join(map(str, faults)))
                continue
            if not any(values.get(t) not in (None, "") for t in IDENTIFYING):
                self.refuse(number, row, "Nothing in it tells one device from another.")
                continue
            made = compose(("file", self.held.name), self.at, [*readings, *self.whose], id=document(self.held, number))
            yield number, row, made


def rehearse(user: Any, import_id: int) -> RehearsalOut:
    """Do everything and take it back: what would be created, matched, changed and refused, row by row."""
    require(user, "plan")
    held = visible(FileImport).get(pk=import_id)
    reader, counts = _Reader(held), _counts()
    shown: list[RehearsedRow] = []
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
    held.total = sum(counts.values())
    held.save(update_fields=["counts", "refused", "state", "total"])
    asked = questions(held, reader.written)
    return {"counts": counts, "rows": shown, "refused": reader.refused[:_SHOWN], "questions": asked}


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
    """Take every sound row in, piece by piece so that others may write meanwhile; refused rows are kept with reasons.

    What is broken off is gone on with by carrying it out again: nothing is doubled. Raises Invalid.
    """
    require(user, "plan")
    with transaction.atomic():
        held = visible(FileImport).get(pk=import_id)
        if held.state == "running" and time.time() - held.beat < STALE:
            raise Invalid("file", f"It is being taken in: {held.progress} of {held.total} rows so far.")
        if held.state not in ("rehearsed", "running"):
            raise Invalid("file", "Rehearse it first, with the mapping as it is now.")
        held.state, held.progress, held.beat = "running", 0, int(time.time())
        held.save(update_fields=["state", "progress", "beat"])
    try:
        return _finish(user, held, *_take_all(held))
    except BaseException as error:
        FileImport.objects.filter(pk=held.pk).update(state="rehearsed")
        if isinstance(error, FileError):
            kept = f"{held.progress} rows before it are in; mend the file and carry it out again."
            raise Invalid("file", f"Reading stopped at {error}; {kept}") from None
        raise


def _finish(user: Any, held: FileImport, reader: _Reader, counts: dict[str, int]) -> FileImport:
    counts["refused"] = reader.refusals
    held.counts, held.refused, held.state = counts, reader.refused, "done"
    with transaction.atomic():
        held.save(update_fields=["counts", "refused", "state"])
        FileMapping.objects.update_or_create(headings=_digest(shape(held)), defaults={"mapping": held.mapping})
        undo = {"action": "withdraw import", "import": held.pk}
        record(user, "imported a file", held.file_name, detail=dict(counts), undo=undo)
    return held


def _take_all(held: FileImport) -> tuple[_Reader, dict[str, int]]:
    reader, counts = _Reader(held), _counts()
    for batch in Breath(100).pieces(reader.sightings()):
        with transaction.atomic():
            for (number, row, _), taken in zip(batch, take_in([s for _, _, s in batch]), strict=True):
                what = _verdict(taken)
                counts[what] += 1
                if what == "refused":
                    reader.refuse(number, row, "; ".join(taken.reasons))
            held.progress += len(batch)
            FileImport.objects.filter(pk=held.pk).update(progress=held.progress, beat=int(time.time()))
    return reader, counts


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
    """Begin to take an import back: a small one at once, a large one in the background; its page tells how far."""
    held = visible(FileImport).get(pk=undo["import"])
    if held.state != "done":
        raise CannotUndo(f"This import is {held.state} already.")
    held.state, held.progress, held.beat = "undoing", 0, int(time.time())
    held.save(update_fields=["state", "progress", "beat"])
    transaction.on_commit(lambda: _begin_to_take_back(held, user.username))
    return None


def _begin_to_take_back(held: FileImport, username: str) -> None:
    taken = sum(held.counts.get(what, 0) for what in ("created", "changed", "matched"))
    (take_import_back if taken > AT_ONCE else take_back)(held.pk, username)
