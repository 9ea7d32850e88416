"""The people of the company, one row each, whatever number of systems know them."""

from dataclasses import dataclass, field

from django.contrib.auth import get_user_model

from tarn.apps.people.models import Person
from tarn.apps.people.scope import visible


@dataclass
class KnownPerson:
    """A person by name. `left_at`: since when all systems that know them say they have left; None: they are there."""

    name: str
    email: str = ""
    department: str = ""
    title: str = ""
    account: str = ""
    groups: list[str] = field(default_factory=list)
    sources: list[str] = field(default_factory=list)
    joined_at: int | None = None
    left_at: int | None = None


def roster(at: int | None = None) -> dict[str, KnownPerson]:
    """Return people by name, as they were known at a moment."""
    out: dict[str, KnownPerson] = {}
    there: set[str] = set()
    for p in visible(Person).order_by("name", "joined_at"):
        if at is not None and p.joined_at > at:
            continue
        known = out.setdefault(p.name, KnownPerson(p.name, joined_at=p.joined_at))
        for attribute in ("email", "department", "title", "account"):
            setattr(known, attribute, getattr(known, attribute) or getattr(p, attribute))
        known.groups = sorted({*known.groups, *p.groups})
        known.sources.append(p.source)
        left = p.left_at if at is None or (p.left_at or 0) <= at else None
        if left is None:
            there.add(p.name)
        known.left_at = max(known.left_at or 0, left or 0) or None
    for name in there:
        out[name].left_at = None
    return out


def addresses_of_role(role: str) -> list[str]:
    """Return the addresses of the accounts of Tarn that have a role."""
    users = get_user_model().objects.filter(groups__name=role, is_active=True).exclude(email="")
    return list(users.order_by("username").values_list("email", flat=True))
