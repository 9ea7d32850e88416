"""Putting places, departments and people under each other."""

from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.branches import trees
from tarn.apps.estate.branches.inputs import PlacedIn
from tarn.apps.estate.models import Branch, Term
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import scope
from tarn.core.branches import Circle, put_under
from tarn.core.text import fold


def _checked(data: PlacedIn) -> tuple[str, str, str]:
    field = data.field
    name, under = (" ".join(part.split())[:300] for part in (data.name, data.under))
    if not name:
        raise Invalid("name", f"Say which {field}.")
    return field, name, under


def _spelt(field: str, name: str) -> str:
    """Return a name as evidence or the tree spell it already: two spellings would be two branches to the eye."""
    known = trees()[field]
    terms = Term.objects.filter(field=field, folded=fold(name)).values_list("text", flat=True)
    return next((n for n in [*terms, *known, *known.values()] if fold(n) == fold(name)), name)


def _put(field: str, name: str, under: str) -> dict[str, Any]:
    """Write where a name lies and return what puts it back; `out` takes it from the tree."""
    branch = Branch.objects.filter(field=field, name=name).first()
    before = {
        "action": "branches",
        "field": field,
        "name": name,
        "under": branch.under if branch else "",
        "out": not branch,
    }
    Branch.objects.update_or_create(field=field, name=name, defaults={"under": under})
    return before


def _may(user: Any) -> None:
    require(user, "plan")
    if scope() is not None:
        raise NotAllowed("The tree is the same for all organisations; you are limited to some.")


def place(user: Any, data: PlacedIn) -> None:
    """Put a place, department or person under another, or at the top where `under` is empty. Raises Invalid."""
    _may(user)
    field, name, under = _checked(data)
    with transaction.atomic():
        name, under = _spelt(field, name), _spelt(field, under)
        if under:
            try:
                put_under(trees()[field], name, under)
            except Circle as error:
                raise Invalid("under", str(error)) from None
        inverse = _put(field, name, under)
        record(user, f"put a {field} in its place", name, detail={"under": under}, undo=inverse)


def take_out(user: Any, field: str, name: str) -> None:
    """Take a name out of its tree. Raises Branch.DoesNotExist, and Invalid where something lies under it."""
    _may(user)
    with transaction.atomic():
        if below := sorted(c for c, parent in trees().get(field, {}).items() if fold(parent) == fold(name)):
            raise Invalid("name", f"{len(below)} still lie under “{name}”: {', '.join(below[:4])}.")
        branch = Branch.objects.get(field=field, name=name)
        inverse = {"action": "branches", "field": field, "name": name, "under": branch.under, "out": False}
        branch.delete()
        record(user, f"took a {field} out of its tree", name, detail={"under": branch.under}, undo=inverse)


@undoer("branches", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    field, name = inverse["field"], inverse["name"]
    if not inverse["out"]:
        return _put(field, name, inverse["under"])
    branch = Branch.objects.get(field=field, name=name)
    branch.delete()
    return {**inverse, "under": branch.under, "out": False}
