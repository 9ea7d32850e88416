"""What is installed where, in memory: one pair an asset and release, so that any selection is counted at once.

One state of the data (or a past day) is held as arrays; a count is then a look-up and a bin count, no statement.
"""

import threading
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import stamp
from tarn.core.naming import ROLES


@dataclass(frozen=True)
class Listed:
    """One listed name: `title` is the number of the product it stands for."""

    number: int
    name: str
    publisher: str
    title: int
    role: str
    edition: str
    arch: str
    language: str
    understood: bool
    why: str


@dataclass(frozen=True)
class Catalogue:
    """Titles, listed names and releases by number.

    By release, as arrays: `title_of`, `product_of`, `role_of` (its place in ROLES), and `rank`, which rises with the
    version and is the same for one version under several listed names.
    """

    titles: dict[int, tuple[str, str]]
    listed: dict[int, Listed]
    releases: dict[int, tuple[int, str, str]]
    title_of: Any
    product_of: Any
    role_of: Any
    rank: Any
    versions: list[str]
    """The version of each rank."""

    def of_roles(self, roles: tuple[str, ...]) -> Any:
        """Return by release whether its listed name has one of these roles."""
        return np.isin(self.role_of, [ROLES.index(r) for r in roles])


@dataclass(frozen=True)
class Installs:
    """Distinct pairs of asset and release that held; `title` and `product` (listed name) beside each."""

    asset: Any
    release: Any
    product: Any
    title: Any
    _pairs: dict[tuple[str, ...], tuple[Any, Any]] = field(default_factory=dict)
    _wanted: dict[tuple[object, ...], Any] = field(default_factory=dict)

    def titled(self, roles: tuple[str, ...]) -> tuple[Any, Any]:
        """Return distinct pairs of asset and title over entries of these roles; worked out once."""
        found = self._pairs.get(roles)
        if found is None:
            fits = catalogue().of_roles(roles)[self.release]
            pairs = np.unique(self.asset[fits].astype(np.int64) << 32 | self.title[fits])
            found = self._pairs[roles] = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
        return found


_MOST_WANTED = 8
_lock = threading.Lock()
_catalogue: "OrderedDict[tuple[object, ...], Catalogue]" = OrderedDict()
_installs: "OrderedDict[tuple[object, ...], Installs]" = OrderedDict()


def _stamp() -> tuple[object, ...]:
    db = raw_connection()
    (newest,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_release").fetchone()
    return (*stamp(db), newest)


def catalogue() -> Catalogue:
    """Return the catalogue as it stands."""
    key = _stamp()
    with _lock:
        if key not in _catalogue:
            _catalogue[key] = _read_catalogue()
            while len(_catalogue) > 1:
                _catalogue.popitem(last=False)
        return _catalogue[key]


def _read_catalogue() -> Catalogue:
    db = raw_connection()
    titles = {i: (n, p) for i, n, p in db.execute("SELECT id, name, publisher FROM estate_title")}
    rows = db.execute(
        "SELECT id, name, publisher, title_id, role, edition, arch, language, understood, why FROM estate_product"
    )
    listed = {row[0]: Listed(*row[:8], bool(row[8]), row[9]) for row in rows}
    releases = {
        i: (p, v, k) for i, p, v, k in db.execute("SELECT id, product_id, version, version_key FROM estate_release")
    }
    most = max(releases, default=0) + 1
    title_of, product_of = np.zeros(most, dtype=np.int32), np.zeros(most, dtype=np.int32)
    role_of, rank = np.zeros(most, dtype=np.int8), np.zeros(most, dtype=np.int32)
    ordered = sorted({(key, version) for _, version, key in releases.values()})
    ranks = {pair: n for n, pair in enumerate(ordered)}
    places = {role: n for n, role in enumerate(ROLES)}
    for number, (product, version, key) in releases.items():
        one = listed[product]
        title_of[number], product_of[number] = one.title, product
        role_of[number], rank[number] = places[one.role], ranks[key, version]
    versions = [version for _, version in ordered]
    return Catalogue(titles, listed, releases, title_of, product_of, role_of, rank, versions)


def installs(at: int | None) -> Installs:
    """Return what was installed at a moment, from the cache where it stands."""
    key = (*_stamp(), at)
    with _lock:
        if key in _installs:
            _installs.move_to_end(key)
            return _installs[key]
    made = _read_installs(at)
    with _lock:
        _installs[key] = made
        while len(_installs) > 6:
            _installs.popitem(last=False)
    return made


def _read_installs(at: int | None) -> Installs:
    db, condition, known = raw_connection(), holds("i", at), catalogue()
    cursor = db.execute(
        f"SELECT i.asset_id, i.release_id FROM estate_installspan i WHERE {condition.text}", condition.values
    )
    chunks = []
    while rows := cursor.fetchmany(100_000):
        chunks.append(np.array(rows, dtype=np.int64))
    table = np.concatenate(chunks) if chunks else np.empty((0, 2), dtype=np.int64)
    pairs = np.unique(table[:, 0] << 32 | table[:, 1])
    asset, release = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
    return Installs(asset, release, known.product_of[release], known.title_of[release])


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
    if "people_person" not in asked.where.text:
        if len(held._wanted) >= _MOST_WANTED:
            held._wanted.clear()
        held._wanted[key] = wanted
    return wanted


def among(held: Installs, asked: Question) -> Any:
    """Return which pairs are of assets that answer a question, as a mask."""
    return wanted_assets(held, asked)[held.asset]


def devices_by(held: Installs, mask: Any, by: str) -> dict[int, int]:
    """Return the number of devices by title, product or release, over the pairs of a mask."""
    asset, what = held.asset[mask].astype(np.int64), getattr(held, by)[mask].astype(np.int64)
    once = np.unique(asset << 32 | what) & 0xFFFFFFFF
    numbers, counts = np.unique(once, return_counts=True)
    return dict(zip(numbers.tolist(), counts.tolist(), strict=True))
