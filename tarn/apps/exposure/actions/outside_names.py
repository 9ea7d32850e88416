"""Saying what a product is called outside, and taking that back: its statuses are found anew, of the past as well."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.deriving import derive_things
from tarn.apps.exposure.ground import changed
from tarn.apps.exposure.inputs import OutsideNameIn
from tarn.apps.exposure.models import OutsideName, StatementRow
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.exposure.cpe import OutsideNameError, read_cpe
from tarn.core.exposure.outside import cpe_subject, purl_subject, read_purl

LONGEST = 400


def name_outside(user: Any, data: OutsideNameIn) -> OutsideName:
    """Say what a product is called outside, or that nobody knows it; one thing or the other. Raises Invalid."""
    require(user, "decide")
    if not _numbers(things.product_and_maker(data.product, data.maker)):
        raise Invalid("product", f"No such product is or was here: “{data.product[:100]}” of “{data.maker[:100]}”.")
    return _name(user, data.product, data.maker, _key(data.name.strip()))


def _name(user: Any, product: str, maker: str, key: str) -> OutsideName:
    wanted = things.product_and_maker(product, maker)
    with transaction.atomic():
        for other in _of(wanted):
            if other.key == key:
                raise Invalid("name", f"That is said of “{product}” already.")
            if not other.key or not key:
                # "Nobody knows it" and a name shut each other out: the later word stands.
                other.delete()
        made = OutsideName.objects.create(
            product=product, maker=maker, key=key, made_by=user.username, made_at=int(time.time())
        )
        _find_anew(wanted)
        record(
            user,
            "named outside",
            str(made),
            detail={"maker": maker},
            undo={"action": "name outside", "name": made.pk},
        )
    return made


def drop_name(user: Any, number: int) -> None:
    """Take a name back. Raises OutsideName.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        held = OutsideName.objects.get(pk=number)
        record(user, "dropped a name outside", str(held), undo=_drop(held))


def _drop(held: OutsideName) -> dict[str, Any]:
    kept = {"product": held.product, "maker": held.maker, "name": held.key}
    held.delete()
    _find_anew(things.product_and_maker(held.product, held.maker))
    return {"action": "name outside again", **kept}


def _key(text: str) -> str:
    """Return the key of a name as people write it. Raises Invalid."""
    if len(text) > LONGEST:
        raise Invalid("name", f"A name outside has {LONGEST} letters at the most.")
    try:
        if text.startswith("cpe:"):
            return cpe_subject(read_cpe(text)).key
        if text.startswith("pkg:"):
            return purl_subject(read_purl(text)).key
    except OutsideNameError as wrong:
        raise Invalid("name", str(wrong)) from None
    if text and not StatementRow.objects.filter(key=text).exists():
        raise Invalid("name", "Give a CPE 2.3 name (cpe:2.3:a:maker:product:…), a package URL (pkg:…) or a proposal.")
    return text


def _of(wanted: tuple[str, str]) -> list[OutsideName]:
    return [n for n in OutsideName.objects.all() if things.product_and_maker(n.product, n.maker) == wanted]


def _numbers(wanted: tuple[str, str]) -> list[int]:
    rows = things.everything().items()
    return [number for number, row in rows if things.product_and_maker(row.product, row.maker) == wanted]


def _find_anew(wanted: tuple[str, str]) -> None:
    derive_things(_numbers(wanted))
    changed(raw_connection())


@undoer("name outside", "decide")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    return _drop(OutsideName.objects.get(pk=inverse["name"]))


@undoer("name outside again", "decide")
def _again(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    return {"action": "name outside", "name": _name(user, inverse["product"], inverse["maker"], inverse["name"]).pk}
