"""Titles, listed names and releases, as they are held in memory to be counted by."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import CATALOGUE
from tarn.core.naming import ROLES


@dataclass(frozen=True)
class Listed:
    """One listed name: `product` is the number of the product it stands for."""

    number: int
    name: str
    publisher: str
    product: int
    role: str
    edition: str
    arch: str
    language: str
    understood: bool
    why: str


@dataclass(frozen=True)
class Catalogue:
    """Titles, listed names and releases by number.

    By release, as arrays: `product_of`, `listing_of`, `role_of` (its place in ROLES), and `rank`, which rises with the
    version and is the same for one version under several listed names.
    """

    products: dict[int, tuple[str, str]]
    listed: dict[int, Listed]
    releases: dict[int, tuple[int, str, str]]
    product_of: Any
    listing_of: Any
    role_of: Any
    rank: Any
    versions: list[str]
    """The version of each rank."""

    @cached_property
    def newest(self) -> Any:
        """By product the highest rank of its releases; −1 where it has none."""
        highest = np.full(max(self.products, default=0) + 1, -1, dtype=np.int64)
        np.maximum.at(highest, self.product_of, self.rank)
        return highest

    def of_roles(self, roles: tuple[str, ...]) -> Any:
        """Return by release whether its listed name has one of these roles."""
        return np.isin(self.role_of, [ROLES.index(r) for r in roles])


_catalogue: Remembered[Catalogue] = Remembered("catalogue", CATALOGUE, most=1, one_at_a_time=True)


def catalogue() -> Catalogue:
    """Return the catalogue as it stands."""
    return _catalogue.get("all", _read_catalogue)


def _read_catalogue() -> Catalogue:
    db = raw_connection()
    products = {i: (n, p) for i, n, p in db.execute("SELECT id, name, publisher FROM estate_product")}
    rows: Iterable[list[Any]] = db.execute(
        "SELECT id, name, publisher, product_id, role, edition, arch, language, understood, why FROM estate_listing"
    )
    listed = {row[0]: Listed(*[*row[:8], bool(row[8]), row[9]]) for row in rows}
    releases = {
        i: (p, v, k) for i, p, v, k in db.execute("SELECT id, listing_id, version, version_key FROM estate_release")
    }
    most = max(releases, default=0) + 1
    product_of, listing_of = np.zeros(most, dtype=np.int32), np.zeros(most, dtype=np.int32)
    role_of, rank = np.zeros(most, dtype=np.int8), np.zeros(most, dtype=np.int32)
    ordered = sorted({(key, version) for _, version, key in releases.values()})
    ranks = {pair: n for n, pair in enumerate(ordered)}
    places = {role: n for n, role in enumerate(ROLES)}
    for number, (listing, version, key) in releases.items():
        one = listed[listing]
        product_of[number], listing_of[number] = one.product, listing
        role_of[number], rank[number] = places[one.role], ranks[key, version]
    versions = [version for _, version in ordered]
    return Catalogue(products, listed, releases, product_of, listing_of, role_of, rank, versions)
