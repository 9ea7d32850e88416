"""Who may see and change what a person keeps: sets and reports."""

from typing import Any

from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import NotAllowed, role_of

ACCESS = {
    "all": "everyone sees it, whoever may keep things may change it",
    "read": "everyone sees it, only its maker changes it",
    "own": "only its maker sees it and changes it",
}
"""What can be said of a kept thing. An administrator sees and changes all."""


def read_access(value: Any) -> str:
    """Return what is said of who may see and change a thing; `all` where nothing is. Raises Invalid."""
    access = str(value or "all")
    if access not in ACCESS:
        raise Invalid("access", f"“{access}” cannot be said here; {', '.join(ACCESS)} can.")
    return access


def require_change(user: Any, access: str, maker: str) -> None:
    """Raise NotAllowed where a thing is its maker's to change and somebody else's hand is on it."""
    if access != "all" and maker != user.username and role_of(user) != "administrator":
        raise NotAllowed(f"Only {maker or 'its maker'}, who made it, or an administrator may change this.")
