"""One undo for every action that has an inverse."""

from collections.abc import Callable
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import open_entries, record
from tarn.apps.people.models import AuditEntry

Undoer = Callable[[Any, dict[str, Any]], dict[str, Any] | None]
_undoers: dict[str, tuple[str, Undoer]] = {}


class CannotUndo(ValueError):
    """The entry has no inverse, or it has been carried out already."""


def undoer(name: str, needs: str) -> Callable[[Undoer], Undoer]:
    """Register the function that carries out inverses named `name`; it returns the inverse of the inverse."""

    def keep(function: Undoer) -> Undoer:
        _undoers[name] = (needs, function)
        return function

    return keep


def undo(user: Any, entry_id: int) -> AuditEntry:
    """Carry out an entry's inverse. Raises CannotUndo, NotAllowed."""
    from tarn.apps.people.roles import require

    with transaction.atomic():
        entry = open_entries().filter(pk=entry_id).first()
        if entry is None:
            raise CannotUndo(f"There is no entry {entry_id} in the audit trail.")
        if entry.undo is None:
            raise CannotUndo("This cannot be undone.")
        if entry.undone_by_id:
            raise CannotUndo("This has been undone already.")
        needs, function = _undoers[entry.undo["action"]]
        require(user, needs)
        inverse = function(user, entry.undo)
        made = record(user, "undid", entry.thing, detail={"undoes": entry.pk, "verb": entry.verb}, undo=inverse)
        entry.undone_by = made
        entry.save(update_fields=["undone_by"])
        return made
