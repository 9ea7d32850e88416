"""Tokens for scripts: made once and shown once, found by their digest, withdrawn."""

import hashlib
import secrets
import time
from typing import Any

from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.models import ApiToken


def digest(token: str) -> str:
    """Return what is kept of a token."""
    return hashlib.sha256(token.encode()).hexdigest()


def make_token(user: Any, name: str) -> tuple[ApiToken, str]:
    """Make a token for a person; its text is returned here and never again."""
    text = "tarn_" + secrets.token_urlsafe(32)
    with transaction.atomic():
        made = ApiToken.objects.create(name=name, digest=digest(text), user=user, made_at=int(time.time()))
        record(user, "made a token", name)
    return made, text


def withdraw_token(user: Any, token_id: int) -> None:
    """Withdraw one of a person's own tokens. Raises ApiToken.DoesNotExist."""
    with transaction.atomic():
        token = ApiToken.objects.get(pk=token_id, user=user, withdrawn_at=None)
        token.withdrawn_at = int(time.time())
        token.save(update_fields=["withdrawn_at"])
        record(user, "withdrew a token", token.name)


def holder(text: str) -> Any | None:
    """Return the person a token speaks for, or None; notes its use, to the minute."""
    token = ApiToken.objects.select_related("user").filter(digest=digest(text), withdrawn_at=None).first()
    if token is None or not token.user.is_active:
        return None
    now = int(time.time())
    if token.used_at is None or now - token.used_at > 60:
        ApiToken.objects.filter(pk=token.pk).update(used_at=now)
    return token.user
