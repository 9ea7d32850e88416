"""What is installed where, in memory: one pair an asset and release, so that any selection is counted at once.

One state of the data (or a past day) is held as arrays; a count is then a look-up and a bin count, no statement.
"""

import json
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import CATALOGUE, EVIDENCE
from tarn.core.naming import ROLES


def _places(asset: Any, devices: Any) -> Any:
    """Return where the pairs of some devices stand among pairs ordered by asset."""
    begins, ends = np.searchsorted(asset, devices, "left"), np.searchsorted(asset, devices, "right")
    long = ends - begins
    before = np.repeat(begins - np.concatenate(([0], np.cumsum(long)[:-1])), long) if len(devices) else begins
    return before + np.arange(int(long.sum()))


def distinct(numbers: Any) -> Any:
    """Return distinct whole numbers, ascending. By sorting: NumPy's own way by hashing takes far longer on millions."""
    ordered = np.sort(numbers)
    return ordered[np.concatenate(([True], ordered[1:] != ordered[:-1]))] if len(ordered) else ordered


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

    def of_roles(self, roles: tuple[str, ...]) -> Any:
        """Return by release whether its listed name has one of these roles."""
        return np.isin(self.role_of, [ROLES.index(r) for r in roles])


@dataclass(frozen=True)
class Installs:
    """Distinct pairs of asset and release that held; `product` and `listing` (listed name) beside each."""

    asset: Any
    release: Any
    listing: Any
    product: Any
    _pairs: dict[tuple[str, ...], tuple[Any, Any]] = field(default_factory=dict)
    _wanted: dict[tuple[object, ...], Any] = field(default_factory=dict)
    _whole: dict[tuple[str, ...], Any] = field(default_factory=dict)

    @cached_property
    def devices(self) -> Any:
        """The assets that have any software, ascending."""
        return distinct(self.asset)

    def counted(self, roles: tuple[str, ...], wanted: Any, most: int) -> Any:
        """Return on how many wanted assets each product (of entries of these roles; release where none is named) is.

        `wanted`: by asset number whether it counts. Pairs of one asset stand together, so only those of the lesser
        part are looked at, the wanted or the others, the whole being counted once a state.
        """
        asset, what = self.by_product(roles) if roles else (self.asset, self.release)
        whole = self._whole.get(roles)
        if whole is None:
            whole = self._whole[roles] = np.bincount(what)
        taken = wanted[self.devices]
        if 2 * np.count_nonzero(taken) <= len(taken):
            found = np.bincount(what[_places(asset, self.devices[taken])])
        else:
            found = whole.copy()
            less = np.bincount(what[_places(asset, self.devices[~taken])])
            found[: len(less)] -= less
        return np.concatenate((found, np.zeros(max(0, most - len(found)), dtype=found.dtype)))[:most]

    def by_product(self, roles: tuple[str, ...]) -> tuple[Any, Any]:
        """Return distinct pairs of asset and product over entries of these roles; worked out once."""
        found = self._pairs.get(roles)
        if found is None:
            fits = catalogue().of_roles(roles)[self.release]
            pairs = distinct(self.asset[fits].astype(np.int64) << 32 | self.product[fits])
            found = self._pairs[roles] = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
        return found


_MOST_WANTED = 8
_catalogue: Remembered[Catalogue] = Remembered("catalogue", CATALOGUE, most=1, one_at_a_time=True)
_installs: Remembered[Installs] = Remembered("installations", EVIDENCE, most=6, one_at_a_time=True)


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


def installs(at: int | None) -> Installs:
    """Return what was installed at a moment, from memory where it stands."""
    return _installs.get(at, lambda: _read_installs(at), lambda before, since: _carried_on(before, since, at))


MOST_TOUCHED = 5_000
"""Devices with new evidence up to which a state is carried on from the last and not read anew."""


def touched(since: int) -> list[int] | None:
    """Return the devices whose evidence came after a sighting's number; None where they are too many to go by.

    Within one generation of the tables everything a device has changes with sightings of its own: whatever moves
    sightings from one device to another begins a new generation.
    """
    cursor = raw_connection().execute(
        "SELECT DISTINCT asset_id FROM estate_sighting WHERE id > ? AND asset_id IS NOT NULL LIMIT ?",
        (since, MOST_TOUCHED + 1),
    )
    assets = [a for (a,) in cursor]
    return None if len(assets) > MOST_TOUCHED else assets


def _carried_on(before: Installs, since: int, at: int | None) -> Installs | None:
    """Return a state of a moment made of what it was held to be, devices with new evidence read anew."""
    devices = touched(since)
    if devices is None:
        return None  # after a long sweep all of it is read as quickly
    if not devices:
        return _as_installs(before.asset.astype(np.int64) << 32 | before.release)
    then = holds("i", at)
    among = Sql(then.text, [*then.values, json.dumps(devices)])
    fresh = _pairs(" AND i.asset_id IN (SELECT value FROM json_each(?))", among)
    kept = ~np.isin(before.asset, np.array(devices, dtype=np.int32))
    held = before.asset[kept].astype(np.int64) << 32 | before.release[kept]
    return _as_installs(np.insert(held, np.searchsorted(held, fresh), fresh))


def first_seen_of(mine: Sql) -> dict[int, int]:
    """Return when each listed name was first seen among the installations `i` a condition holds of.

    It is not carried on from the last state: a second reading of one moment may take back what the first had begun.
    """
    cursor = raw_connection().execute(
        f"SELECT i.listing_id, min(i.valid_from) FROM estate_installspan i WHERE {mine.text} GROUP BY i.listing_id",
        mine.values,
    )
    return dict(cursor.fetchall())


def _read_installs(at: int | None) -> Installs:
    return _as_installs(_pairs("", holds("i", at)))


def _pairs(among: str, condition: Sql) -> Any:
    """Return distinct pairs of asset and release as one number each, ascending."""
    cursor = raw_connection().execute(
        f"SELECT i.asset_id, i.release_id FROM estate_installspan i WHERE {condition.text}{among}", condition.values
    )
    chunks = []
    while rows := cursor.fetchmany(100_000):
        chunks.append(np.array(rows, dtype=np.int64))
    table = np.concatenate(chunks) if chunks else np.empty((0, 2), dtype=np.int64)
    return distinct(table[:, 0] << 32 | table[:, 1])


def _as_installs(pairs: Any) -> Installs:
    known = catalogue()
    asset, release = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
    return Installs(asset, release, known.listing_of[release], known.product_of[release])


def wanted_assets(held: Installs, asked: Question) -> Any:
    """Return by asset number whether it answers a question, up to the highest that has software.

    One page asks the same several times over, so the last few answers are kept with the state they belong to;
    people come and go without new evidence, so what asks for them is asked anew.
    """
    key = (asked.where.text, tuple(asked.where.values))
    if (before := held._wanted.get(key)) is not None:
        return before
    chosen = np.fromiter(ids(asked), dtype=np.int64)
    most = int(held.asset.max()) + 1 if len(held.asset) else 1
    wanted = np.zeros(most, dtype=bool)
    wanted[chosen[chosen < most]] = True
    if "people" not in asked.rests_on:
        if len(held._wanted) >= _MOST_WANTED:
            held._wanted.clear()
        held._wanted[key] = wanted
    return wanted


def among(held: Installs, asked: Question) -> Any:
    """Return which pairs are of assets that answer a question, as a mask."""
    return wanted_assets(held, asked)[held.asset]


def devices_by(held: Installs, mask: Any, by: str) -> dict[int, int]:
    """Return the number of devices by product, listing or release, over the pairs of a mask."""
    asset, what = held.asset[mask].astype(np.int64), getattr(held, by)[mask].astype(np.int64)
    counts = np.bincount(distinct(asset << 32 | what) & 0xFFFFFFFF)
    numbers = np.flatnonzero(counts)
    return dict(zip(numbers.tolist(), counts[numbers].tolist(), strict=True))
