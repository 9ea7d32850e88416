"""Identifiers held of assets, as other rooms ask for them."""

import json
from collections.abc import Iterable
from typing import Any

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.store.database import raw_connection
from tarn.core.text import fold


def presented_keys(address: str | None) -> list[tuple[str, str]]:
    """Return addresses and the host keys presented before by the assets last met there: at one address, or all."""
    where, values = ("AND s.address = ? ", (address,)) if address is not None else ("AND s.address IS NOT NULL ", ())
    rows = raw_connection().execute(
        "SELECT s.address, i.key FROM estate_assetspan s JOIN estate_identifier i ON i.asset_id = s.asset_id "
        f"WHERE s.valid_to IS NULL {where}AND i.key LIKE 'key:SHA256:%'",
        values,
    )
    return [(met, key.removeprefix("key:")) for met, key in rows]


def presented_certificates(address: str | None) -> list[tuple[str, int, str]]:
    """Return addresses, ports and the pins of the certificates' keys presented there before, as `presented_keys`."""
    where, values = ("AND s.address = ? ", (address,)) if address is not None else ("AND s.address IS NOT NULL ", ())
    rows = raw_connection().execute(
        "SELECT DISTINCT s.address, c.port, c.key FROM estate_assetspan s "
        "JOIN estate_certificatesspan c ON c.asset_id = s.asset_id "
        f"WHERE s.valid_to IS NULL {where}AND c.key > ''",
        values,
    )
    return list(rows.fetchall())


def addresses_called(name: str) -> list[str]:
    """Return the addresses of the devices of a name that whoever asks may see, as of now."""
    rows = raw_connection().execute(
        "SELECT s.asset_id, s.address FROM estate_assetspan s WHERE s.valid_to IS NULL AND s.name_fold = ? "
        "AND s.address IS NOT NULL",
        (fold(name),),
    )
    held = dict(rows.fetchall())
    return [held[a] for a in sorted(visible_among(held))]


def numbers_of(assets: list[int]) -> dict[int, str]:
    """Return the asset numbers of these assets; those that do not exist, or are not to be seen, are left out."""
    marks = ",".join(str(int(a)) for a in visible_among(assets))
    return dict(raw_connection().execute(f"SELECT id, number FROM estate_asset WHERE id IN ({marks})").fetchall())


def assets_numbered(numbers: Iterable[str]) -> set[int]:
    """Return the assets with these numbers, of those whoever asks may see."""
    cursor = raw_connection().execute(
        "SELECT id FROM estate_asset WHERE number IN (SELECT value FROM json_each(?))", [json.dumps(list(numbers))]
    )
    return visible_among(a for (a,) in cursor.fetchall())


def first_seen_of(assets: list[int]) -> dict[int, int]:
    """Return when assets were first seen, by their own number."""
    marks = ",".join(str(int(a)) for a in assets)
    return dict(raw_connection().execute(f"SELECT id, first_seen FROM estate_asset WHERE id IN ({marks})").fetchall())


def assets_of(documents: Iterable[str]) -> dict[str, int]:
    """Return by document of evidence the asset it is of now, of those whoever asks may see."""
    rows = raw_connection().execute(
        "SELECT document, asset_id FROM estate_sighting WHERE asset_id IS NOT NULL "
        "AND document IN (SELECT value FROM json_each(?))",
        [json.dumps(sorted(set(documents)))],
    )
    found: dict[str, int] = dict(rows.fetchall())
    seen = visible_among(found.values())
    return {document: asset for document, asset in found.items() if asset in seen}


def documents_of(asset: int) -> list[str]:
    """Return the documents of an asset's evidence."""
    cursor = raw_connection().execute("SELECT document FROM estate_sighting WHERE asset_id = ?", [asset])
    return [document for (document,) in cursor]


def first_documents(assets: list[int]) -> dict[int, tuple[str, str]]:
    """Return by asset the first document of its evidence, for what is to hang on it, and its number."""
    cursor = raw_connection().execute(
        "SELECT a.id, (SELECT g.document FROM estate_sighting g WHERE g.asset_id = a.id ORDER BY g.id LIMIT 1), "
        "a.number FROM estate_asset a WHERE a.id IN (SELECT value FROM json_each(?))",
        [json.dumps(assets)],
    )
    return {asset: (anchor, number) for asset, anchor, number in cursor.fetchall() if anchor}


def by_serial(serials: Iterable[str]) -> dict[str, dict[str, Any]]:
    """Return by folded serial number the asset that has it, set aside or not: its id, name and model."""
    wanted = json.dumps(sorted({fold(s) for s in serials}))
    rows = raw_connection().execute(
        "SELECT fold(s.serial), s.asset_id, coalesce(nullif(s.name, ''), a.number), m.text FROM estate_assetspan s "
        "JOIN estate_asset a ON a.id = s.asset_id LEFT JOIN estate_term m ON m.id = s.model_id "
        "WHERE s.valid_to IS NULL AND fold(s.serial) IN (SELECT value FROM json_each(?))",
        [wanted],
    )
    return {serial: {"asset": asset, "name": name, "model": model or ""} for serial, asset, name, model in rows}


def by_word(words: Iterable[str]) -> dict[str, set[int]]:
    """Return by folded word the assets whoever asks may see that it stands for: the one of that number, or else those
    of that name (with its domain or without), serial number, address, or MAC in any way of writing."""
    keys = {folded: _keys(folded) for folded in {fold(w) for w in words}}
    wanted = json.dumps(sorted({key for some in keys.values() for key in some}))
    among = "IN (SELECT value FROM json_each(?))"
    columns = ("s.name_fold", "fold(s.serial)", "s.address", "lower(replace(s.mac, ':', ''))")
    spans = (
        f"SELECT {c}, s.asset_id FROM estate_assetspan s WHERE s.valid_to IS NULL AND {c} {among}" for c in columns
    )
    db = raw_connection()
    numbered = db.execute(f"SELECT fold(a.number), a.id FROM estate_asset a WHERE fold(a.number) {among}", [wanted])
    by_number: dict[str, int] = dict(numbered.fetchall())
    by_key: dict[str, set[int]] = {}
    for key, asset in db.execute(" UNION ALL ".join(spans), [wanted] * len(columns)):
        by_key.setdefault(key, set()).add(asset)
    seen = visible_among({*by_number.values(), *(a for some in by_key.values() for a in some)})
    out = {}
    for word, some in keys.items():
        found = {by_number[word]} if word in by_number else {a for key in some for a in by_key.get(key, ())}
        if found & seen:
            out[word] = found & seen
    return out


def _keys(folded: str) -> list[str]:
    """Return what a word may be kept as: as it is, as a host name without its domain, and as bare digits of a MAC."""
    host, _, domain = folded.partition(".")
    bare = "".join(c for c in folded if c not in ":-.")
    out = [folded]
    if domain and not host.isdigit():
        out.append(host)
    if len(bare) == 12 and all(c in "0123456789abcdef" for c in bare):
        out.append(bare)
    return out


def numbers_in_order(assets: Iterable[int]) -> list[str]:
    """Return the asset numbers of assets, the oldest first."""
    rows = raw_connection().execute(
        "SELECT number FROM estate_asset WHERE id IN (SELECT value FROM json_each(?)) ORDER BY id",
        [json.dumps(sorted(set(assets)))],
    )
    return [number for (number,) in rows]
