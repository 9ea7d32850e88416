"""What rests on a set or a phrase: whoever keeps filters says here which."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from tarn.apps.estate.models import KeptSet
from tarn.apps.people.scope import visible
from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.walk import fields_in, phrases_in, sets_in


@dataclass(frozen=True)
class Kept:
    """A filter somebody keeps: what it is of, its name, where it is found, and its text."""

    what: str
    name: str
    where: str
    text: str


Keeper = Callable[[], Iterable[Kept]]
_keepers: list[Keeper] = []


def keeps_filters(keeper: Keeper) -> None:
    """Register what lists the filters an app keeps."""
    if keeper not in _keepers:
        _keepers.append(keeper)


def _all() -> Iterable[Kept]:
    for kept_set in visible(KeptSet).order_by("name"):
        yield Kept("set", kept_set.name, f"/sets/{kept_set.pk}", kept_set.filter)
    for keeper in _keepers:
        yield from keeper()


def uses_of(*, set_name: str = "", phrase: str = "", field: str = "") -> list[Kept]:
    """Return what speaks of a set, a phrase or a field by name."""
    out = []
    for kept in _all():
        try:
            tree = parse(kept.text)
        except FilterError:
            continue  # a filter that can no longer be read says so where it is kept
        named = (set_name, sets_in), (phrase, phrases_in), (field, fields_in)
        if any(name and name in found(tree) for name, found in named):
            out.append(kept)
    return out
