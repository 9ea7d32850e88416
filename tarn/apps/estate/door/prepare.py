"""Sightings on their way in and out of storage: their bodies, hashes, and the reading to go by."""

import hashlib
import json
import sqlite3
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from tarn.core.identifiers import Identifier, identifiers
from tarn.core.sections import Identity
from tarn.core.sightings import SCHEMA, Sighting, effective, read_sighting

_ENVELOPE = {"collector", "complete", "note", "took_ms", "section"}


@dataclass(slots=True)
class Prepared:
    """A sighting made ready: the one reading to go by a section and its hash; heads and bodies to store."""

    sighting: Sighting
    chosen: dict[str, Any]
    hashes: dict[str, bytes]
    head: list[dict[str, Any]]
    bodies: dict[bytes, bytes]
    found: list[Identifier]
    """What tells the device from others; nothing where it says nothing of identity."""

    @property
    def organisation(self) -> str:
        """The organisation it says it is of; empty where it says none."""
        placement = self.chosen.get("placement")
        return (placement.facts.organisation or "") if placement else ""


def body_of(reading: Any) -> bytes:
    """Return a reading's content as the bytes that are kept and hashed."""
    return bytes(reading.model_dump_json(exclude=_ENVELOPE, exclude_unset=True), "utf-8")


def hash_of(body: bytes) -> bytes:
    """Return the 16 bytes by which a section's content is known (BLAKE2b, RFC 7693)."""
    return hashlib.blake2b(body, digest_size=16).digest()


def pack(body: bytes) -> bytes:
    """Compress a body unless it is short. Packed ones begin with the zlib header, others with “{”."""
    return body if len(body) < 256 else zlib.compress(body, 1)


def unpack(stored: bytes) -> bytes:
    """Return a stored body as it was."""
    return stored if stored[:1] == b"{" else zlib.decompress(stored)


def stored_body(db: sqlite3.Connection, digest: bytes) -> bytes:
    """Return the body of a section that was stored, by its hash."""
    (body,) = db.execute("SELECT body FROM estate_sectionbody WHERE hash = ?", (digest,)).fetchone()
    return unpack(body)


_OPENS, _CLOSES, _BETWEEN = b'{"items":[{', b"}]}", b"},{"


def differing_items(before: bytes, after: bytes) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Return the items of two lists' bodies that only the first has, and those only the second has.

    Lists of one machine hardly differ from night to night, so they are compared as text, item by
    item, and only what differs is parsed. Where an item's own text holds the mark between items,
    the parts do not parse and the lists are compared whole.
    """
    if before.startswith(_OPENS) and after.startswith(_OPENS):
        held = set(before[len(_OPENS) : -len(_CLOSES)].split(_BETWEEN))
        said = set(after[len(_OPENS) : -len(_CLOSES)].split(_BETWEEN))
        try:
            return [json.loads(b"{%b}" % p) for p in held - said], [json.loads(b"{%b}" % p) for p in said - held]
        except ValueError:
            pass
    old, new = json.loads(before)["items"], json.loads(after)["items"]
    return [i for i in old if i not in new], [i for i in new if i not in old]


def prepare(sighting: Sighting) -> Prepared:
    """Make a sighting ready to be taken in."""
    chosen = effective(sighting)
    head: list[dict[str, Any]] = []
    hashes: dict[str, bytes] = {}
    bodies: dict[bytes, bytes] = {}
    for reading in sighting.readings:
        body = body_of(reading)
        digest = hash_of(body)
        bodies[digest] = body
        entry = {"section": reading.section, "collector": reading.collector, "hash": digest.hex()}
        if not reading.complete:
            entry["complete"] = False
        if reading.note:
            entry["note"] = reading.note
        if reading.took_ms is not None:
            entry["took_ms"] = reading.took_ms
        head.append(entry)
        if chosen[reading.section] is reading:
            hashes[reading.section] = digest
    for section, reading in chosen.items():
        if section not in hashes:
            hashes[section] = hash_of(body_of(reading))
    told = chosen.get("identity")
    return Prepared(sighting, chosen, hashes, head, bodies, identifiers(told.facts if told else Identity()))


def identifiers_of(document: dict[str, Any]) -> list[Identifier]:
    """Return the identifiers a stored sighting's document has; none where it says nothing of identity."""
    told = effective(read_sighting(document)).get("identity")
    return identifiers(told.facts) if told is not None else []


SIGHTING_COLUMNS = "g.document, s.kind, s.name, g.at, g.address, g.clock_skew, g.head"


def stored_sightings(db: sqlite3.Connection, where: str, values: tuple[Any, ...] = ()) -> Iterator[dict[str, Any]]:
    """Yield stored sightings as documents, with `row` (their number), `received` and `asset` beside.

    `where` continues the statement after FROM: conditions on `g` (the sighting), and its order.
    """
    for row, received, asset, document, kind, name, at, address, skew, head in db.execute(
        f"SELECT g.id, g.received_at, g.asset_id, {SIGHTING_COLUMNS} FROM estate_sighting g "
        f"JOIN estate_source s ON s.id = g.source_id {where}",
        values,
    ).fetchall():
        readings = []
        for entry in json.loads(head):
            digest = bytes.fromhex(entry.pop("hash"))
            readings.append({**entry, **json.loads(stored_body(db, digest))})
        yield {
            "row": row,
            "received": received,
            "asset": asset,
            "document": {
                "schema": SCHEMA,
                "id": document,
                "source": {"kind": kind, "name": name},
                "at": at,
                "address": address or None,
                "clock_skew": skew,
                "readings": readings,
            },
        }
