"""People's accounts and roles."""

from typing import Any

from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.roles import ROLES, require


def make_person(by: Any, username: str, password: str, role: str, full_name: str = "") -> Any:
    """Make an account with a role. `by` may be None on the command line, where the system's own user decides."""
    if by is not None:
        require(by, "people")
    if role not in ROLES:
        raise ValueError(f"“{role}” is no role; one of: {', '.join(ROLES)}.")
    first, _, last = full_name.partition(" ")
    with transaction.atomic():
        user = get_user_model().objects.create_user(username, password=password, first_name=first, last_name=last)
        user.groups.set([Group.objects.get_or_create(name=role)[0]])
        record(by, "made an account", username, detail={"role": role})
    return user
