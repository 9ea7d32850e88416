"""Whose things the person who asks may see: all organisations', or only those of some.

Who asks is noted with each request, so that no list, count, completion or error has to be told. What works in
the background asks in nobody's name and sees everything, unless it says `limited_to`.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any

from django.db.models import Q

from tarn.apps.people.roles import role_of

Scope = frozenset[str] | None
"""Names of organisations; None where a person is limited to none and sees all."""

_asking: ContextVar[Any] = ContextVar("asking", default=None)
_fixed: ContextVar[Scope] = ContextVar("fixed", default=None)


def asked_by(request: Any) -> Callable[[], None]:
    """Note the request whose person asks from here on; returns what forgets it again."""
    token = _asking.set(request)
    return lambda: _asking.reset(token)


def scope_of(user: Any) -> Scope:
    """Return the organisations a person is limited to."""
    if user is None or not getattr(user, "pk", None) or user.is_superuser:
        return None
    return frozenset(user.limit_set.values_list("organisation__name", flat=True)) or None


def scope() -> Scope:
    """Return the organisations whoever asks now is limited to."""
    if (fixed := _fixed.get()) is not None:
        return fixed
    request = _asking.get()
    if request is None:
        return None
    if not hasattr(request, "_scope") or request._scope[0] != request.user.pk:
        request._scope = (request.user.pk, scope_of(request.user))
    found: Scope = request._scope[1]
    return found


def asked_with(parameter: str) -> str:
    """Return a parameter of the request that is being answered; empty where there is none."""
    request = _asking.get()
    return "" if request is None else request.GET.get(parameter, "").strip()


@contextmanager
def limited_to(*organisations: str) -> Iterator[None]:
    """Ask for some organisations only while this lasts; with none named as before."""
    token = _fixed.set(frozenset(organisations) or _fixed.get())
    try:
        yield
    finally:
        _fixed.reset(token)


def visible(model: Any) -> Any:
    """Return the rows of a model that whoever asks may see, by the path to their organisation in `scope_path`.

    Of what people may keep for themselves (`maker_path`: its maker's name) nobody else sees it but administrators.
    """
    limited, rows = scope(), model.objects.all()
    if limited is not None:
        rows = rows.filter(**{f"{model.scope_path}__name__in": limited})
    if (path := getattr(model, "maker_path", None)) is not None and (asker := _asker()) is not None:
        rows = rows.exclude(Q(access="own") & ~Q(**{path: asker.username}))
    return rows


def _asker() -> Any | None:
    """Return the person who asks, where they are one who does not see everything anyway."""
    user = getattr(_asking.get(), "user", None)
    if user is None or not user.pk:
        return None
    return None if role_of(user) == "administrator" else user
