"""Putting aside what wants a hand, and taking it up again. What a person sees is theirs alone."""

import time
from datetime import UTC, datetime
from datetime import time as clock
from typing import Any

from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.today.inputs import AsideIn
from tarn.apps.today.models import Aside
from tarn.apps.today.wanted import wanted

MOST_THINGS = 20_000
"""Things of a line that “done” is held against."""


def put_aside(person: Any, data: AsideIn) -> None:
    """Put a line aside. Raises Invalid."""
    now = int(time.time())
    try:
        found = wanted(person, data.key)
    except KeyError:
        raise Invalid("key", f"“{data.key}” is nothing that wants a hand of you.") from None
    until = None
    if data.how == "until":
        if data.until is None:
            raise Invalid("until", "Say from which day on it is to be shown again.")
        until = int(datetime.combine(data.until, clock(), UTC).timestamp())
        if until <= now:
            raise Invalid("until", f"{data.until.isoformat()} is not to come any more.")
    things = list(found.things[:MOST_THINGS]) if data.how == "done" else []
    Aside.objects.update_or_create(
        person=person, key=data.key, defaults={"how": data.how, "until": until, "things": things, "made_at": now}
    )


def take_up(person: Any, key: str) -> None:
    """Show a line again. Raises KeyError where it is not put aside."""
    gone, _ = Aside.objects.filter(person=person, key=key).delete()
    if not gone:
        raise KeyError(key)
