"""Organisations: made, chosen for what is made, and people limited to some."""

import time
from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.db import IntegrityError, transaction
from django.db.models import QuerySet

from tarn.apps.people.actions.audit import record
from tarn.apps.people.models import Limit, Organisation
from tarn.apps.people.roles import ROLES, require
from tarn.apps.people.scope import scope


class Unowned(ValueError):
    """An organisation that does not exist, or that has to be chosen; `field` names where."""

    def __init__(self, message: str, field: str = "organisation") -> None:
        super().__init__(message)
        self.field = field


def organisations() -> QuerySet[Organisation]:
    """Return the organisations whoever asks may see."""
    limited = scope()
    rows = Organisation.objects.all()
    return rows if limited is None else rows.filter(name__in=limited)


def owner(given: int | None) -> Organisation | None:
    """Return the organisation something new is made for; None: it is for all.

    A person limited to one makes everything for that one. Raises Unowned.
    """
    known = organisations()
    if given is not None:
        organisation: Organisation | None = known.filter(pk=given).first()
        if organisation is None:
            raise Unowned(f"There is no organisation {given}.")
        return organisation
    if scope() is None:
        return None
    mine = list(known)
    if len(mine) == 1:
        return mine[0]
    raise Unowned("Choose the organisation this is made for.")


def checked_name(name: str) -> str:
    """Return an organisation's name as it may be given to a device. Raises Unowned."""
    if not organisations().filter(name=name).exists():
        raise Unowned(f"There is no organisation “{name}”.")
    return name


def make_organisation(user: Any, name: str) -> Organisation:
    """Make an organisation. Raises Unowned."""
    if user is not None:
        require(user, "people")
    name = name.strip()[:120]
    if not name:
        raise Unowned("An organisation needs a name: it stands with every device, and is never changed.", "name")
    try:
        with transaction.atomic():
            made = Organisation.objects.create(name=name, made_at=int(time.time()))
            record(user, "made an organisation", made.name)
    except IntegrityError:
        raise Unowned(f"There is an organisation “{name}” already.", "name") from None
    return made


def set_rights(user: Any, person: int, role: str, limits: list[int]) -> Any:
    """Give a person a role, and limit them to some organisations (none: to no one in particular).

    An administrator sees all, so none can be limited. Raises Unowned, and User.DoesNotExist.
    """
    if user is not None:
        require(user, "people")
    if role not in ROLES:
        raise Unowned(f"“{role}” is no role; one of: {', '.join(ROLES)}.", "role")
    known = list(Organisation.objects.filter(pk__in=limits))
    if missing := set(limits) - {o.pk for o in known}:
        raise Unowned(f"There is no organisation {min(missing)}.", "limits")
    if known and role == "administrator":
        raise Unowned("An administrator sees everything; give another role to limit this person.", "limits")
    with transaction.atomic():
        held = get_user_model().objects.get(pk=person)
        if user is not None and held.pk == user.pk and role != "administrator":
            raise Unowned("You would take your own rights away; ask another administrator.", "role")
        held.groups.set([Group.objects.get_or_create(name=role)[0]])
        held.limit_set.all().delete()
        Limit.objects.bulk_create([Limit(user=held, organisation=o) for o in known])
        record(user, "set the rights of", held.username, detail={"role": role, "limits": [o.name for o in known]})
    return held
