"""Taking in what was bought: assets by serial number, each with what was paid, by which order, and its warranty."""

import json
import time
import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import checked_facts, decide
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import asker
from tarn.core.mapping import build
from tarn.core.sections import Acquisition, Identity
from tarn.core.sightings import compose, make_reading


def acquire(
    user: Any,
    serials: list[str],
    told: dict[str, str],
    acquisition: dict[str, Any],
    decided: dict[str, Any],
    at: int | None = None,
) -> list[int]:
    """Take in assets by their serial numbers; return them in that order.

    `told`: manufacturer and model; `acquisition`: facts of that section; `decided`: kind, place and the like of those
    that are new. One that a sweep has found before keeps what is decided of it. `at`: the moment since when they are
    there (none: now); when it was said is kept with the evidence. Raises Invalid.
    """
    require(user, "plan")
    facts = checked_facts({"standing": "register", "state": "in stock", **decided})
    whose = owner(None)
    if whose is not None:
        facts.setdefault("organisation", whose.name)
    now = datetime.fromtimestamp(at or int(time.time()), UTC)
    sightings = []
    for serial in serials:
        readings, faults = build({"serial": serial, **told}, {}, "hand")
        if faults:
            raise Invalid("serials", f"{serial}: {faults[0]}")
        readings.append(make_reading("acquisition", acquisition, "hand"))
        sightings.append(compose(("hand", user.username), now, readings, id=uuid.uuid4().hex))
    with transaction.atomic():
        registered = ids(question("", None, asker().everywhere()))
        taken = list(take_in(sightings))
        for serial, one in zip(serials, taken, strict=True):
            if one.asset is None:
                raise Invalid("serials", f"{serial} tells no device from others: {'; '.join(one.reasons)}.")
        assets = [int(one.asset) for one in taken if one.asset is not None]
        if fresh := [a for a in assets if a not in registered]:
            decide(user, fresh, facts, "entered", at)
    return assets


def type_acquisition(who: str, asset: int, number: str, facts: dict[str, Any]) -> dict[str, Any]:
    """Hand in a person's word on how an asset was acquired; return what their word was before.

    Who may is asked by the act that this is a part of; its transaction is the caller's.
    """
    rows = raw_connection().execute(
        "SELECT f.field, f.value FROM estate_fieldspan f JOIN estate_source o ON o.id = f.source_id "
        "WHERE f.asset_id = ? AND f.section = 'acquisition' AND f.valid_to IS NULL AND o.kind = 'hand' AND o.name = ?",
        [asset, who],
    )
    before = {field: json.loads(value) for field, value in rows}
    now = datetime.fromtimestamp(int(time.time()), UTC)
    readings = [
        make_reading("identity", Identity(tarn=number), "hand", complete=False),
        make_reading("acquisition", Acquisition(**{k: v for k, v in facts.items() if v is not None}), "hand"),
    ]
    list(take_in([compose(("hand", who), now, readings, id=uuid.uuid4().hex)]))
    return before
