"""People of the company: taken in from other systems, with the time they came and the time they left."""

from collections.abc import Iterable

from tarn.apps.people.models import Organisation, Person
from tarn.core.people import Person as Told


def take_in_people(
    source: str, told: Iterable[Told], *, sync: int, at: int, organisation: Organisation | None
) -> dict[str, int]:
    """Note what a source tells of people, inside the caller's transaction; returns how many are new, changed, left."""
    counts = {"people": 0, "joined": 0, "left": 0}
    held = {p.key: p for p in Person.objects.filter(source=source, organisation=organisation)}
    for one in told:
        counts["people"] += 1
        before = held.get(one.key)
        person = before or Person(source=source, key=one.key, joined_at=at)
        person.name, person.email = one.name, one.email
        person.department, person.title, person.groups = one.department, one.title, list(one.groups)
        person.account = one.account.lower()
        person.organisation, person.last_sync = organisation, sync
        counts["joined"] += before is None
        counts["left"] += _leaves(person, at, active=one.active)
        person.save()
    return counts


def _leaves(person: Person, at: int, *, active: bool) -> bool:
    leaving = not active and person.left_at is None
    person.left_at = None if active else person.left_at or at
    return leaving


def missing_people(source: str, *, sync: int, organisation: Organisation | None) -> tuple[int, int]:
    """Return how many a whole sync no longer told of, and of how many that were there."""
    persons = Person.objects.filter(source=source, organisation=organisation, left_at=None)
    return persons.filter(last_sync__lt=sync).count(), persons.count()


def gone_people(source: str, *, sync: int, at: int, organisation: Organisation | None) -> int:
    """Note that those a whole sync no longer told of have left; returns how many."""
    persons = Person.objects.filter(source=source, organisation=organisation, left_at=None)
    return persons.filter(last_sync__lt=sync).update(left_at=at)


def departments() -> dict[str, str]:
    """Return by name the department of those who are there."""
    there = Person.objects.filter(left_at=None).exclude(department="").order_by("joined_at")
    return dict(there.values_list("name", "department"))


def names_by_account() -> dict[str, str]:
    """Return people's names by the account they sign in by; an account of two people is nobody's."""
    out: dict[str, str] = {}
    twice: set[str] = set()
    there = Person.objects.filter(left_at=None).exclude(account="").order_by("joined_at")
    for account, name in there.values_list("account", "name"):
        twice |= {account} if out.setdefault(account, name) != name else set()
    return {account: name for account, name in out.items() if account not in twice}
