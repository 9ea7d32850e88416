"""Writing the audit trail. Called inside the transaction of the action it records."""

import logging
import time
from typing import Any

from django.db import transaction

from tarn.apps.people.models import AuditEntry, Limit
from tarn.apps.people.scope import scope

log = logging.getLogger("tarn.audit")


def record(
    user: Any, verb: str, thing: str, *, detail: dict[str, Any] | None = None, undo: dict[str, Any] | None = None
) -> AuditEntry:
    """Add an entry, and once it is kept say it in the log, which leads out of the database (ASVS 5.0, 16.4.3).

    `undo`, if the action has an inverse, is {"action": …, and its arguments}.
    """
    who = user.username if user is not None else "Tarn"
    transaction.on_commit(lambda: log.info("%s %s “%s”", who, verb, thing[:300]))
    return AuditEntry.objects.create(
        at=int(time.time()),
        user=user if user is not None and user.pk else None,
        who=who,
        verb=verb,
        thing=thing[:300],
        detail=detail or {},
        undo=undo,
    )


def open_entries() -> Any:
    """Return the entries whoever asks may read: of a limited person, those of people limited as they are, or more."""
    limited = scope()
    if limited is None:
        return AuditEntry.objects.all()
    beyond = Limit.objects.exclude(organisation__name__in=limited).values("user")
    return AuditEntry.objects.filter(user__limit__organisation__name__in=limited).exclude(user__in=beyond).distinct()
