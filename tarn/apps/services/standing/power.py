"""What power comes from: by what is written on outlets, and by what people and lists say of a device."""

from collections import defaultdict
from collections.abc import Iterator, Mapping

from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.store.database import raw_connection
from tarn.core.standing.edge import Edge
from tarn.core.standing.power import fed, feeds

_SURE_BY_BOTH, _SURE_BY_ONE = 100, 90


def powered(at: int | None, read: Mapping[int, int], names: Mapping[str, int]) -> Iterator[Edge]:
    """Yield what the power of each device comes from, an edge a plug. What both ends say is surer than what one does;
    a word that names no outlet is taken up by one that does. `read`: when each asset was last read."""
    told: dict[tuple[int, int], dict[str, tuple[int, bool, bool]]] = defaultdict(dict)
    for source, outlet, written, begins in _outlets(at):
        name = fed(written, names)
        if name is not None and names[name] != source:
            told[names[name], source][outlet] = begins, True, False
    for asset, written, begins in _said(at):
        for name, outlet in feeds(written):
            supply = names.get(name)
            if supply is None or supply == asset:
                continue
            plugs = told[asset, supply]
            met = [outlet] if outlet in plugs else list(plugs) if not outlet and plugs else []
            for known in met:
                plugs[known] = min(begins, plugs[known][0]), plugs[known][1], True
            if not met:
                plugs[outlet] = begins, False, True
    for (asset, source), plugs in told.items():
        for outlet, (since, by_outlet, by_word) in plugs.items():
            witnesses = (*((source,) if by_outlet else ()), *((asset,) if by_word else ()))
            sure = _SURE_BY_BOTH if by_outlet and by_word else _SURE_BY_ONE
            heard = max(since, read.get(source, 0) if by_outlet else 0)
            yield Edge(asset, source, "powered by", outlet, "", since, heard, sure, tuple(sorted(witnesses)))


def _outlets(at: int | None) -> list[tuple[int, str, str, int]]:
    then = holds("o", at)
    return (
        raw_connection()
        .execute(
            f"SELECT o.asset_id, o.name, o.feeds, o.valid_from FROM estate_outletsspan o "
            f"WHERE ifnull(o.feeds, '') != '' AND {then.text}",
            then.values,
        )
        .fetchall()
    )


def _said(at: int | None) -> list[tuple[int, str, int]]:
    """Return what is believed to feed each device of which somebody says so, and since when anybody does."""
    then = holds("s", at)
    rows: list[tuple[int, str, int]] = (
        raw_connection()
        .execute(
            f"SELECT s.asset_id, {reckoned('claim.fed_by', at)}, (SELECT min(f.valid_from) FROM estate_fieldspan f "
            "WHERE f.asset_id = s.asset_id AND f.field = 'fed_by') FROM estate_assetspan s "
            f"WHERE s.asset_id IN (SELECT asset_id FROM estate_fieldspan WHERE field = 'fed_by') AND {then.text}",
            then.values,
        )
        .fetchall()
    )
    return [row for row in rows if row[1]]
