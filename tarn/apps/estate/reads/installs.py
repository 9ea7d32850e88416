"""What is installed where, in memory: one pair an asset and release, so that any selection is counted at once.

One state of the data (or a past day) is held as arrays; a count is then a look-up and a bin count, no statement.
"""

import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.compile import holds
from tarn.apps.estate.reads.database import raw_connection
from tarn.apps.estate.reads.terms import stamp


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
    """Titles, listed names and releases by number."""

    titles: dict[int, tuple[str, str]]
    listed: dict[int, Listed]
    releases: dict[int, tuple[int, str, str]]

    def title_of(self, release: int) -> int:
        """Return the product a release is of."""
        return self.listed[self.releases[release][0]].title


@dataclass(frozen=True)
class Installs:
    """Distinct pairs of asset and release that held; `title` and `product` (listed name) beside each."""

    asset: Any
    release: Any
    product: Any
    title: Any


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
    return Catalogue(titles, listed, releases)


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
    most = int(max(known.releases, default=0)) + 1
    product_of, title_of = np.zeros(most, dtype=np.int32), np.zeros(most, dtype=np.int32)
    for number, (product, _, _) in known.releases.items():
        product_of[number], title_of[number] = product, known.listed[product].title
    return Installs(asset, release, product_of[release], title_of[release])


def among(held: Installs, asked: Question) -> Any:
    """Return which pairs are of assets that answer a question, as a mask."""
    chosen = np.fromiter(ids(asked), dtype=np.int64)
    most = int(held.asset.max()) + 1 if len(held.asset) else 1
    wanted = np.zeros(most, dtype=bool)
    wanted[chosen[chosen < most]] = True
    return wanted[held.asset]


def devices_by(held: Installs, mask: Any, by: str) -> dict[int, int]:
    """Return the number of devices by title, product or release, over the pairs of a mask."""
    asset, what = held.asset[mask].astype(np.int64), getattr(held, by)[mask].astype(np.int64)
    once = np.unique(asset << 32 | what) & 0xFFFFFFFF
    numbers, counts = np.unique(once, return_counts=True)
    return dict(zip(numbers.tolist(), counts.tolist(), strict=True))
