"""What filters ask of services: `serves[…]`, the services a device is a member of."""

from collections import Counter
from collections.abc import Callable, Mapping

from tarn.apps.people.scope import visible
from tarn.apps.services.kept.members import members
from tarn.apps.services.models import Service
from tarn.core.filters.check import Checked, Cond, Either, Every, Without
from tarn.core.filters.plain import compares, holds


def numbers(at: int | None, inner: Checked | None) -> dict[int, int]:
    """Return how many memberships for which a condition holds each asset has, those with any."""
    out: Counter[int] = Counter()
    for service in visible(Service).select_related("organisation"):
        of_all = {"name": service.name, "owner": service.owner, "importance": service.importance}
        if inner is not None and not _may(inner, of_all):
            continue
        for part, held in members(service, at).parts.items():
            if inner is None or holds(inner, _comparing({**of_all, "part": part})):
                out.update(held.keys())
    return dict(out)


def _comparing(row: Mapping[str, str]) -> Callable[[Cond], bool]:
    return lambda cond: compares(cond, row[cond.field.name])


def _may(checked: Checked, row: Mapping[str, str]) -> bool:
    """Whether a condition may hold of some part of a service: only such services are reckoned."""
    match checked:
        case Every(items):
            return all(_may(i, row) for i in items)
        case Either(items):
            return any(_may(i, row) for i in items)
        case Without(item):
            return not isinstance(item, Cond) or item.field.name == "part" or not holds(item, _comparing(row))
        case Cond(field):
            return field.name == "part" or compares(checked, row[field.name])
    return True
