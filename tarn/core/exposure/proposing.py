"""Who a product may be outside, where its names are told a little otherwise there: proposals for a person to judge."""

import re
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from difflib import SequenceMatcher

from tarn.core.makers import maker
from tarn.core.naming import product_key

LEAST = 0.7
"""How much two names must resemble each other for one to be proposed: the share of their letters that agree."""
MOST = 5
"""So many proposals are told of one product."""


@dataclass(frozen=True, slots=True)
class Proposal:
    """A name outside that may be meant: `sure`, 0 to 1, how much maker's and product's names resemble each other."""

    key: str
    sure: float
    because: str


class Outside:
    """Products that documents tell of, by their keys: `product/MAKER/PRODUCT`; other sorts of key are left aside."""

    def __init__(self, keys: Iterable[str]) -> None:
        self._of_maker: dict[str, list[str]] = defaultdict(list)
        self._of_product: dict[str, list[str]] = defaultdict(list)
        for key in sorted(set(keys)):
            sort, by, product = [*key.split("/", 2), "", ""][:3]
            if sort == "product":
                self._of_maker[by].append(product)
                self._of_product[product].append(by)

    def proposals(self, product: str, by: str) -> list[Proposal]:
        """Return who a product may be, the surest first: the same product of a maker told otherwise, or another
        product of the same maker. What differs in both is not proposed, nor what differs in a number: that is how a
        maker tells one model of another."""
        ours, mine = product_key(maker(by)) if by.strip() else "", product_key(product)
        found = []
        for other in self._of_product.get(mine, ()):
            if other != ours:
                sure = _alike(ours, other) if ours else LEAST
                found.append(Proposal(f"product/{other}/{mine}", sure, "The product is called so; the maker is not."))
        for other in self._of_maker.get(ours, ()) if ours else ():
            if other != mine and _numbers(other) == _numbers(mine):
                sure = _alike(mine, other)
                found.append(Proposal(f"product/{ours}/{other}", sure, "The maker has one called alike."))
        return sorted((p for p in found if p.sure >= LEAST), key=lambda p: (-p.sure, p.key))[:MOST]


def _numbers(name: str) -> list[str]:
    return re.findall(r"\d+", name)


def _alike(one: str, other: str) -> float:
    return round(SequenceMatcher(None, one, other, autojunk=False).ratio(), 2)
