"""What every act on licences does: count the change, and keep how things stood so that it can be undone."""

from typing import Any

from django.core import serializers
from django.db.models import F

from tarn.apps.licences.models import Change, Licence, Pin
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.scope import visible


def changed() -> None:
    """Note that something changed, so that positions are reckoned anew."""
    if not Change.objects.update(number=F("number") + 1):
        Change.objects.create(number=1)


def kept(licence: Licence) -> str:
    """Return a licence with its purchases, keys and pins as text that `licences` undoes to."""
    rows = [licence, *licence.purchase_set.all(), *licence.key_set.all(), *licence.pin_set.all()]
    return str(serializers.serialize("json", rows))


@undoer("licences", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    """Bring a licence back to how it was kept, or away where it was not there."""
    now = visible(Licence).filter(pk=inverse["number"]).first()
    back = {"action": "licences", "number": inverse["number"], "rows": kept(now) if now else None}
    if now is not None:
        version = now.version
        now.delete()
    else:
        version = 0
    for row in serializers.deserialize("json", inverse["rows"] or "[]"):
        if isinstance(row.object, Licence):
            row.object.version = max(version, row.object.version) + 1
        row.save()
    changed()
    return back


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
