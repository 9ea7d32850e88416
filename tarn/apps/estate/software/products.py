"""Products: over any selection and day, one product's releases and names, and what changed."""

import json
import time
from collections import defaultdict
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.software.catalogue import Catalogue, catalogue
from tarn.apps.estate.software.first_sights import first_sights, of_mine
from tarn.apps.estate.software.installs import installs, wanted_assets
from tarn.apps.estate.software.pairs import distinct
from tarn.apps.estate.software.results import NamelessOut, ProductFigures, ProductSpread, WeekOut
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import CATALOGUE, EVIDENCE
from tarn.apps.people.scope import scope
from tarn.core.history import Change, Edge, pair
from tarn.core.naming import ROLES

DAY = 86_400
TREND = 28
"""Days over which the number of devices is compared."""


def overview(asked: Question, before: Question, roles: tuple[str, ...]) -> list[ProductFigures]:
    """Return the products of a selection: devices, releases, and devices `TREND` days earlier (`before`)."""
    known, now = catalogue(), installs(asked.at)
    most = max(known.products, default=0) + 1
    wanted = wanted_assets(now, asked)
    number, earlier = now.counted(roles, wanted, most), _devices_of(before, roles, most)
    present = np.flatnonzero(now.counted((), wanted, len(known.product_of)))
    present = present[known.of_roles(roles)[present]]
    product, rank = known.product_of[present], known.rank[present]
    newest = np.full(most, -1, dtype=np.int64)
    by_rank = np.argsort(rank)
    newest[product[by_rank]] = rank[by_rank]  # of several at one place the last is kept
    once = distinct(product.astype(np.int64) << 32 | rank) >> 32
    releases = np.bincount(once, minlength=most)
    is_product = np.zeros(most, dtype=bool)
    is_product[product[known.role_of[present] == ROLES.index("product")]] = True
    other = dict(zip(product.tolist(), known.role_of[present].tolist(), strict=True))
    seen = _first_seen(known)
    found = np.flatnonzero(number)
    columns = (found, number[found], earlier[found], releases[found], newest[found], is_product[found])
    return [
        {
            "id": one,
            "name": known.products[one][0],
            "publisher": known.products[one][1],
            "devices": devices,
            "before": had,
            "releases": several,
            "newest": known.versions[latest],
            "role": "product" if is_own else ROLES[other[one]],
            "first_seen": seen.get(one),
        }
        for one, devices, had, several, latest, is_own in zip(*(c.tolist() for c in columns), strict=True)
    ]


def _devices_of(asked: Question, roles: tuple[str, ...], most: int) -> Any:
    held = installs(asked.at)
    return held.counted(roles, wanted_assets(held, asked), most)


def devices(asked: Question) -> int:
    """Return on how many devices of a selection any software is known."""
    held = installs(asked.at)
    return int(np.count_nonzero(wanted_assets(held, asked)[held.devices]))


def number(asked: Question, roles: tuple[str, ...]) -> int:
    """Return how many products of a selection have entries of these roles only there to be hidden or shown."""
    return int(np.count_nonzero(_devices_of(asked, roles, max(catalogue().products, default=0) + 1)))


_first: Remembered[dict[int, str | None]] = Remembered("first sights of products", EVIDENCE, CATALOGUE, most=4)


def _first_seen(known: Catalogue) -> dict[int, str | None]:
    """Return when each product was first seen by whoever asks, as it is shown."""

    def read() -> dict[int, str | None]:
        out: dict[int, int] = {}
        for listing, first in first_sights().items():
            product = known.listed[listing].product
            out[product] = min(first, out.get(product, first))
        return {product: iso(first) for product, first in out.items()}

    return _first.get(scope(), read)


@dataclass(slots=True)
class _OfRelease:
    """A release of a product: on how many devices of a selection, and since when it was seen anywhere."""

    version: str
    devices: int = 0
    since: int | None = None


def spread(product: int, asked: Question) -> ProductSpread | None:
    """Return one product over a selection: releases with devices and age, the names it is listed under, its year."""
    known = catalogue()
    if product not in known.products:
        return None
    held = installs(asked.at)
    wanted = wanted_assets(held, asked)
    listed = [one for one in known.listed.values() if one.product == product]
    first = _release_ages(product)
    if scope() is not None:
        # What others list is theirs to know.
        seen = {known.releases[r][0] for r in first}
        listed = [one for one in listed if one.number in seen]
        if not listed:
            return None
    by_version: dict[str, _OfRelease] = {}
    for release, number in held.devices_by("release", wanted, product).items():
        listing, version, key = known.releases[release]
        if known.listed[listing].role == "update":
            continue
        one = by_version.setdefault(key, _OfRelease(version))
        one.devices += number
        if (began := first.get(release)) is not None:
            one.since = began if one.since is None else min(one.since, began)
    newest = max(by_version, default="")
    by_listing = held.devices_by("listing", wanted, product)
    return {
        "id": product,
        "name": known.products[product][0],
        "publisher": known.products[product][1],
        "devices": held.devices_of(wanted, product),
        "releases": [
            {"version": one.version, "devices": one.devices, "since": iso(one.since), "newest": key == newest}
            for key, one in sorted(by_version.items(), reverse=True)
        ],
        "listed": [
            {
                "name": one.name,
                "publisher": one.publisher,
                "role": one.role,
                "edition": one.edition,
                "arch": one.arch,
                "language": one.language,
                "understood": one.understood,
                "why": json.loads(one.why),
                "devices": by_listing.get(one.number, 0),
            }
            for one in sorted(listed, key=lambda p: (-by_listing.get(p.number, 0), p.name))
        ],
        "year": _year(product, asked),
    }


def _release_ages(product: int) -> dict[int, int]:
    """Return when each release of a product was first seen anywhere."""
    mine = of_mine()
    rows = raw_connection().execute(
        "SELECT i.release_id, min(i.valid_from) FROM estate_installspan i WHERE i.listing_id IN "
        f"(SELECT id FROM estate_listing WHERE product_id = ?) AND {mine.text} GROUP BY i.release_id",
        [product, *mine.values],
    )
    return dict(rows.fetchall())


def _year(product: int, asked: Question, weeks: int = 52) -> list[WeekOut]:
    """Return on how many devices of a selection a product was, week by week up to the moment asked."""
    rows = raw_connection().execute(
        "SELECT i.asset_id, i.valid_from, ifnull(i.valid_to, 1 << 40) FROM estate_installspan i WHERE i.listing_id IN "
        "(SELECT id FROM estate_listing WHERE product_id = ?)",
        (product,),
    )
    table = np.array(rows.fetchall() or np.empty((0, 3)), dtype=np.int64)
    table = table[np.isin(table[:, 0], np.fromiter(ids(asked), dtype=np.int64))]
    end = asked.at or int(time.time())
    out: list[WeekOut] = []
    for week in range(weeks - 1, -1, -1):
        at = end - week * 7 * DAY
        on = (table[:, 1] <= at) & (table[:, 2] > at)
        out.append({"at": iso(at), "devices": len(np.unique(table[on, 0]))})
    return out


def changes(
    asked: Question, since: int, until: int, roles: tuple[str, ...], product: int | None = None
) -> list[Change]:
    """Return what changed in the software of a selection after `since` and up to `until`, paired.

    Only entries of these roles count. `thing` is the product; of an update, the name it is listed under, for it is
    no release of its product. What came with a device's first reading is no change.
    """
    known = catalogue()
    mine = set(ids(asked))
    edges: dict[tuple[int, int, int, bool], Edge] = {}
    rows = raw_connection().execute(
        "SELECT asset_id, release_id, valid_from, 1 FROM estate_installspan "
        "WHERE initial = 0 AND valid_from > ? AND valid_from <= ? "
        "UNION ALL SELECT asset_id, release_id, valid_to, 0 FROM estate_installspan "
        "WHERE valid_to > ? AND valid_to <= ?",
        (since, until, since, until),
    )
    for asset, release, at, begins in rows:
        if asset not in mine:
            continue
        listing, version, _ = known.releases[release]
        listed = known.listed[listing]
        if listed.role not in roles or (product is not None and listed.product != product):
            continue
        thing = listed.name if listed.role == "update" else known.products[listed.product][0]
        edges[asset, release, at, bool(begins)] = Edge(asset, thing, version, at, bool(begins), listed.name)
    readings = _readings({e.asset for e in edges.values()}, since, until)
    return pair(list(edges.values()), readings)


def _readings(assets: set[int], since: int, until: int) -> dict[int, list[int]]:
    """Return the times of readings of software by asset, for pairing what fell into two of them."""
    out: dict[int, list[int]] = defaultdict(list)
    for asset, at in raw_connection().execute(
        "SELECT asset_id, at FROM estate_sighting WHERE asset_id IN (SELECT value FROM json_each(?)) "
        "AND at >= ? AND at <= ? AND instr(head, '\"packages\"') ORDER BY asset_id, at",
        (json.dumps(sorted(assets)), since, until),
    ):
        if not out[asset] or out[asset][-1] != at:
            out[asset].append(at)
    return out


def not_understood(asked: Question) -> list[NamelessOut]:
    """Return names listed in a selection that none of the rules made sense of, with how many devices have them."""
    known, held = catalogue(), installs(asked.at)
    counts = held.devices_by("listing", wanted_assets(held, asked))
    listed = (known.listed[p] for p in counts if not known.listed[p].understood)
    return [
        {"name": one.name, "publisher": one.publisher, "devices": counts[one.number], "why": json.loads(one.why)}
        for one in listed
    ]
