"""Undo for what is kept in rows: how a thing and what hangs on it stood is kept as text, and brought back."""

from collections.abc import Callable, Sequence
from typing import Any

from django.core import serializers
from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import require_version
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.scope import visible


def kept(thing: Any, hanging: Sequence[str] = ()) -> str:
    """Return a row, and the rows that refer to it under these names, as text."""
    rows = [thing, *(row for name in hanging for row in getattr(thing, name).all())]
    return str(serializers.serialize("json", rows))


def inverse(action: str, thing: Any, hanging: Sequence[str] = (), *, made: bool = False) -> dict[str, Any]:
    """Return the inverse of an act on a thing: bring it back as it is now, or away where the act has made it."""
    return {"action": action, "number": thing.pk, "rows": None if made else kept(thing, hanging)}


def rows_undoer(
    action: str, model: Any, needs: str, hanging: Sequence[str] = (), after: Callable[[], None] = lambda: None
) -> None:
    """Register an undo that brings a row of `model` back with what hung on it; `after` is called then."""

    @undoer(action, needs=needs)
    def _undo(user: Any, kept_: dict[str, Any]) -> dict[str, Any]:
        now = visible(model).filter(pk=kept_["number"]).first()
        back = {"action": action, "number": kept_["number"], "rows": kept(now, hanging) if now else None}
        version = now.version if now is not None else 0
        if now is not None:
            now.delete()
        for row in serializers.deserialize("json", kept_["rows"] or "[]"):
            if isinstance(row.object, model):
                row.object.version = max(version, row.object.version) + 1
            row.save()
        after()
        return back


def edit(user: Any, model: Any, number: int, made_from: int, values: dict[str, Any], action: str, verb: str) -> Any:
    """Change a row from the version an edit was made from, with its inverse under `action` in the audit trail.

    Called inside a transaction. Raises Stale, and the model's DoesNotExist.
    """
    held = visible(model).get(pk=number)
    require_version(held, made_from, f"“{held.name}”", {"name": held.name, "version": held.version})
    back = inverse(action, held)
    for name, value in values.items():
        setattr(held, name, value)
    held.version += 1
    held.save()
    record(user, verb, held.name, undo=back)
    return held


def drop(user: Any, model: Any, number: int, action: str, verb: str) -> None:
    """Drop a row, with its inverse under `action` in the audit trail. Raises the model's DoesNotExist."""
    with transaction.atomic():
        held = visible(model).get(pk=number)
        back = inverse(action, held)
        held.delete()
        record(user, verb, held.name, undo=back)
