"""The parts of a position: what is done in one touches no other, so each is reckoned, and put right, by itself."""

from collections import defaultdict
from collections.abc import Hashable, Iterable, Sequence

from tarn.core.licensing.rights import Licence


class Joined:
    """Things joined into groups; each group is known by one of its things."""

    def __init__(self) -> None:
        self._up: dict[Hashable, Hashable] = {}

    def find(self, one: Hashable) -> Hashable:
        """Return what the group of a thing is known by; a thing not met before is a group of its own."""
        up = self._up.setdefault(one, one)
        while up != one:
            above = self._up[up]
            self._up[one] = above
            one, up = up, above
        return one

    def join(self, one: Hashable, other: Hashable) -> None:
        """Make one group of the groups of two things."""
        self._up[self.find(one)] = self.find(other)


def linked(licences: Sequence[Licence], used: Iterable[int]) -> list[tuple[frozenset[int], list[Licence]]]:
    """Return products that licences link, with those licences, and each product that none names by itself."""
    groups = Joined()
    named = {product for licence in licences for product in licence.products}
    for licence in licences:
        first, *rest = licence.products
        for product in rest:
            groups.join(product, first)
    products: dict[Hashable, set[int]] = defaultdict(set)
    for product in {*named, *used}:
        products[groups.find(product)].add(product)
    mine: dict[Hashable, list[Licence]] = defaultdict(list)
    for licence in licences:
        mine[groups.find(next(iter(licence.products)))].append(licence)
    return [(frozenset(some), mine[root]) for root, some in sorted(products.items())]
