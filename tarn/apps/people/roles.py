"""Roles, from least to most. Each may do what those before it may."""

from typing import Any

from django.conf import settings

ROLES = ("viewer", "operator", "manager", "administrator")

MAY = {
    "look": "viewer",
    "keep": "operator",
    "sweep": "operator",
    "decide": "operator",
    "plan": "manager",
    "credentials": "manager",
    "tasks": "manager",
    "scripts": "administrator",
    "statements": "administrator",
    "people": "administrator",
    "upkeep": "administrator",
}
"""What each kind of action needs at least."""


class NotAllowed(PermissionError):
    """The person's role does not reach; the message says which would."""


def role_of(user: Any) -> str:
    """Return a person's role: the highest of their groups; a superuser is administrator."""
    if user.is_superuser:
        return "administrator"
    held = {group.name for group in user.groups.all()}
    return next((r for r in reversed(ROLES) if r in held), "viewer")


def lacks_factor(user: Any) -> bool:
    """Whether a person still has to add a second factor, because their role asks for one.

    Who signs in elsewhere, by the directory or the company's provider, is asked there.
    """
    from allauth.mfa.models import Authenticator  # models are there only once all apps are loaded

    wanted = settings.TARN_SECOND_FACTOR
    if wanted not in ROLES or ROLES.index(role_of(user)) < ROLES.index(wanted) or not user.has_usable_password():
        return False
    return not Authenticator.objects.filter(user=user, type__in=("totp", "webauthn")).exists()


def may(user: Any, action: str) -> bool:
    """Whether the person may do that kind of action."""
    return ROLES.index(role_of(user)) >= ROLES.index(MAY[action])


def require(user: Any, action: str) -> None:
    """Raise NotAllowed unless the person may do that kind of action."""
    if not may(user, action):
        raise NotAllowed(f"This needs the role {MAY[action]}; {user.username} is {role_of(user)}.")
