"""Refusals every action may give: an input that cannot stand, a name that is taken, an edit that came too late."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.db import IntegrityError, transaction


class Invalid(ValueError):
    """An input that cannot stand; `field` names it."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@contextmanager
def once(field: str, message: str) -> Iterator[None]:
    """Do something in one transaction; what must be there only once and is there already is Invalid, as said."""
    try:
        with transaction.atomic():
            yield
    except IntegrityError:
        raise Invalid(field, message) from None


class Stale(ValueError):
    """An edit made from an older version than the one held; `now` is how it stands."""

    def __init__(self, what: str, now: dict[str, Any]) -> None:
        super().__init__(f"{what} was changed by someone else since you opened it. Nothing was saved.")
        self.now = now


def require_version(held: Any, made_from: int | None, what: str, now: dict[str, Any]) -> None:
    """Raise Stale where an edit was made from another version than the one held."""
    if held.version != made_from:
        raise Stale(what, now)
