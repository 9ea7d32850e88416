"""What every act on licences does: count the change, and keep how things stood so that it can be undone."""

from typing import Any

from django.core import serializers
from django.db.models import F

from tarn.apps.licences.models import Change, Licence, Pin
from tarn.apps.people.actions.rows import inverse, rows_undoer
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.scope import visible


def changed() -> None:
    """Note that something changed, so that positions are reckoned anew."""
    if not Change.objects.update(number=F("number") + 1):
        Change.objects.create(number=1)


HANGING = ("purchase_set", "key_set", "pin_set", "pastterms_set")
rows_undoer("licences", Licence, "plan", HANGING, changed)


def back_to(licence: Licence, *, made: bool = False) -> dict[str, Any]:
    """Return the inverse of an act on a licence: how it stands now, with its purchases, keys and pins."""
    return inverse("licences", licence, HANGING, made=made)


@undoer("licence pins", needs="decide")
def _unpin(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    """Take back what was said of products on devices, and say again what was taken back by it."""
    there = visible(Pin).filter(pk__in=inverse["drop"])
    back = {"action": "licence pins", "drop": [], "rows": serializers.serialize("json", there)}
    there.delete()
    for row in serializers.deserialize("json", inverse["rows"] or "[]"):
        row.save()
        back["drop"].append(row.object.pk)
    changed()
    return back
