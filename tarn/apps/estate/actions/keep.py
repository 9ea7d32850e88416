"""Keeping a filter as a set."""

import time
from typing import Any

from django.db import IntegrityError, transaction

from tarn.apps.estate.asking.ask import context
from tarn.apps.estate.models import KeptSet
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.core.filters.check import check
from tarn.core.filters.parse import parse
from tarn.core.filters.tree import to_text


class NameTaken(ValueError):
    """A set of that name is there already."""


def keep_set(user: Any, name: str, text: str) -> KeptSet:
    """Keep a filter under a name. Raises FilterError, NameTaken."""
    require(user, "keep")
    tree = parse(text)
    check(tree, context(None))
    try:
        with transaction.atomic():
            made = KeptSet.objects.create(
                name=name.strip(),
                filter=to_text(tree),
                organisation=owner(None),
                made_by=user,
                made_at=int(time.time()),
            )
            record(user, "kept a set", made.name, detail={"filter": made.filter})
    except IntegrityError:
        raise NameTaken(f"There is a set “{name.strip()}” already; choose another name.") from None
    return made


def drop_set(user: Any, set_id: int) -> None:
    """Drop a kept set. Raises KeptSet.DoesNotExist."""
    require(user, "keep")
    with transaction.atomic():
        kept = visible(KeptSet).get(pk=set_id)
        record(user, "dropped a set", kept.name, detail={"filter": kept.filter})
        kept.delete()
