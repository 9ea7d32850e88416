"""Taking a position away: the signed bundle for an auditor."""

from datetime import UTC, datetime
from typing import Any

from django.conf import settings

from tarn.apps.licences.reads.position_inputs import given
from tarn.apps.licences.reads.reckoning import basis_of
from tarn.apps.people.actions.audit import record
from tarn.apps.people.roles import require
from tarn.core.licensing.bundle import make_bundle
from tarn.core.signed_archive import key_of


def take_away(user: Any, at: int | None) -> tuple[str, bytes]:
    """Return name and bytes of the bundle of a position as of a moment; that it was taken is noted."""
    require(user, "plan")
    basis = basis_of(given(at))
    made_at = datetime.now(UTC).replace(microsecond=0).isoformat()
    content = make_bundle(basis, user.username, made_at, key_of(settings.TARN_SECRETS_KEY))
    record(user, "took away a position", basis.day.isoformat(), detail={"bytes": len(content)})
    return f"position-{basis.day.isoformat()}.zip", content
