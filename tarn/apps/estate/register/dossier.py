"""The dossier: everything held about one asset, as of any moment, and why."""

import json
from collections import defaultdict
from typing import Any

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds, within
from tarn.apps.estate.models import ITEM_MODELS
from tarn.apps.estate.register.pages import _rows
from tarn.apps.estate.register.results import ClaimOut, FieldClaims, InstalledOut, Plate, SightingOut
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.terms import terms
from tarn.apps.people.scope import scope
from tarn.core.fields import ASSET_FIELDS, FIELDS
from tarn.core.items import SECTIONS
from tarn.core.own import MADE
from tarn.core.truth import Claim, because, order


def plate(asset: int, at: int | None) -> Plate | None:
    """Return all of an asset's own fields; None where it did not exist then."""
    condition = holds("s", at)
    if not visible_among([asset], at):
        return None
    row = (
        raw_connection()
        .execute(
            f"SELECT s.id FROM estate_assetspan s WHERE s.asset_id = ? AND {condition.text}",
            [asset, *condition.values],
        )
        .fetchone()
    )
    if row is None:
        return None
    made = [f for f in FIELDS.values() if f.stored.startswith(MADE)]
    return _rows([row[0]], [*ASSET_FIELDS, *made], at)[0]


def theirs_since(asset: int) -> int:
    """Return since when an asset is of an organisation whoever asks may see; what was before is not theirs to read."""
    limited = scope()
    if limited is None:
        return 0
    db = raw_connection()
    mine = within(terms.refresh(db), limited)
    row = db.execute(
        f"SELECT max(s.valid_to) FROM estate_assetspan s WHERE s.asset_id = ? AND NOT ifnull({mine.text}, 0)",
        [asset, *mine.values],
    ).fetchone()
    return int(row[0] or 0)


def claims(asset: int, at: int | None) -> dict[str, FieldClaims]:
    """Return by field who says what of it, the one believed first; with the sentence that says why."""
    db = raw_connection()
    condition = holds("f", at)
    confirmed = _confirmed(asset, at)
    sources = {i: (k, n) for i, k, n in db.execute("SELECT id, kind, name FROM estate_source")}
    found: dict[str, list[Claim]] = defaultdict(list)
    for source, section, field, value, since in db.execute(
        "SELECT f.source_id, f.section, f.field, f.value, f.valid_from FROM estate_fieldspan f "
        f"WHERE f.asset_id = ? AND {condition.text}",
        [asset, *condition.values],
    ):
        last = confirmed.get((source, section), since)
        found[field].append(Claim(source, sources[source][0], section, value, since, last))
    out: dict[str, FieldClaims] = {}
    for field, several in found.items():
        said: list[ClaimOut] = []
        for claim in order(several):
            kind, name = sources[claim.source]
            said.append(
                {
                    "source_kind": "guess" if claim.section == "recognition" else kind,
                    "source": name,
                    "value": json.loads(claim.value),
                    "since": iso(claim.since),
                    "confirmed": iso(claim.confirmed),
                    "believed": not said,
                    "agrees": claim.value == order(several)[0].value,
                }
            )
        out[field] = {"why": because(several), "said": said}
    return out


def _confirmed(asset: int, at: int | None) -> dict[tuple[int, str], int]:
    """Return when each source last spoke of each section, up to a moment."""
    db = raw_connection()
    if at is None:
        rows = db.execute("SELECT source_id, section, confirmed FROM estate_sectionstate WHERE asset_id = ?", (asset,))
        return {(s, n): c for s, n, c in rows}
    out: dict[tuple[int, str], int] = {}
    for source, second, head in db.execute(
        "SELECT source_id, at, head FROM estate_sighting WHERE asset_id = ? AND at <= ? ORDER BY at", (asset, at)
    ):
        for entry in json.loads(head):
            out[source, entry["section"]] = second
        out[source, "recognition"] = second
    return out


def items(asset: int, at: int | None) -> dict[str, list[dict[str, Any]]]:
    """Return the asset's lists: interfaces, disks, accounts and so on, each with who says so and since when."""
    db = raw_connection()
    out: dict[str, list[dict[str, Any]]] = {}
    for section, model in ITEM_MODELS.items():
        known = SECTIONS[section].attributes
        condition = holds("i", at)
        ordered = ", ".join(f'i."{k}"' for k in SECTIONS[section].key)
        columns = ", ".join(f'i."{n}"' for n in known)
        rows = db.execute(
            f"SELECT o.kind, i.valid_from, {columns} FROM {model._meta.db_table} i "
            f"JOIN estate_source o ON o.id = i.source_id WHERE i.asset_id = ? AND {condition.text} ORDER BY {ordered}",
            [asset, *condition.values],
        )
        out[section] = [
            {
                "source_kind": kind,
                "since": iso(since),
                **{n: _shown(a.type, v) for (n, a), v in zip(known.items(), values, strict=True)},
            }
            for kind, since, *values in rows
        ]
    return out


def _shown(kind: str, value: Any) -> Any:
    """Return a stored value as it is handed out: moments and days as ISO 8601, truths as truths."""
    if value is None or kind not in ("moment", "day", "yes/no"):
        return value
    if kind == "yes/no":
        return bool(value)
    return iso(value) if kind == "moment" else (iso(value) or "")[:10]


def software(asset: int, at: int | None) -> list[InstalledOut]:
    """Return what is installed: product, release, publisher, since when, and which kinds of source say so."""
    condition = holds("i", at)
    rows = raw_connection().execute(
        "SELECT l.name, l.publisher, r.version, min(i.valid_from), group_concat(DISTINCT o.kind), min(i.initial) "
        "FROM estate_installspan i JOIN estate_release r ON r.id = i.release_id "
        "JOIN estate_listing l ON l.id = i.listing_id JOIN estate_source o ON o.id = i.source_id "
        f"WHERE i.asset_id = ? AND {condition.text} GROUP BY i.release_id ORDER BY l.name_fold, r.version_key",
        [asset, *condition.values],
    )
    return [
        {
            "name": name,
            "publisher": publisher,
            "version": version,
            "since": iso(since),
            "since_first_reading": bool(initial),
            "source_kinds": kinds.split(","),
        }
        for name, publisher, version, since, kinds, initial in rows
    ]


def sightings(asset: int, at: int | None, most: int = 60) -> list[SightingOut]:
    """Return the latest sightings of an asset: what was read, what was cut short, and why it was taken for it."""
    rows = raw_connection().execute(
        "SELECT g.document, o.kind, o.name, g.at, g.address, g.verdict, g.reasons, g.head, g.clock_skew "
        "FROM estate_sighting g JOIN estate_source o ON o.id = g.source_id "
        "WHERE g.asset_id = ? AND g.at <= ? ORDER BY g.at DESC, g.id DESC LIMIT ?",
        (asset, at if at is not None else 2**62, most),
    )
    return [
        {
            "document": document,
            "source_kind": kind,
            "source": name,
            "at": iso(second),
            "address": address,
            "verdict": verdict,
            "reasons": json.loads(reasons),
            "clock_skew": skew,
            "readings": [
                {
                    "section": e["section"],
                    "collector": e["collector"],
                    "complete": e.get("complete", True),
                    "note": e.get("note", ""),
                    "took_ms": e.get("took_ms"),
                }
                for e in json.loads(head)
            ],
        }
        for document, kind, name, second, address, verdict, reasons, head, skew in rows
    ]


def document(name: str) -> dict[str, Any] | None:
    """Return one sighting as the document that was taken in."""
    from tarn.apps.estate.door.prepare import stored_sightings

    db = raw_connection()
    found = next(stored_sightings(db, "WHERE g.document = ?", (name,)), None)
    if found is None or scope() is None:
        return found["document"] if found else None
    (asset,) = db.execute("SELECT asset_id FROM estate_sighting WHERE document = ?", (name,)).fetchone()
    seen = visible_among([asset]) if asset is not None else organisation_of(found["document"]) in (scope() or ())
    return found["document"] if seen else None


def organisation_of(document: dict[str, Any]) -> str | None:
    """Return the organisation a sighting was made for."""
    for reading in document["readings"]:
        if reading["section"] == "placement" and reading["facts"].get("organisation"):
            return str(reading["facts"]["organisation"])
    return None


def guess(asset: int) -> tuple[str, int, list[str]]:
    """Return what an asset was last taken for, how sure that is in percent, and why."""
    row = (
        raw_connection()
        .execute("SELECT guess, sure, guess_reasons FROM estate_asset WHERE id = ?", (asset,))
        .fetchone()
    )
    return row[0], row[1], json.loads(row[2])
