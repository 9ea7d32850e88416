"""Sign-in, tokens, the audit trail and undo, over HTTP."""

from typing import Any, Literal

from django.contrib.auth import authenticate, get_user_model, login, logout
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Query, Router, Schema, Status
from ninja.errors import HttpError

from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.actions.audit import open_entries, record
from tarn.apps.people.actions.organisations import Unowned, make_organisation, organisations, set_rights
from tarn.apps.people.actions.tokens import make_token, withdraw_token
from tarn.apps.people.actions.undo import undo
from tarn.apps.people.models import ApiToken, Person
from tarn.apps.people.roles import MAY, ROLES, require, role_of
from tarn.apps.people.scope import scope_of, visible

Role = Literal["viewer", "operator", "manager", "administrator"]

router = Router(tags=["people"])


class SignIn(Schema):
    username: str
    password: str


class Me(Schema):
    username: str
    full_name: str
    role: str
    may: list[str]
    limits: list[str]


class OrganisationIn(Schema):
    name: str


class OrganisationOut(Schema):
    id: int
    name: str


class PersonIn(Schema):
    username: str
    full_name: str = ""
    password: str
    role: Role = "viewer"
    limits: list[int] = []


class HolderOut(Schema):
    name: str
    email: str
    department: str
    title: str
    source: str
    joined_at: int
    left_at: int | None


class RightsIn(Schema):
    role: Role
    limits: list[int] = []


class PersonOut(Schema):
    id: int
    username: str
    full_name: str
    role: str
    limits: list[int]


class TokenName(Schema):
    name: str


class Token(Schema):
    id: int
    name: str
    made_at: int
    used_at: int | None
    token: str | None = None


class Entry(Schema):
    id: int
    at: int
    who: str
    verb: str
    thing: str
    detail: dict[str, Any]
    can_undo: bool
    undone: bool


def _me(user: Any) -> dict[str, Any]:
    role = role_of(user)
    may = [a for a, needed in MAY.items() if ROLES.index(needed) <= ROLES.index(role)]
    return {
        "username": user.username,
        "full_name": user.get_full_name() or user.username,
        "role": role,
        "may": may,
        "limits": sorted(scope_of(user) or ()),
    }


@router.get("/csrf", auth=None)
def csrf(request: HttpRequest) -> dict[str, str]:
    """Set the CSRF cookie; call it once before signing in."""
    return {"token": get_token(request)}


@router.post("/sign-in", auth=None, response=Me)
def sign_in(request: HttpRequest, data: SignIn) -> dict[str, Any]:
    """Sign in with a session cookie. Five refusals lock the account for this address for a quarter of an hour."""
    user = authenticate(request, username=data.username, password=data.password)
    if user is None:
        if getattr(request, "axes_locked_out", False):
            raise HttpError(429, "Too many failed sign-ins. Wait a quarter of an hour, then try again.")
        raise HttpError(401, "The name or the password is not right.")
    login(request, user)
    record(user, "signed in", user.username)
    return _me(user)


@router.post("/sign-out", response={204: None})
def sign_out(request: HttpRequest) -> Status[None]:
    """End the session."""
    logout(request)
    return Status(204, None)


@router.get("/me", auth=None, response=Me | None)
def me(request: HttpRequest) -> dict[str, Any] | None:
    """Return who is signed in with a session and what they may do; null where nobody is."""
    return _me(request.user) if request.user.is_authenticated else None


@router.get("/organisations", response=list[OrganisationOut])
def list_organisations(request: HttpRequest) -> Any:
    """Return the organisations one may see."""
    return organisations()


@router.post("/organisations", response=OrganisationOut)
def new_organisation(request: HttpRequest, data: OrganisationIn) -> Any:
    """Make an organisation. Its name stands with devices and is never changed."""
    return make_organisation(request.user, data.name)


def _person(user: Any) -> dict[str, Any]:
    return {
        "id": user.pk,
        "username": user.username,
        "full_name": user.get_full_name(),
        "role": role_of(user),
        "limits": list(user.limit_set.values_list("organisation", flat=True)),
    }


@router.get("/people", response=list[PersonOut])
def people(request: HttpRequest) -> Any:
    """Return the accounts, with their roles and what they are limited to."""
    require(request.user, "people")
    return [_person(u) for u in get_user_model().objects.order_by("username")]


@router.post("/people", response=PersonOut)
def new_person(request: HttpRequest, data: PersonIn) -> Any:
    """Make an account."""
    require(request.user, "people")
    try:
        validate_password(data.password)
        with transaction.atomic():
            made = make_person(request.user, data.username.strip(), data.password, data.role, data.full_name)
            return _person(set_rights(request.user, made.pk, data.role, data.limits))
    except ValidationError as error:
        raise Unowned(" ".join(error.messages), "password") from None
    except IntegrityError:
        raise Unowned(f"There is an account {data.username} already.", "username") from None


@router.get("/holders", response=list[HolderOut])
def holders(request: HttpRequest, begins: str = "", limit: int = Query(50, ge=1, le=500)) -> Any:
    """Return people of the company by the beginning of a name: who may hold devices, and who has left."""
    found = visible(Person).filter(name__istartswith=begins) if begins else visible(Person)
    return found[:limit]


@router.put("/people/{number}", response=PersonOut)
def rights(request: HttpRequest, number: int, data: RightsIn) -> Any:
    """Give a person a role, and limit them to organisations."""
    try:
        return _person(set_rights(request.user, number, data.role, data.limits))
    except get_user_model().DoesNotExist:
        raise HttpError(404, f"There is no account {number}.") from None


@router.get("/tokens", response=list[Token])
def tokens(request: HttpRequest) -> Any:
    """Return one's own tokens."""
    return ApiToken.objects.filter(user=request.user, withdrawn_at=None).order_by("-id")


@router.post("/tokens", response=Token)
def new_token(request: HttpRequest, data: TokenName) -> dict[str, Any]:
    """Make a token; this answer is the only time it is shown."""
    if not data.name.strip():
        raise HttpError(422, "A token needs a name, so that it can be told from others.")
    made, text = make_token(request.user, data.name.strip())
    return {"id": made.pk, "name": made.name, "made_at": made.made_at, "used_at": None, "token": text}


@router.delete("/tokens/{token_id}", response={204: None})
def end_token(request: HttpRequest, token_id: int) -> Status[None]:
    """Withdraw one of one's own tokens."""
    try:
        withdraw_token(request.user, token_id)
    except ApiToken.DoesNotExist:
        raise HttpError(404, f"You have no token {token_id}.") from None
    return Status(204, None)


@router.get("/audit", response=list[Entry])
def audit(
    request: HttpRequest, before: int | None = None, limit: int = Query(100, ge=1, le=500)
) -> list[dict[str, Any]]:
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
