"""Tokens for scripts: made once and shown once, found by their digest, bounded in what they reach and how long."""

import hashlib
import secrets
import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.models import ApiToken

SCOPES = {
    "read": "reads, and changes nothing",
    "evidence": "hands in sightings, and nothing else",
    "all": "all that its person may",
}
LONGEST = 366
"""Days a token lasts at the most."""


def digest(token: str) -> str:
    """Return what is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def make_token(user: Any, name: str, scope: str = "all", days: int = 90) -> tuple[ApiToken, str]:
    """Make a token for a person; its text is returned here and never again. Raises Invalid."""
    if not name.strip():
        raise Invalid("name", "A token needs a name, so that it can be told from others.")
    if scope not in SCOPES:
        raise Invalid("scope", f"“{scope}” is nothing a token can reach; {', '.join(SCOPES)} are.")
    if not 1 <= days <= LONGEST:
        raise Invalid("days", f"A token lasts 1 to {LONGEST} days, not {days}.")
    text, now = "tarn_" + secrets.token_urlsafe(32), int(time.time())
    with transaction.atomic():
        made = ApiToken.objects.create(
            name=name.strip()[:80],
            digest=digest(text),
            user=user,
            scope=scope,
            made_at=now,
            expires_at=now + days * 86_400,
        )
        record(user, "made a token", made.name, detail={"reaches": scope, "days": days})
    return made, text


def withdraw_token(user: Any, token_id: int) -> None:
    """Withdraw one of a person's own tokens. Raises ApiToken.DoesNotExist."""
    with transaction.atomic():
        token = ApiToken.objects.get(pk=token_id, user=user, withdrawn_at=None)
        end_token(token)
        record(user, "withdrew a token", token.name)


def end_token(token: ApiToken) -> None:
    """Let a token be taken no more."""
    token.withdrawn_at = int(time.time())
    token.save(update_fields=["withdrawn_at"])


def bearer(text: str) -> ApiToken | None:
    """Return the token a text is, with its person, or None where none is taken; notes its use to the minute."""
    token = ApiToken.objects.select_related("user").filter(digest=digest(text), withdrawn_at=None).first()
    now = int(time.time())
    if token is None or not token.user.is_active or (token.expires_at is not None and token.expires_at <= now):
        return None
    if token.used_at is None or now - token.used_at > 60:
        ApiToken.objects.filter(pk=token.pk).update(used_at=now)
    return token
