"""Writing handbooks: begun, kept from version to version, dropped."""

import time
from typing import Any

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from tarn.apps.estate.asking.dial import zone
from tarn.apps.handbooks.inputs import HandbookIn, HandbookNew
from tarn.apps.handbooks.issuing import with_parts
from tarn.apps.handbooks.models import Draft, Handbook
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.rows import inverse, rows_undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sealing import seal
from tarn.apps.people.speaking import reading
from tarn.apps.reports.calling import check_call, is_call
from tarn.core.handbooks.document import HandbookError, check
from tarn.core.handbooks.shipped import HANDBOOKS, begun_in
from tarn.core.schedule import ScheduleError, next_after
from tarn.core.signing import new_secret

_UNDO = "put a handbook back"
rows_undoer(_UNDO, Handbook, "keep", ("drafts", "issues"))
_TAKEN = "A handbook of this name is there already."
MOST_DRAFTS = 200


def begin(user: Any, data: HandbookNew) -> Handbook:
    """Begin a handbook. Raises Invalid."""
    require(user, "keep")
    name = _named(data.name)
    text = ""
    if data.copy_of is not None:
        held = visible(Handbook).filter(pk=data.copy_of).first()
        if held is None:
            raise Invalid("copy_of", f"There is no handbook {data.copy_of} to copy.")
        document = held.document
    elif data.template:
        if data.template not in HANDBOOKS:
            raise Invalid("template", f"No handbook “{data.template}” ships; {', '.join(HANDBOOKS)} do.")
        begun = begun_in(HANDBOOKS[data.template], reading())
        document, text = begun.document, begun.text
    else:
        document = {"type": "doc", "content": [{"type": "paragraph"}]}
    now = int(time.time())
    with once("name", _TAKEN):
        made = Handbook.objects.create(
            name=name, text=text, document=document, made_by=user.username, made_at=now,
            organisation=owner(data.organisation), formats=["pdf"],
        )  # fmt: skip
        _kept(made, user.username, now)
        record(user, "began a handbook", name, undo=inverse(_UNDO, made, made=True))
    return made


def _named(said: str) -> str:
    name = " ".join(said.split())
    if not name:
        raise Invalid("name", "A handbook needs a name.")
    return name


def _kept(held: Handbook, who: str, now: int) -> None:
    Draft.objects.create(handbook=held, version=held.version, document=held.document, made_by=who, made_at=now)
    old = held.drafts.order_by("-version")[MOST_DRAFTS:].values_list("pk", flat=True)
    Draft.objects.filter(pk__in=list(old)).delete()


def keep(user: Any, number: int, data: HandbookIn) -> str:
    """Keep a handbook anew, from the version it was read at; return the secret its calls are signed with where it calls
    for the first time: it is shown then and never again. Raises Invalid, Stale, Handbook.DoesNotExist.
    """
    require(user, "keep")
    name = _named(data.name)
    try:
        document = check(data.document)
    except HandbookError as fault:
        raise Invalid("document", str(fault)) from None
    now = int(time.time())
    try:
        next_at = next_after(data.rule, now, str(zone())) if data.rule.strip() else None
    except ScheduleError as fault:
        raise Invalid("rule", str(fault)) from None
    for to in data.to:
        if is_call(to):
            check_call(to)
            continue
        try:
            validate_email(to)
        except ValidationError:
            raise Invalid("to", f"“{to}” is no address of mail.") from None
    if data.to and not data.formats:
        raise Invalid("formats", "Say in which format it is sent.")
    with once("name", _TAKEN):
        held: Handbook = visible(Handbook).select_for_update().get(pk=number)
        now_told = {"version": held.version, "document": held.document}
        require_version(held, data.version, f"“{held.name}”", now_told)
        with_parts(document, (held.pk,))
        back = inverse(_UNDO, held)
        held.name, held.text, held.document, held.place = name, data.text.strip(), document, data.place.strip()
        held.rule, held.next_at, held.trouble = data.rule.strip(), next_at, ""
        secret = _sealed(user, held, data.to)
        held.to, held.formats, held.approved = data.to, list(data.formats), data.approved
        held.version += 1
        held.save()
        _kept(held, user.username, now)
        record(user, "changed a handbook", name, undo=back)
    return secret


def _sealed(user: Any, held: Handbook, to: list[str]) -> str:
    """Give a handbook that is to call on the web its secret where it has none. Who lets Tarn speak to a system it did
    not speak to needs the right to deal in credentials.
    """
    calls = {one for one in to if is_call(one)}
    if not calls:
        held.sealed = None
        return ""
    if calls - set(held.to):
        require(user, "credentials")
    if held.sealed is not None:
        return ""
    secret = new_secret()
    held.sealed = seal({"secret": secret})
    return secret


def drop_handbook(user: Any, number: int) -> None:
    """Drop a handbook with its issues; the audit trail can bring them back. Raises Handbook.DoesNotExist."""
    require(user, "keep")
    held = visible(Handbook).get(pk=number)
    with transaction.atomic():
        back = inverse(_UNDO, held, ("drafts", "issues"))
        name = held.name
        held.delete()
        record(user, "dropped a handbook", name, undo=back)
