"""Calendar feeds: an address whose holder reads what ends when, as its maker sees it."""

import secrets
import time
from typing import Any

from django.db import transaction

from tarn.apps.lifecycle.models import Feed
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.tokens import digest


def make_feed(user: Any) -> str:
    """Make a feed in place of the person's former one; return its secret, of which only the SHA-256 is kept."""
    token = secrets.token_urlsafe(24)
    with transaction.atomic():
        Feed.objects.filter(user=user).delete()
        Feed.objects.create(digest=digest(token), user=user, made_at=int(time.time()))
        record(user, "made a calendar feed", user.username)
    return token


def feed_of(token: str) -> Any | None:
    """Return whose feed a secret opens; None where it opens none."""
    feed = Feed.objects.select_related("user").filter(digest=digest(token), user__is_active=True).first()
    return feed.user if feed else None
