"""Undo for what is kept in rows: how a thing and what hangs on it stood is kept as text, and brought back."""

from collections.abc import Callable, Sequence
from typing import Any

from django.core import serializers

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
