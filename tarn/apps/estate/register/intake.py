"""Found devices that wait for a decision, and sightings whose asset is undecided."""

import json
from typing import Any, cast

from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.dossier import document as read_document
from tarn.apps.estate.register.dossier import plate
from tarn.apps.estate.register.pages import page
from tarn.apps.estate.register.results import UndecidedOut, WaitingDevice
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.scope import scope

_FIELDS = ["name", "number", "kind", "manufacturer", "model", "serial", "place", "address", "mac", "os.name",
           "os.version", "first_seen", "last_seen", "software.count", "aside_reason", "standing"]  # fmt: skip


def waiting(standing: str = "intake", most: int = 500) -> list[WaitingDevice]:
    """Return the devices of a standing, the guess at their kind and its reasons beside."""
    rows = page(question("", standing=standing), _FIELDS, "name", 0, most)
    if not rows:
        return []
    guesses = {
        i: (g, s, json.loads(r))
        for i, g, s, r in raw_connection().execute(
            "SELECT id, guess, sure, guess_reasons FROM estate_asset WHERE id IN "
            f"({','.join(str(r['id']) for r in rows)})"
        )
    }
    for row in rows:
        row["guess"], row["sure"], row["reasons"] = guesses[row["id"]]
    return cast("list[WaitingDevice]", rows)  # of _FIELDS and the guess


def number_waiting() -> int:
    """Return how many devices wait for a decision."""
    return count(question("", standing="intake"))


def number_undecided() -> int:
    """Return how many sightings wait for a person to say whose they are."""
    if scope() is not None:
        return len(undecided())  # whose they are is in their documents
    statement = "SELECT count(DISTINCT source_id || '/' || ifnull(address, '')) FROM estate_sighting WHERE verdict = ?"
    return int(raw_connection().execute(statement, ["undecided"]).fetchone()[0])


def undecided() -> list[UndecidedOut]:
    """Return sightings whose asset a person must decide: the latest of each source and address, both sides shown."""
    latest: dict[tuple[int, str], tuple[Any, ...]] = {}
    for row in raw_connection().execute(
        "SELECT g.source_id, g.address, g.document, o.kind, o.name, g.at, g.reasons, g.candidates "
        "FROM estate_sighting g JOIN estate_source o ON o.id = g.source_id WHERE g.verdict = 'undecided' ORDER BY g.id"
    ):
        latest[row[0], row[1]] = row
    out: list[UndecidedOut] = []
    for _, address, document, kind, name, at, reasons, candidates in latest.values():
        found = read_document(document)
        if found is None:
            continue  # not of an organisation whoever asks may see
        out.append(
            {
                "document": document,
                "source_kind": kind,
                "source": name,
                "address": address,
                "at": iso(at),
                "reasons": json.loads(reasons),
                "says": _said(found),
                "candidates": [p for c in json.loads(candidates) if (p := plate(c, None))],
            }
        )
    return out


def _said(document: dict[str, Any]) -> dict[str, Any]:
    """Return what an undecided sighting says of the device's identity."""
    out: dict[str, Any] = {}
    for reading in document["readings"]:
        if reading["section"] in ("identity", "system"):
            for key, value in reading["facts"].items():
                if value and key not in out:
                    out[key] = value
    return out
