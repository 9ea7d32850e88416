"""Who is signed in, organisations, holders, the audit trail and undo, over HTTP."""

from typing import Annotated, Any, Literal

from django.conf import settings
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Query, Router, Schema

from tarn.apps.people.actions.audit import open_entries
from tarn.apps.people.actions.organisations import make_organisation, organisations
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import Person
from tarn.apps.people.results import Entry, HolderOut, Me, OrganisationOut
from tarn.apps.people.roles import MAY, ROLES, lacks_factor, require, role_of
from tarn.apps.people.room import room
from tarn.apps.people.scope import scope_of, visible
from tarn.apps.people.speaking import choose_language, language_of

Role = Literal["viewer", "operator", "manager", "administrator"]

router = Router(tags=["people"])


class OrganisationIn(Schema):
    name: str


class LanguageIn(Schema):
    language: str


def _me(user: Any) -> dict[str, Any]:
    role = role_of(user)
    may = [a for a, needed in MAY.items() if ROLES.index(needed) <= ROLES.index(role)]
    return {
        "username": user.username,
        "full_name": user.get_full_name() or user.username,
        "role": role,
        "may": may,
        "limits": sorted(scope_of(user) or ()),
        "zone": settings.TIME_ZONE,
        "language": language_of(user),
        "factor_wanted": lacks_factor(user),
        "warning": "" if room().enough else room().words(),
    }


@router.get("/csrf", auth=None)
def csrf(request: HttpRequest) -> dict[str, str]:
    """Set the CSRF cookie; call it once before signing in."""
    return {"token": get_token(request)}


@router.get("/me", auth=None, response=Me | None)
def me(request: HttpRequest) -> dict[str, Any] | None:
    """Return who is signed in with a session and what they may do; null where nobody is."""
    return _me(request.user) if request.user.is_authenticated else None


@router.put("/me/language", response=Me)
def read_in(request: HttpRequest, data: LanguageIn) -> dict[str, Any]:
    """Say in which language one reads Tarn and its letters."""
    choose_language(request.user, data.language)
    return _me(request.user)


@router.get("/organisations", response=list[OrganisationOut])
def list_organisations(request: HttpRequest) -> Any:
    """Return the organisations one may see."""
    return organisations()


@router.post("/organisations", response=OrganisationOut)
def new_organisation(request: HttpRequest, data: OrganisationIn) -> Any:
    """Make an organisation. Its name stands with devices and is never changed."""
    return make_organisation(request.user, data.name)


@router.get("/holders", response=list[HolderOut])
def holders(request: HttpRequest, begins: str = "", limit: Annotated[int, Query(ge=1, le=500)] = 50) -> list[HolderOut]:
    """Return people of the company by the beginning of a name: who may hold devices, and who has left."""
    found = visible(Person).filter(name__istartswith=begins) if begins else visible(Person)
    return found[:limit]


@router.get("/audit", response=list[Entry])
def audit(
    request: HttpRequest, before: int | None = None, limit: Annotated[int, Query(ge=1, le=500)] = 100
) -> list[Entry]:
    """Return the audit trail, the newest first; `before` is the id to go on from."""
    require(request.user, "decide")
    entries = open_entries().order_by("-id")
    if before:
        entries = entries.filter(pk__lt=before)
    return [
        {
            "id": e.pk,
            "at": e.at,
            "who": e.who,
            "verb": e.verb,
            "thing": e.thing,
            "detail": e.detail,
            "can_undo": e.undo is not None and e.undone_by_id is None,
            "undone": e.undone_by_id is not None,
        }
        for e in entries[:limit]
    ]


@router.post("/audit/{entry_id}/undo", response={200: Entry})
def undo_entry(request: HttpRequest, entry_id: int) -> dict[str, Any]:
    """Undo what an entry records."""
    made = undo(request.user, entry_id)
    return {
        "id": made.pk,
        "at": made.at,
        "who": made.who,
        "verb": made.verb,
        "thing": made.thing,
        "detail": made.detail,
        "can_undo": made.undo is not None,
        "undone": False,
    }
