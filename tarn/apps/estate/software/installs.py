"""What is installed where: one pair an asset and release, so that any selection is counted at once.

One state of the data (or a past day) is held as arrays. The state of now lies on disk for all processes, each with what
was read anew since beside it.
"""

import json
from collections.abc import Iterator
from dataclasses import replace
from itertools import chain
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.software.catalogue import catalogue
from tarn.apps.estate.software.pairs import Installs, Pairs, distinct
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.shelf import Column, Shelf
from tarn.apps.estate.store.stamps import EVIDENCE, stamp

_MOST_WANTED = 8
_installs: Remembered[Installs] = Remembered("installations", EVIDENCE, most=6, one_at_a_time=True)


def installs(at: int | None) -> Installs:
    """Return what was installed at a moment, from memory where it stands."""
    return _installs.get(at, lambda: _read_installs(at), lambda before, since: _carried_on(before, since, at))


_MOST_BESIDE = 50_000
"""Devices read anew up to which a state is told of the body and these; with more all of it is read as quickly."""


def _carried_on(before: Installs, since: int, at: int | None) -> Installs | None:
    """Return a state of a moment made of what it was held to be, devices with new evidence read anew."""
    if at is None and before.sighting and (newer := _from_shelf(after=before.sighting)) is not None:
        return newer
    devices = touched(since, _MOST_BESIDE)
    if devices is None:
        return None
    if not devices:
        return replace(before, _wanted={})
    gone = np.union1d(before.gone, np.array(devices, dtype=np.int32))
    return None if len(gone) > _MOST_BESIDE else Installs(before.body, gone, _fresh(gone, at), before.sighting)


def _fresh(assets: Any, at: int | None) -> Pairs:
    then = holds("i", at)
    # Open and closed spans have an index each: one condition over both would read the whole table.
    parts = ("i.valid_to IS NULL",) if at is None else ("i.valid_to IS NULL", "i.valid_to IS NOT NULL")
    among = Sql(then.text, [*then.values, json.dumps(assets.tolist())])
    found = [_read_pairs(f" AND {part} AND i.asset_id IN (SELECT value FROM json_each(?))", among) for part in parts]
    return _as_pairs(distinct(np.concatenate(found)))


def _read_installs(at: int | None) -> Installs:
    if at is not None:
        return _whole(_as_pairs(_read_pairs("", holds("i", at))))
    found = _from_shelf()
    if found is None:
        with _SHELF.turn():  # whoever was at it when we came has made it meanwhile
            found = _from_shelf()
            if found is None:
                now = stamp(EVIDENCE)
                found = _whole(_as_pairs(_read_pairs("", holds("i", None))))
                if _SHELF.write(now, _columns(found)):
                    found = _from_shelf() or found
    return found


def _whole(pairs: Pairs) -> Installs:
    none = np.empty(0, dtype=np.int32)
    return Installs(pairs, none, Pairs(none, none, none, none))


_SHELF = Shelf("installations")
_KEPT_ROLES: tuple[tuple[str, ...], ...] = ((), ("product",))
"""What is counted over most; it lies with the pairs."""


def _from_shelf(after: int = 0) -> Installs | None:
    """Return the newest state as it lies on disk, with what came since; none where there is none, or none later than
    one that knows of the sighting `after`.
    """
    kept = _SHELF.read(stamp(EVIDENCE))
    if kept is None or kept.sighting <= after:
        return None
    held = kept.columns
    before = {
        roles: (
            held[f"{'/'.join(roles)} asset"],
            held[f"{'/'.join(roles)} product"],
            held[f"{'/'.join(roles)} devices"],
        )
        for roles in _KEPT_ROLES
        if roles
    }
    body = Pairs(held["asset"], held["release"], held["listing"], held["product"], before)
    body.counted_before[()] = body.asset, body.release, held[" devices"]
    body.__dict__["devices"] = held["all devices"]
    devices = touched(kept.sighting, _MOST_BESIDE)
    if devices is None:
        return None
    gone = np.array(sorted(devices), dtype=np.int32)
    return Installs(body, gone, _fresh(gone, None), kept.sighting)


def keep_on_disk() -> bool:
    """Put what is installed now on disk, where there is anything new, for all processes; return whether it was put."""
    return _SHELF.exchange(lambda: installs(None), _columns)


def _columns(held: Installs) -> dict[str, Column]:
    columns = {name: Column("<i4", _pieces(held, name)) for name in ("asset", "release", "listing", "product")}  # type: dict[str, Column]
    wanted = np.ones(held.most, dtype=bool)
    for roles in _KEPT_ROLES:
        name = "/".join(roles)
        if roles:
            columns[f"{name} asset"] = Column("<i4", _counted_pieces(held, roles, 0))
            columns[f"{name} product"] = Column("<i4", _counted_pieces(held, roles, 1))
        sizes = [len(part.by_product(roles)[2]) for part in (held.body, held.fresh)]
        columns[f"{name} devices"] = Column("<i8", [held.counted(roles, wanted, max(sizes))])
    columns["all devices"] = Column("<i4", [held.devices])
    return columns


def _pieces(held: Installs, name: str) -> Iterator[Any]:
    """Yield a column of the whole, in the order of assets, without its being put together in memory."""
    return _merged(held.body.asset, getattr(held.body, name), held.fresh.asset, getattr(held.fresh, name), held.gone)


def _counted_pieces(held: Installs, roles: tuple[str, ...], column: int) -> Iterator[Any]:
    body, fresh = held.body.by_product(roles), held.fresh.by_product(roles)
    return _merged(body[0], body[column], fresh[0], fresh[column], held.gone)


def _merged(body_asset: Any, body: Any, fresh_asset: Any, fresh: Any, gone: Any) -> Iterator[Any]:
    at = 0
    begins, ends = np.searchsorted(body_asset, gone, "left"), np.searchsorted(body_asset, gone, "right")
    low, high = np.searchsorted(fresh_asset, gone, "left"), np.searchsorted(fresh_asset, gone, "right")
    for begin, end, first, last in zip(*(x.tolist() for x in (begins, ends, low, high)), strict=True):
        yield body[at:begin]
        yield fresh[first:last]
        at = end
    yield body[at:]


def _read_pairs(among: str, condition: Sql) -> Any:
    """Return distinct pairs of asset and release as one number each, ascending."""
    cursor = raw_connection().execute(
        f"SELECT i.asset_id << 32 | i.release_id FROM estate_installspan i WHERE {condition.text}{among}",
        condition.values,
    )
    return distinct(np.fromiter(chain.from_iterable(cursor), dtype=np.int64))


def _as_pairs(pairs: Any) -> Pairs:
    known = catalogue()
    asset, release = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
    return Pairs(asset, release, known.listing_of[release], known.product_of[release])


def wanted_assets(held: Installs, asked: Question) -> Any:
    """Return by asset number whether it answers a question, up to the highest that has software.

    One page asks the same several times over, so the last few answers are kept with the state they belong to;
    people come and go without new evidence, so what asks for them is asked anew.
    """
    key = (asked.where.text, tuple(asked.where.values))
    if (before := held._wanted.get(key)) is not None:
        return before
    chosen = np.fromiter(ids(asked), dtype=np.int64)
    wanted = np.zeros(held.most, dtype=bool)
    wanted[chosen[chosen < held.most]] = True
    if "people" not in asked.rests_on:
        if len(held._wanted) >= _MOST_WANTED:
            held._wanted.clear()
        held._wanted[key] = wanted
    return wanted
