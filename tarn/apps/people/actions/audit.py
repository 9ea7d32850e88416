"""Writing the audit trail. Called inside the transaction of the action it records."""

import time
from typing import Any

from tarn.apps.people.models import AuditEntry


def record(
    user: Any, verb: str, thing: str, *, detail: dict[str, Any] | None = None, undo: dict[str, Any] | None = None
) -> AuditEntry:
    """Add an entry. `undo`, if the action has an inverse, is {"action": …, and its arguments}."""
    return AuditEntry.objects.create(
        at=int(time.time()),
        user=user if user is not None and user.pk else None,
        who=user.username if user is not None else "Tarn",
        verb=verb,
        thing=thing[:300],
        detail=detail or {},
        undo=undo,
    )
