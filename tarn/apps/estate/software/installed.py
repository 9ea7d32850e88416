"""Products on devices with what a licence asks of both: who holds the device, since when, its cores, its host."""

import json
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.register.acquired import claimed
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.estate.software.catalogue import Catalogue, catalogue
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.scope import asker
from tarn.core.naming import product_key
from tarn.core.text import fold

_FIELDS = ["name", "number", "kind", "state", "person", "department", "place", "organisation"]
_NUMBERS = ["memory", "cores", "last_user"]
_TRIALS = ("trial", "free", "evaluation", "demo")


@lru_cache(maxsize=10_000)
def is_trial(edition: str) -> bool:
    """Whether an edition is one that may be used without a licence for a while, or for good."""
    return any(word in fold(edition) for word in _TRIALS)


@dataclass(frozen=True, slots=True)
class Installed:
    """A product on an asset: the newest release there, since when that is seen, and its edition; `listing`: the number
    of the listed name it stands under; `used`: when it was used last, to the week, and `installed`: the day that
    release was installed, where the system tells. Moments in seconds since 1970."""

    asset: int
    product: int
    version: str
    since: int
    edition: str
    listing: int = 0
    used: int | None = None
    installed: int | None = None


@dataclass(frozen=True, slots=True)
class Machine:
    """An asset of the register as licences see it; `memory` in GB, `host` the asset it is a guest of."""

    name: str
    number: str
    kind: str
    state: str
    person: str
    account: str
    department: str
    place: str
    organisation: str
    memory: float
    cores: int
    processors: int
    host: int | None


def products_named(names: Iterable[str]) -> dict[str, int | None]:
    """Return the product each name stands for: its own, or the one that what was listed under it has become part of."""
    known = catalogue()
    by_key = {product_key(listed.name): listed.product for listed in known.listed.values()}
    by_key.update({product_key(name): number for number, (name, _) in known.products.items()})
    return {name: by_key.get(product_key(name)) for name in names}


def product_names() -> dict[int, str]:
    """Return the products' names by number."""
    return {number: name for number, (name, _) in catalogue().products.items()}


def installed(products: set[int], at: int | None, among: list[int] | None = None) -> list[Installed]:
    """Return where products are on assets of the register, updates and parts aside, ordered by asset and product.

    `among`: on these assets alone.
    """
    known = catalogue()
    mine = [n for n, one in known.listed.items() if one.product in products and one.role == "product"]
    if not mine:
        return []
    then = holds("i", at)
    asked = question("", at, asker().everywhere())
    cursor = raw_connection().execute(
        "SELECT i.asset_id, i.listing_id, i.release_id, min(i.valid_from) FROM estate_installspan i "
        f"WHERE {then.text} AND i.listing_id IN (SELECT value FROM json_each(?)) "
        f"AND i.asset_id IN (SELECT s.asset_id {asked.source}){_some('i', among)} "
        "GROUP BY i.asset_id, i.listing_id, i.release_id ORDER BY i.asset_id",
        [*then.values, json.dumps(mine), *asked.where.values, *_given(among)],
    )
    return _with_use(_one_a_product(cursor, known), known, at, among)


def _some(alias: str, among: list[int] | None) -> str:
    return "" if among is None else f" AND {alias}.asset_id IN (SELECT value FROM json_each(?))"


def _given(among: list[int] | None) -> list[str]:
    return [] if among is None else [json.dumps(among)]


def _one_a_product(found: Iterable[tuple[int, int, int, int]], known: Catalogue) -> list[Installed]:
    """Return of each product on each device the release that counts: a full edition before a trial, then the newest."""
    best: dict[tuple[int, int], tuple[bool, int, int, int, int]] = {}
    full = {number: not is_trial(one.edition) for number, one in known.listed.items()}
    product_of = {number: one.product for number, one in known.listed.items()}
    rank = known.rank.tolist()
    for asset, listing, release, since in found:
        pair, mine = (asset, product_of[listing]), (full[listing], rank[release], -since, listing, release)
        held = best.get(pair)
        if held is None or mine[:3] > held[:3]:
            best[pair] = mine
    releases = known.releases
    return [
        Installed(asset, product, releases[release][1], -since, known.listed[listing].edition, listing)
        for (asset, product), (_, _, since, listing, release) in sorted(best.items())
    ]


def _with_use(some: list[Installed], known: Catalogue, at: int | None, among: list[int] | None) -> list[Installed]:
    """Return installations with when each product was used last and the release installed, as dated lists tell."""
    listing_of = {one.name: one for one in known.listed.values()}
    then = holds("i", at)
    used: dict[tuple[int, int], int] = {}
    came: dict[tuple[int, int], int] = {}
    for asset, name, last, put in raw_connection().execute(
        "SELECT i.asset_id, i.name, max(i.used), max(i.installed) FROM estate_installsspan i "
        f"WHERE {then.text}{_some('i', among)} GROUP BY i.asset_id, i.name",
        [*then.values, *_given(among)],
    ):
        if (listed := listing_of.get(name)) is None:
            continue
        if last is not None:
            used[asset, listed.product] = max(last, used.get((asset, listed.product), 0))
        if put is not None:
            came[asset, listed.number] = put
    if not used and not came:
        return some
    return [
        replace(one, used=used.get((one.asset, one.product)), installed=came.get((one.asset, one.listing)))
        if (one.asset, one.product) in used or (one.asset, one.listing) in came
        else one
        for one in some
    ]


def machines(at: int | None, among: list[int] | None = None) -> dict[int, Machine]:
    """Return the assets of the register by number; `among`: of these alone."""
    asked = question("", at, asker().everywhere())
    told = {row["id"]: row for row in rows_of("asset", _FIELDS + _NUMBERS, asked, "", [], among=among)}
    sockets = claimed(asked, ("processors",), among)
    hosts = hosts_of(at)
    return {
        asset: _machine(row, hosts.get(asset), sockets.get(asset, {}).get("processors")) for asset, row in told.items()
    }


def _machine(row: dict[str, Any], host: int | None, processors: int | None) -> Machine:
    text = {n: row[n] or "" for n in _FIELDS}
    account = str(row["last_user"] or "").rpartition("\\")[2].lower()
    cores = int(row["cores"] or 0)
    return Machine(
        **text,
        account=account,
        memory=(row["memory"] or 0) / 2**30,
        cores=cores,
        # Where cores are known and the sockets are not, it has one at least.
        processors=int(processors or 0) or min(1, cores),
        host=host,
    )


def hosts_of(at: int | None) -> dict[int, int]:
    """Return by guest the virtual host that told of it."""
    then, there = holds("s", at), holds("g", at)
    cursor = raw_connection().execute(
        "SELECT s.asset_id, g.asset_id FROM estate_assetspan s JOIN estate_guestsspan g ON lower(g.uuid) = "
        f"lower(s.uuid) AND {there.text} WHERE {then.text} AND s.uuid IS NOT NULL ORDER BY g.valid_from",
        [*there.values, *then.values],
    )
    return dict(cursor.fetchall())


def keys_found(at: int | None) -> list[tuple[int, str, str]]:
    """Return asset, product as it names itself, and key, as scans found them."""
    then = holds("k", at)
    asked = question("", at, asker().everywhere())
    return (
        raw_connection()
        .execute(
            f"SELECT k.asset_id, k.product, k.key FROM estate_licence_keysspan k WHERE {then.text} "
            f"AND k.asset_id IN (SELECT s.asset_id {asked.source}) GROUP BY k.asset_id, k.product, k.key",
            [*then.values, *asked.where.values],
        )
        .fetchall()
    )
