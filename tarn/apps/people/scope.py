"""Who asks: whose things they may see (all organisations', or only those of some) and which branch they stand in.

It is one value, made at the edge (of a request, or where a job does something for somebody) and read by every question,
so that no list, count, completion or error has to be told. What works in the background asks in nobody's name, sees
everything and stands nowhere, unless it is `asking_for` an organisation.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, replace
from typing import Any

from django.db.models import Q

from tarn.apps.people.roles import role_of

Scope = frozenset[str] | None
"""Names of organisations; None where a person is limited to none and sees all."""


@dataclass(frozen=True)
class Asker:
    """Who asks, and from where."""

    organisations: Scope = None
    standing_in: str = ""
    """The branch as the caller gave it, such as `place:NAME`; empty for everywhere."""
    person: Any = None

    def everywhere(self) -> "Asker":
        """Return the same asker standing in no branch: rules mean the same wherever the person stands who runs them."""
        return replace(self, standing_in="")

    def limited(self, organisations: Scope) -> "Asker":
        """Return the same asker limited to some organisations; to none more where there are none."""
        return replace(self, organisations=organisations or self.organisations)


NOBODY = Asker()

_asker: ContextVar[Callable[[], Asker]] = ContextVar("asker", default=lambda: NOBODY)


def asked_by(request: Any) -> Callable[[], None]:
    """Note the request whose person asks from here on (None: nobody); returns what forgets it again.

    The person is looked up when first something is asked: most files and pages ask nothing.
    """
    token = _asker.set((lambda: NOBODY) if request is None else (lambda: _of_request(request)))
    return lambda: _asker.reset(token)


def _of_request(request: Any) -> Asker:
    kept: Asker | None = getattr(request, "_asker", None)
    # Signing in exchanges the person in mid-request.
    if kept is None or kept.person.pk != request.user.pk:
        kept = Asker(scope_of(request.user), request.GET.get("standing_in", "").strip(), request.user)
        request._asker = kept
    return kept


def asker() -> Asker:
    """Return who asks now."""
    return _asker.get()()


def scope_of(user: Any) -> Scope:
    """Return the organisations a person is limited to."""
    if user is None or not getattr(user, "pk", None) or user.is_superuser:
        return None
    return frozenset(user.limit_set.values_list("organisation__name", flat=True)) or None


def scope() -> Scope:
    """Return the organisations whoever asks now is limited to."""
    return asker().organisations


@contextmanager
def asking_as(who: Asker) -> Iterator[None]:
    """Ask as somebody while this lasts."""
    token = _asker.set(lambda: who)
    try:
        yield
    finally:
        _asker.reset(token)


def limited_to(organisations: Scope) -> Any:
    """Ask for some organisations only while this lasts; with None as before."""
    return asking_as(asker().limited(organisations))


def asking_for(organisation: Any | None) -> Any:
    """Ask for the organisation something belongs to while this lasts; as before where it is the whole company's."""
    return limited_to(None if organisation is None else frozenset({organisation.name}))


def visible(model: Any, who: Asker | None = None) -> Any:
    """Return the rows of a model that whoever asks may see, by the path to their organisation in `scope_path`.

    Of what people may keep for themselves (`maker_path`: its maker's name) nobody else sees it but administrators.
    """
    who, rows = who or asker(), model.objects.all()
    if who.organisations is not None:
        rows = rows.filter(**{f"{model.scope_path}__name__in": who.organisations})
    if (path := getattr(model, "maker_path", None)) is not None and not _sees_everything(who.person):
        rows = rows.exclude(Q(access="own") & ~Q(**{path: who.person.username}))
    return rows


def _sees_everything(person: Any | None) -> bool:
    return person is None or not person.pk or role_of(person) == "administrator"
