"""The parts of a position: what is done in one touches no other, so each is reckoned, and put right, by itself."""

from collections import defaultdict
from collections.abc import Iterable, Sequence

from tarn.core.licensing.rights import Licence


def linked(licences: Sequence[Licence], used: Iterable[int]) -> list[tuple[frozenset[int], list[Licence]]]:
    """Return products that licences link, with those licences, and each product that none names by itself."""
    up: dict[int, int] = {}

    def find(one: int) -> int:
        up.setdefault(one, one)
        while up[one] != one:
            up[one] = up[up[one]]
            one = up[one]
        return one

    for licence in licences:
        first, *rest = licence.products
        for product in rest:
            up[find(product)] = find(first)
        find(first)
    products: dict[int, set[int]] = defaultdict(set)
    for product in {*up, *used}:
        products[find(product)].add(product)
    mine: dict[int, list[Licence]] = defaultdict(list)
    for licence in licences:
        mine[find(next(iter(licence.products)))].append(licence)
    return [(frozenset(some), mine[root]) for root, some in sorted(products.items())]
