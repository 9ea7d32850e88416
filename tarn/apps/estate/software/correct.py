"""Correcting what listed names are taken for. It applies to the past as well: names are looked up, not copied."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.door.naming import Catalogue
from tarn.apps.estate.models import NamingRule
from tarn.apps.estate.software.inputs import CorrectionIn
from tarn.apps.estate.software.results import RenamedOut
from tarn.apps.estate.store.database import begin_generation, raw_connection
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import scope
from tarn.core.naming import ROLES
from tarn.core.patterns import pattern

FIELDS = ("name", "product", "publisher")
_SAYS = ("field", "match", "product", "publisher", "role", "note")


class _Rehearsed(Exception):
    """Carries a rehearsal's result out of the transaction that is rolled back."""


def _checked(data: CorrectionIn) -> dict[str, str]:
    checked = {k: str(getattr(data, k)).strip()[:300] for k in _SAYS}
    if checked["field"] not in FIELDS:
        raise Invalid("field", f"“{checked['field']}” is nothing to compare; {', '.join(FIELDS)} are.")
    match = checked["match"]
    if not match:
        raise Invalid("match", f"Say which {checked['field']} is meant.")
    if len(match) > 2 and match.startswith("/") and match.endswith("/"):
        try:
            pattern(match[1:-1])
        except ValueError as error:
            raise Invalid("match", f"The pattern cannot be used: {error}") from None
    if checked["role"] and checked["role"] not in ROLES:
        raise Invalid("role", f"“{checked['role']}” is no role; {', '.join(ROLES)} are.")
    if not (checked["product"] or checked["publisher"] or checked["role"]):
        raise Invalid("product", "Say what it is instead: the product, the publisher or the role.")
    return checked


def _may(user: Any) -> None:
    require(user, "plan")
    if scope() is not None:
        raise NotAllowed("Names are the same for all organisations; you are limited to some.")


def correct(user: Any, data: CorrectionIn) -> tuple[NamingRule, int]:
    """Add a correction; returns it and how many listed names it changed. Raises Invalid."""
    _may(user)
    checked = _checked(data)
    with transaction.atomic():
        made = NamingRule.objects.create(**checked, made_by=user.username, made_at=int(time.time()))
        changed = _put_all()
        record(
            user, "corrected the name of", checked["match"], detail=checked, undo={"action": "naming", "drop": made.pk}
        )
    return made, changed


def rehearse(user: Any, data: CorrectionIn) -> list[RenamedOut]:
    """Return what a correction would change, changing nothing: name, product before and after. Raises Invalid."""
    _may(user)
    checked = _checked(data)
    db = raw_connection()
    changed: list[RenamedOut] = []
    try:
        with transaction.atomic():
            before = _shown(db)
            NamingRule.objects.create(**checked, made_by=user.username, made_at=int(time.time()))
            Catalogue().put_all(db)
            after = _shown(db)
            changed = [
                {"name": name, "before": before[name], "after": now}
                for name, now in after.items()
                if before[name] != now
            ]
            raise _Rehearsed
    except _Rehearsed:
        return changed


def _shown(db: Any) -> dict[str, str]:
    rows = db.execute(
        "SELECT l.name, p.name, p.publisher, l.role FROM estate_listing l JOIN estate_product p ON p.id = l.product_id"
    )
    return {n: f"{product}{f', {publisher}' if publisher else ''} ({role})" for n, product, publisher, role in rows}


def drop_correction(user: Any, number: int) -> int:
    """Drop a correction; returns how many listed names changed back. Raises NamingRule.DoesNotExist."""
    _may(user)
    with transaction.atomic():
        naming_rule = NamingRule.objects.get(pk=number)
        kept = _kept(naming_rule)
        naming_rule.delete()
        changed = _put_all()
        record(user, "dropped a correction of", naming_rule.match, detail=kept, undo={"action": "naming", "make": kept})
    return changed


def _kept(held: NamingRule) -> dict[str, str]:
    """Return what a correction says, so that it can be made again."""
    return {f: getattr(held, f) for f in _SAYS}


def _put_all() -> int:
    """Put every listed name anew, and have other processes look again."""
    db = raw_connection()
    changed = Catalogue().put_all(db)
    begin_generation(db)
    return changed


@undoer("naming", needs="plan")
def _undo(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    if "drop" in inverse:
        naming_rule = NamingRule.objects.filter(pk=inverse["drop"]).first()
        if naming_rule is None:
            return inverse
        kept = _kept(naming_rule)
        naming_rule.delete()
        _put_all()
        return {"action": "naming", "make": kept}
    made = NamingRule.objects.create(**inverse["make"], made_by=user.username, made_at=int(time.time()))
    _put_all()
    return {"action": "naming", "drop": made.pk}
