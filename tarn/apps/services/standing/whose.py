"""Who has which address and which name, and when each device was read: what edges are resolved by."""

import json
from collections.abc import Collection

from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.store.database import raw_connection

_OF_ITSELF = ("127.", "169.254.", "fe80:")
"""What addresses begin with that lead to no other device (RFC 1122, 3.2.1.3), or on one link (RFC 3927, RFC 4291)."""


def names(at: int | None) -> dict[str, int]:
    """Return which device has which name, its own or one the name service has for it; one that several have is
    nobody's."""
    then, so, out, twice = holds("s", at), holds("d", at), dict[str, int](), set[str]()
    for asset, name in raw_connection().execute(
        f"SELECT s.asset_id, s.name_fold FROM estate_assetspan s WHERE ifnull(s.name_fold, '') != '' AND {then.text} "
        f"UNION SELECT d.asset_id, fold(d.name) FROM estate_dns_namesspan d WHERE {so.text}",
        [*then.values, *so.values],
    ):
        if out.setdefault(name, asset) != asset:
            twice.add(name)
    return {name: asset for name, asset in out.items() if name not in twice}


def last_read(at: int | None, assets: Collection[int] | None = None) -> dict[int, int]:
    """Return when each asset, or each of some, was last read, up to a moment: what holds of it was last heard then."""
    then, among = holds("s", at), "" if assets is None else "AND s.asset_id IN (SELECT value FROM json_each(?))"
    return dict(
        raw_connection().execute(
            f"SELECT s.asset_id, ifnull({reckoned('seen.last', at)}, 0) FROM estate_assetspan s "
            f"JOIN estate_asset a ON a.id = s.asset_id WHERE {then.text} {among}",
            [*then.values, *([] if assets is None else [json.dumps(list(assets))])],
        )
    )


def addresses(at: int | None) -> dict[str, int]:
    """Return which asset has which address; one that several have is nobody's."""
    out: dict[str, int] = {}
    twice: set[str] = set()
    for table in ("estate_assetspan", "estate_addressesspan"):
        then = holds("a", at)
        for asset, address in raw_connection().execute(
            f"SELECT a.asset_id, a.address FROM {table} a WHERE a.address IS NOT NULL AND {then.text}", then.values
        ):
            if address.startswith(_OF_ITSELF):
                continue
            if out.setdefault(address, asset) != asset:
                twice.add(address)
    return {address: asset for address, asset in out.items() if address not in twice}


def plates_hashed(at: int | None, assets: Collection[int] | None = None) -> dict[int, int]:
    """Return of each asset, or of each of some, one number for all that edges are resolved by of it itself: its name,
    UUID, addresses and kind. It differs where any of them does; it holds in this process only."""
    then, among = holds("s", at), "" if assets is None else "AND s.asset_id IN (SELECT value FROM json_each(?))"
    return {
        asset: hash(tuple(told))
        for asset, *told in raw_connection().execute(
            "SELECT s.asset_id, s.name, s.name_fold, s.uuid, s.address, s.mac, s.kind_id FROM estate_assetspan s "
            f"WHERE {then.text} {among}",
            [*then.values, *([] if assets is None else [json.dumps(list(assets))])],
        )
    }
