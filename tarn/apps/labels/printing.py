"""Printing labels: those that devices have are printed again, others get one."""

import json
import time
from typing import Any

from django.conf import settings
from django.db import transaction

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.register.identifiers import first_documents
from tarn.apps.estate.register.rows import named_rows
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.labels.drawing import Drawn, as_pdf
from tarn.apps.labels.inputs import PrintIn, WordsIn
from tarn.apps.labels.models import Label, LabelWords
from tarn.apps.labels.numbering import give
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, require_version
from tarn.apps.people.roles import require
from tarn.core.filters.parse import FilterError
from tarn.core.labels import CODE_KINDS, SHEETS, LabelError, new_code, places


def words() -> LabelWords:
    """Return what labels say."""
    return LabelWords.objects.first() or LabelWords(version=0)


def change_words(user: Any, data: WordsIn) -> LabelWords:
    """Say what labels and the finder's page say. Raises Stale."""
    require(user, "plan")
    with transaction.atomic():
        held = words()
        require_version(held, data.version, "What labels say", {"company": held.company, "phone": held.phone})
        before = {"company": held.company, "phone": held.phone, "words": held.words}
        for name, said in (("company", data.company), ("phone", data.phone), ("words", data.words)):
            setattr(held, name, " ".join(said.split()))
        held.version += 1
        held.save()
        record(user, "changed what labels say", held.company or "no company", detail={"before": before})
    return held


def print_labels(user: Any, data: PrintIn) -> bytes:
    """Return labels as PDF, and note that they were printed. Raises Invalid naming what is wrong."""
    if user is not None:
        require(user, "decide")
    sheet = SHEETS.get(data.sheet)
    if sheet is None:
        raise Invalid("sheet", f"“{data.sheet}” is no sheet; one of: {', '.join(SHEETS)}.")
    kind = next((k for k in CODE_KINDS if k.casefold() == data.code.casefold()), None)
    if kind is None:
        raise Invalid("code", f"“{data.code}” is no code of labels; one of: {', '.join(CODE_KINDS)}.")
    meant = _meant(data)
    assets = list(meant)
    try:
        where = list(places(sheet, len(assets), data.begin, (data.right, data.down)))
    except LabelError as fault:
        raise Invalid(fault.field, str(fault)) from None
    name = user.username if user is not None else ""
    with transaction.atomic():
        given = give(user, meant) if data.give_numbers else {}
        made = _labels(assets, name)
        record(user, "printed labels", f"{len(made)} on {sheet.name}", detail={"filter": data.filter or ""})
    said = words()
    drawn = []
    for asset, plate in meant.items():
        own = given.get(asset) or plate["own_number"] or ""
        lines = [own, plate["number"], plate["name"] or "", said.company, said.phone, made[asset].code]
        shown = tuple(dict.fromkeys(line for line in lines if line))
        drawn.append(Drawn(made[asset].code, f"{settings.TARN_URL}/l/{made[asset].code}", shown))
    return as_pdf(sheet, drawn, where, kind)


def plates_of(assets: list[int]) -> dict[int, dict[str, Any]]:
    """Return numbers, name and kind of assets, those that are not to be seen left out."""
    return named_rows(assets, ["name", "number", "own_number", "kind"])


def _meant(data: PrintIn) -> dict[int, dict[str, Any]]:
    """Return the plates of the devices to print labels of, in their order."""
    if data.filter is None and not data.assets:
        raise Invalid("assets", "Say which devices: by their numbers, or by a filter.")
    try:
        found = list(ids(question(data.filter))) if data.filter is not None else list(dict.fromkeys(data.assets))
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    plates = plates_of(found)
    if missing := next((a for a in found if a not in plates), None):
        raise Invalid("assets", f"There is no asset {missing}.")
    if data.expected is not None and data.expected != len(found):
        raise Invalid("expected", f"{data.expected} were shown and {len(found)} answer by now. Look again.")
    return {asset: plates[asset] for asset in found}


def _labels(assets: list[int], name: str) -> dict[int, Label]:
    """Return the label of each asset: the one it has that is not lost, else a new one."""
    now = int(time.time())
    cursor = raw_connection().execute(
        "SELECT l.id, g.asset_id FROM labels_label l JOIN estate_sighting g ON g.document = l.anchor "
        "WHERE l.lost_at IS NULL AND g.asset_id IN (SELECT value FROM json_each(?)) ORDER BY l.id",
        [json.dumps(assets)],
    )
    of = dict(cursor.fetchall())
    out: dict[int, Label] = {}
    for label in Label.objects.in_bulk(list(of)).values():
        out.setdefault(of[label.pk], label)
    new = {
        asset: Label(code=new_code(), anchor=anchor, number=number, made_by=name, made_at=now)
        for asset, (anchor, number) in first_documents([a for a in assets if a not in out]).items()
    }
    for label in (*out.values(), *new.values()):
        label.printed += 1
        label.printed_at = now
    Label.objects.bulk_update(out.values(), ["printed", "printed_at"], batch_size=500)
    Label.objects.bulk_create(new.values(), batch_size=500)
    return out | new
