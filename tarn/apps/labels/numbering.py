"""The company's own numbers: schemes by kind, and giving devices the next number of theirs."""

import json
import time
import uuid
from datetime import UTC, datetime
from typing import Any

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.labels.inputs import SchemeIn
from tarn.apps.labels.models import NumberScheme
from tarn.apps.labels.results import SchemeOut
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.actions.rows import drop, edit, inverse, rows_undoer
from tarn.apps.people.roles import require
from tarn.core.fields import FIELDS
from tarn.core.numbering import Scheme, SchemeError, checked_scheme
from tarn.core.sections import Identity
from tarn.core.sightings import compose, make_reading

_UNDO = "put a numbering scheme back"
rows_undoer(_UNDO, NumberScheme, "plan")
_TAKEN = "A numbering scheme of this name is there already."


def schemes() -> list[SchemeOut]:
    """Return the schemes, each with the number it would give next."""
    return [
        {
            "id": s.pk,
            "name": s.name,
            "kinds": s.kinds,
            "prefix": s.prefix,
            "digits": s.digits,
            "check": s.check_kind,
            "next": s.next,
            "example": _example(s),
            "version": s.version,
        }
        for s in NumberScheme.objects.all()
    ]


def _scheme(held: NumberScheme) -> Scheme:
    return checked_scheme(held.prefix, held.digits, held.check_kind)


def _example(held: NumberScheme) -> str:
    try:
        return _scheme(held).number(held.next)
    except SchemeError:
        return ""


def _checked(data: SchemeIn, number: int | None) -> dict[str, Any]:
    name = " ".join(data.name.split())
    if not name:
        raise Invalid("name", "A scheme needs a name.")
    try:
        checked_scheme(data.prefix, data.digits, data.check).number(data.next)
    except SchemeError as fault:
        raise Invalid(fault.field, str(fault)) from None
    if unknown := next((k for k in data.kinds if k not in FIELDS["kind"].choices), None):
        raise Invalid("kinds", f"“{unknown}” is no kind.")
    for other in NumberScheme.objects.exclude(pk=number or 0):
        if twice := set(data.kinds) & set(other.kinds):
            raise Invalid("kinds", f"“{min(twice)}” is numbered by “{other.name}” already.")
        if not data.kinds and not other.kinds:
            raise Invalid("kinds", f"“{other.name}” is for all other kinds already.")
    return {
        "name": name, "kinds": data.kinds, "prefix": data.prefix, "digits": data.digits, "check_kind": data.check,
        "next": data.next,
    }  # fmt: skip


def make_scheme(user: Any, data: SchemeIn) -> None:
    """Make a scheme. Raises Invalid."""
    require(user, "plan")
    values = _checked(data, None)
    with once("name", _TAKEN):
        made = NumberScheme.objects.create(**values, made_by=user.username, made_at=int(time.time()))
        record(user, "made a numbering scheme", made.name, undo=inverse(_UNDO, made, made=True))


def change_scheme(user: Any, number: int, data: SchemeIn) -> None:
    """Change a scheme, from the version it was read at. Raises Invalid, Stale, NumberScheme.DoesNotExist."""
    require(user, "plan")
    values = _checked(data, number)
    with once("name", _TAKEN):
        edit(user, NumberScheme, number, data.version or 0, values, _UNDO, "changed a numbering scheme")


def drop_scheme(user: Any, number: int) -> None:
    """Drop a scheme; numbers it gave stay. Raises NumberScheme.DoesNotExist."""
    require(user, "plan")
    drop(user, NumberScheme, number, _UNDO, "dropped a numbering scheme")


def give(user: Any, plates: dict[int, dict[str, Any]]) -> dict[int, str]:
    """Give devices that have no company number the next one of their kind's scheme; return what was given.

    `plates`: by asset its `number`, `kind` and `own_number`. Called inside a transaction. Raises Invalid.
    """
    held = list(NumberScheme.objects.select_for_update())
    by_kind = {kind: s for s in held for kind in s.kinds}
    rest = next((s for s in held if not s.kinds), None)
    taken = _taken()
    given: dict[int, str] = {}
    for asset, plate in plates.items():
        scheme = by_kind.get(plate["kind"] or "", rest)
        if plate["own_number"] or scheme is None:
            continue
        try:
            rule = _scheme(scheme)
            while (number := rule.number(scheme.next)).upper() in taken:
                scheme.next += 1
        except SchemeError as fault:
            raise Invalid("give_numbers", f"“{scheme.name}”: {fault}") from None
        scheme.next += 1
        taken.add(number.upper())
        given[asset] = number
    now = datetime.fromtimestamp(int(time.time()), UTC)
    said = [
        compose(
            ("hand", user.username if user is not None else "the command line"),
            now,
            [make_reading("identity", Identity(tarn=plates[asset]["number"], own_number=n), "hand", complete=False)],
            id=uuid.uuid4().hex,
        )
        for asset, n in given.items()
    ]
    for _ in take_in(said):
        pass
    for scheme in held:
        scheme.save(update_fields=["next"])
    if given:
        record(user, "gave company numbers to", f"{len(given)} devices", detail={"numbers": list(given.values())[:50]})
    return given


def _taken() -> set[str]:
    """Return the company numbers that any device has or had."""
    rows = raw_connection().execute("SELECT DISTINCT value FROM estate_fieldspan WHERE field = 'own_number'")
    return {str(json.loads(value)).upper() for (value,) in rows if value}
