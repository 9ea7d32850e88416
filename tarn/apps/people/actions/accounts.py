"""People's accounts and roles: made, switched off, removed, their sessions ended, their passwords set anew."""

from typing import Any

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from django.contrib.auth import get_user_model
from django.contrib.auth.models import Group
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.tokens import end_token
from tarn.apps.people.models import ApiToken
from tarn.apps.people.roles import ROLES, require, role_of
from tarn.apps.people.throttle import let_in


def make_person(by: Any, username: str, password: str | None, role: str, full_name: str = "", email: str = "") -> Any:
    """Make an account with a role. `by` may be None on the command line, where the system's own user decides.

    `password`: None for one that signs in elsewhere, by the directory or the company's provider.
    """
    if by is not None:
        require(by, "people")
    if role not in ROLES:
        raise ValueError(f"“{role}” is no role; one of: {', '.join(ROLES)}.")
    first, _, last = full_name.partition(" ")
    with transaction.atomic():
        user = get_user_model().objects.create_user(
            username, email=email, password=password, first_name=first, last_name=last
        )
        user.groups.set([Group.objects.get_or_create(name=role)[0]])
        record(by, "made an account", username, detail={"role": role})
    return user


def checked_name(text: str) -> str:
    """Return a name to sign in by. Raises Invalid."""
    name = text.strip()
    if not name or len(name) > 150 or not name.isprintable():
        raise Invalid("username", "An account needs a name to sign in by, of 1 to 150 characters on one line.")
    return name


def check_password(password: str, user: Any = None) -> None:
    """Raise Invalid for a password that is too short, too common or too like the account it is for."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise Invalid("password", " ".join(error.messages)) from None


def set_password(by: Any, number: int, password: str) -> None:
    """Set another person's password; their sessions end. Raises Invalid, User.DoesNotExist."""
    require(by, "people")
    with transaction.atomic():
        user = get_user_model().objects.get(pk=number)
        check_password(password, user)
        user.set_password(password)
        user.save(update_fields=["password"])
        let_in(user.get_username())
        end_sessions(user)
        record(by, "set the password of", user.get_username())


def switch(by: Any, number: int, *, on: bool) -> None:
    """Switch an account off, or on again; sessions of one that is off end, its tokens are taken nowhere.

    Raises Invalid, User.DoesNotExist.
    """
    require(by, "people")
    with transaction.atomic():
        user = get_user_model().objects.get(pk=number)
        if not on:
            _may_go(by, user, "off")
            end_sessions(user)
        user.is_active = on
        user.save(update_fields=["is_active"])
        record(by, "switched on" if on else "switched off", user.get_username())


def remove(by: Any, number: int) -> None:
    """Remove an account. What its person did stays in the audit trail. Raises Invalid, User.DoesNotExist."""
    require(by, "people")
    with transaction.atomic():
        user = get_user_model().objects.get(pk=number)
        _may_go(by, user, "gone")
        end_sessions(user)
        record(by, "removed the account", user.get_username(), detail={"role": role_of(user)})
        user.delete()


def sign_out_everywhere(by: Any, number: int) -> int:
    """End a person's sessions; return how many there were. Raises User.DoesNotExist."""
    require(by, "people")
    with transaction.atomic():
        user = get_user_model().objects.get(pk=number)
        ended = end_sessions(user)
        record(by, "signed out everywhere", user.get_username(), detail={"sessions": ended})
    return ended


def end_session(by: Any, number: int, session: int) -> None:
    """End one session of a person. Raises User.DoesNotExist, UserSession.DoesNotExist."""
    require(by, "people")
    user = get_user_model().objects.get(pk=number)
    UserSession.objects.get(pk=session, user=user).end()
    record(by, "ended a session of", user.get_username())


def end_sessions(user: Any) -> int:
    """End a person's sessions; return how many there were."""
    sessions = list(UserSession.objects.filter(user=user))
    for one in sessions:
        one.end()
    return len(sessions)


def forget_factors(by: Any, number: int) -> None:
    """Take away the second factors of someone who has lost theirs. Raises User.DoesNotExist."""
    require(by, "people")
    with transaction.atomic():
        user = get_user_model().objects.get(pk=number)
        gone, _ = Authenticator.objects.filter(user=user).delete()
        end_sessions(user)
        record(by, "took away the second factors of", user.get_username(), detail={"factors": gone})


def _may_go(by: Any, held: Any, how: str) -> None:
    if held.pk == by.pk:
        raise Invalid("person", f"You would be {how} yourself; ask another administrator.")
    others = get_user_model().objects.filter(is_active=True).exclude(pk=held.pk)
    if role_of(held) == "administrator" and not any(role_of(u) == "administrator" for u in others):
        raise Invalid("person", "This is the last administrator; give another person that role first.")


def withdraw_token_of(by: Any, number: int, token: int) -> None:
    """Withdraw another person's token. Raises ApiToken.DoesNotExist."""
    require(by, "people")
    with transaction.atomic():
        api_token = ApiToken.objects.select_related("user").get(pk=token, user=number, withdrawn_at=None)
        end_token(api_token)
        record(by, "withdrew a token of", api_token.user.get_username(), detail={"token": api_token.name})
