"""Entering an asset by hand: a peer of what is discovered, which becomes one with it when a sweep sees it."""

import time
import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from tarn.apps.estate.custom.fields import fields, kinds
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import checked_facts, decide
from tarn.apps.people.actions.organisations import checked_name, owner
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.core.mapping import IDENTIFYING, build
from tarn.core.own import fields_of
from tarn.core.sections import OWN
from tarn.core.sightings import compose

TOLD = ("name", "serial", "manufacturer", "model", "mac", "uuid", "address")
"""What an asset entered by hand may be told by, beside what people decide of it."""


def enter(user: Any, data: dict[str, Any]) -> int:
    """Enter an asset; return it. Where its identifiers are known already it is that asset that is spoken of.

    `data`: of TOLD, with kind, person, department, place, state, note and `own:NAME`. Raises Invalid.
    """
    require(user, "decide")
    told = {k: str(data[k]).strip() for k in TOLD if str(data.get(k) or "").strip()}
    if not told.keys() & set(IDENTIFYING):
        raise Invalid("name", "Give it a name, a serial number or a hardware address to tell it from others.")
    kind = str(data.get("kind") or "")
    if not kind:
        raise Invalid("kind", "Say what kind of thing it is.")
    decided = checked_facts({k: v for k, v in data.items() if k not in TOLD and v not in (None, "")})
    for field in fields_of(kind, fields(), kinds()):
        if field.required and decided.get(f"{OWN}{field.name}") is None:
            raise Invalid(f"{OWN}{field.name}", f"{field.name} is needed of every {kind}.")
    readings, faults = build(told, {}, "hand")
    if faults:
        raise Invalid(faults[0].target, str(faults[0]))
    whose = owner(None)
    if whose is not None:
        decided.setdefault("organisation", whose.name)
    if decided.get("organisation"):
        checked_name(decided["organisation"])
    now = datetime.fromtimestamp(int(time.time()), UTC)
    with transaction.atomic():
        try:
            sighting = compose(("hand", user.username), now, readings, id=uuid.uuid4().hex)
        except ValidationError as error:
            raise Invalid("name", error.errors()[0]["msg"]) from None
        taken = next(iter(take_in([sighting])))
        if taken.asset is None:
            raise Invalid("name", f"It is not clear which device this is: {'; '.join(taken.reasons)}.")
        decide(user, [taken.asset], {"standing": "register", **decided}, "entered")
    return int(taken.asset)
