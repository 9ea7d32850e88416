"""Accounts, the first one, and tokens over HTTP: thin; parse, call, shape."""

from collections import Counter
from typing import Annotated, Any, Literal

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.conf import settings
from django.contrib.auth import get_user_model
from django.http import HttpRequest
from ninja import Query, Router, Schema, Status

from tarn.apps.people.actions import accounts, first, tokens
from tarn.apps.people.actions.organisations import set_rights
from tarn.apps.people.actions.refusals import once
from tarn.apps.people.answers import or_404
from tarn.apps.people.models import ApiToken, FailedSignIn
from tarn.apps.people.results import AccountOut, FailureOut, FirstOut, PersonOut, TokenFacts, TokenOut
from tarn.apps.people.roles import role_of

Role = Literal["viewer", "operator", "manager", "administrator"]
router = Router(tags=["accounts"])
User = get_user_model()


class PersonIn(Schema):
    username: str
    full_name: str = ""
    email: str = ""
    password: str = ""
    elsewhere: bool = False
    role: Role = "viewer"
    limits: list[int] = []


class RightsIn(Schema):
    role: Role
    limits: list[int] = []


class TokenIn(Schema):
    name: str
    scope: str = "all"
    days: int = 90


class PasswordIn(Schema):
    password: str


class SwitchIn(Schema):
    on: bool


class FirstIn(Schema):
    code: str
    username: str
    password: str
    full_name: str = ""


def _rows(users: Any) -> list[PersonOut]:
    """Return accounts as they are listed, in a fixed number of statements."""
    users = list(users.prefetch_related("groups", "limit_set"))
    ids = [u.pk for u in users]
    factors: dict[int, list[str]] = {}
    for user, kind in Authenticator.objects.filter(user__in=ids).values_list("user", "type"):
        factors.setdefault(user, []).append(kind)
    sessions = Counter(UserSession.objects.filter(user__in=ids).values_list("user", flat=True))
    counter = Counter(ApiToken.objects.filter(user__in=ids, withdrawn_at=None).values_list("user", flat=True))
    return [
        {
            "id": u.pk,
            "username": u.get_username(),
            "full_name": u.get_full_name(),
            "email": u.email,
            "role": role_of(u),
            "limits": [limit.organisation_id for limit in u.limit_set.all()],
            "active": u.is_active,
            "elsewhere": not u.has_usable_password(),
            "factors": sorted(set(factors.get(u.pk, []))),
            "sessions": sessions[u.pk],
            "tokens": counter[u.pk],
            "last_sign_in": int(u.last_login.timestamp()) if u.last_login else None,
        }
        for u in users
    ]


def _person(number: int) -> PersonOut:
    return _rows(User.objects.filter(pk=number))[0]


@router.get("/people", response=list[PersonOut])
def people(request: HttpRequest) -> list[PersonOut]:
    """Return the accounts, with their roles and what they are limited to."""
    return _rows(User.objects.order_by("username"))


@router.get("/people/{number}", response=AccountOut)
def account(request: HttpRequest, number: int) -> AccountOut:
    """Return one account with its sessions, its tokens and the sign-ins that failed under its name."""
    user = or_404(User, lambda n: User.objects.get(pk=n), number, "account")
    failures = FailedSignIn.objects.filter(name__iexact=user.get_username()).order_by("-at")[:50]
    return {
        **_person(user.pk),
        "held_sessions": [
            {
                "id": s.pk,
                "address": s.ip,
                "agent": s.user_agent,
                "began_at": int(s.created_at.timestamp()),
                "seen_at": int(s.last_seen_at.timestamp()),
            }
            for s in UserSession.objects.filter(user=user).order_by("-last_seen_at")
        ],
        "held_tokens": [_token(t) for t in ApiToken.objects.filter(user=user, withdrawn_at=None).order_by("-id")],
        "failures": [{"at": int(f.at), "name": f.name, "address": f.address} for f in failures],
    }


@router.post("/people", response=PersonOut)
def new_person(request: HttpRequest, data: PersonIn) -> PersonOut:
    """Make an account; one that signs in `elsewhere` has no password here."""
    name = accounts.checked_name(data.username)
    if not data.elsewhere:
        accounts.check_password(data.password, User(username=name, email=data.email))
    with once("username", f"There is an account {name} already."):
        password = None if data.elsewhere else data.password
        made = accounts.make_person(request.user, name, password, data.role, data.full_name, data.email)
        set_rights(request.user, made.pk, data.role, data.limits)
    return _person(made.pk)


@router.put("/people/{number}", response=PersonOut)
def rights(request: HttpRequest, number: int, data: RightsIn) -> PersonOut:
    """Give a person a role, and limit them to organisations."""
    held = or_404(User, lambda n: set_rights(request.user, n, data.role, data.limits), number, "account")
    return _person(held.pk)


@router.delete("/people/{number}", response={204: None})
def end_account(request: HttpRequest, number: int) -> Status[None]:
    """Remove an account. This cannot be undone; what its person did stays in the audit trail."""
    or_404(User, lambda n: accounts.remove(request.user, n), number, "account")
    return Status(204, None)


@router.post("/people/{number}/switch", response=PersonOut)
def switch(request: HttpRequest, number: int, data: SwitchIn) -> PersonOut:
    """Switch an account off, which ends its sessions, or on again."""
    or_404(User, lambda n: accounts.switch(request.user, n, on=data.on), number, "account")
    return _person(number)


@router.post("/people/{number}/password", response={204: None})
def give_password(request: HttpRequest, number: int, data: PasswordIn) -> Status[None]:
    """Set a person's password; their sessions end."""
    or_404(User, lambda n: accounts.set_password(request.user, n, data.password), number, "account")
    return Status(204, None)


@router.post("/people/{number}/sign-out", response={204: None})
def sign_out_everywhere(request: HttpRequest, number: int) -> Status[None]:
    """End all sessions of a person."""
    or_404(User, lambda n: accounts.sign_out_everywhere(request.user, n), number, "account")
    return Status(204, None)


@router.delete("/people/{number}/factors", response={204: None})
def forget_factors(request: HttpRequest, number: int) -> Status[None]:
    """Take away the second factors of a person who has lost theirs; their sessions end."""
    or_404(User, lambda n: accounts.forget_factors(request.user, n), number, "account")
    return Status(204, None)


@router.delete("/people/{number}/sessions/{session}", response={204: None})
def end_session(request: HttpRequest, number: int, session: int) -> Status[None]:
    """End one session of a person."""
    or_404(User, lambda n: User.objects.only("pk").get(pk=n), number, "account")
    or_404(UserSession, lambda s: accounts.end_session(request.user, number, s), session, "session")
    return Status(204, None)


@router.delete("/people/{number}/tokens/{token}", response={204: None})
def end_token_of(request: HttpRequest, number: int, token: int) -> Status[None]:
    """Withdraw a token of a person."""
    or_404(ApiToken, lambda t: accounts.withdraw_token_of(request.user, number, t), token, "token")
    return Status(204, None)


@router.get("/failed-sign-ins", response=list[FailureOut])
def failed_sign_ins(request: HttpRequest, limit: Annotated[int, Query(ge=1, le=500)] = 100) -> list[FailureOut]:
    """Return the sign-ins that failed in the last month, the latest first, with the name typed and the address."""
    failures = FailedSignIn.objects.order_by("-at")[:limit]
    return [{"at": int(f.at), "name": f.name, "address": f.address} for f in failures]


@router.get("/tokens", response=list[TokenFacts])
def own_tokens(request: HttpRequest) -> list[TokenFacts]:
    """Return one's own tokens."""
    api_tokens = ApiToken.objects.filter(user__username=request.user.get_username(), withdrawn_at=None)
    return [_token(t) for t in api_tokens.order_by("-id")]


def _token(held: ApiToken) -> TokenFacts:
    return {
        "id": held.pk,
        "name": held.name,
        "scope": held.scope,
        "made_at": held.made_at,
        "expires_at": held.expires_at,
        "used_at": held.used_at,
    }


@router.post("/tokens", response=TokenOut)
def new_token(request: HttpRequest, data: TokenIn) -> TokenOut:
    """Make a token; this answer is the only time it is shown."""
    made, text = tokens.make_token(request.user, data.name, data.scope, data.days)
    return {**_token(made), "token": text}


@router.delete("/tokens/{token_id}", response={204: None})
def end_own_token(request: HttpRequest, token_id: int) -> Status[None]:
    """Withdraw one of one's own tokens."""
    or_404(ApiToken, lambda t: tokens.withdraw_token(request.user, t), token_id, "token")
    return Status(204, None)


@router.get("/first", auth=None, response=FirstOut)
def first_needed(request: HttpRequest) -> FirstOut:
    """Say whether the first account is still to be made, and which ways of signing in there are."""
    providers: dict[str, Any] = settings.SOCIALACCOUNT_PROVIDERS
    apps = providers["openid_connect"]["APPS"]
    return {
        "needed": first.needed(),
        "provider": apps[0]["name"] if apps else "",
        "directory": bool(settings.TARN_DIRECTORY_URL),
    }


@router.post("/first", auth=None, response={204: None})
def make_first(request: HttpRequest, data: FirstIn) -> Status[None]:
    """Make the first administrator, with the code that the server's own files hold."""
    first.make_first(data.code, data.username, data.password, data.full_name)
    return Status(204, None)
