"""The protocol of a stock-taking as others can check it: signed, numbered; what it says follows from what it holds."""

import csv
import io
import json
from collections.abc import Iterable, Mapping
from typing import Any

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from tarn.core.counting import Expected, Met, figures, held_against, missing_at_most, near_by
from tarn.core.signed_archive import Verified, as_text, make_archive, verify

SCHEMA = "tarn.count/1"
_README = """This bundle is the protocol of a stock-taking.

protocol.pdf   for reading: what was expected, found, elsewhere, missing, and what else was met
count.json     what was counted, by whom, and the places as they lay within each other
expected.json  each device that was expected, and where
met.json       each thing that was met, where, when and by whom
lines.json     what the count says of each; lines.csv the same as a table
manifest.json  the SHA-256 of each file; signature.json signs it

`tarn verify-count FILE` checks hashes and signature and holds what was met against what was expected anew.
"""


def said(count: Mapping[str, Any], expected: Iterable[Mapping[str, Any]], met: Iterable[Mapping[str, Any]]) -> Any:
    """Return what a count says, from what a protocol holds: a line each, the figures, and of a sample what may be
    missing at most."""
    held = [Expected(int(e["key"]), str(e["place"])) for e in expected]
    things = [
        Met(int(m["key"]), of, bool(m["known"]), str(m["place"]), int(m["at"])) for m in met for of in m["of"] or [None]
    ]
    lines = held_against(held, things, near_by(count["places"]))
    sample = count.get("sample")
    missing = figures(lines)["missing"]
    at_most = (
        missing_at_most(int(sample["of"]), len(held), missing, float(sample["confidence"])) if sample and held else None
    )
    told = [{"state": x.state, "expected": x.expected, "met": x.met, "times": x.times} for x in lines]
    return {"lines": told, "figures": figures(lines), "missing_at_most": at_most}


def make_protocol(
    count: Mapping[str, Any],
    expected: list[dict[str, Any]],
    met: list[dict[str, Any]],
    pdf: bytes,
    key: Ed25519PrivateKey,
) -> bytes:
    """Return a protocol as the bytes of a signed archive. `count`: `number`, `name`, `closed_by`, `closed_at`, `places`
    (each place's parent by name), `sample` or none. Of what is expected `key`, `place` and words; of what was met
    `key`, `of` (keys of what it is), `known`, `place`, `at` and words."""
    told = said(count, expected, met)
    files = {
        "README.txt": _README.encode(),
        "protocol.pdf": pdf,
        "count.json": as_text(count),
        "expected.json": as_text(expected),
        "met.json": as_text(met),
        "lines.json": as_text(told),
        "lines.csv": _table(told["lines"], expected, met),
    }
    about = {"schema": SCHEMA, "number": count["number"], "made_by": count["closed_by"], "made_at": count["closed_at"]}
    return make_archive(files, about, key)


def _table(lines: list[dict[str, Any]], expected: list[dict[str, Any]], met: list[dict[str, Any]]) -> bytes:
    devices, things = {e["key"]: e for e in expected}, {m["key"]: m for m in met}
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["state", "number", "name", "expected at", "met at", "met by", "moment", "code", "note", "settled"])
    for line in lines:
        device, thing = devices.get(line["expected"], {}), things.get(line["met"], {})
        settled = device.get("settled") or thing.get("settled", "")
        row = [
            line["state"],
            device.get("number") or thing.get("number", ""),
            device.get("name") or thing.get("name", ""),
        ]
        row += [
            device.get("place", ""),
            *(thing.get(n, "") for n in ("place", "by", "moment", "code", "note")),
            settled,
        ]
        # A cell that begins so is a formula to a spreadsheet.
        table.writerow([f"'{v}" if isinstance(v, str) and v[:1] in "=+-@\t\r" else v for v in row])
    return ("\ufeff" + out.getvalue()).encode()


def verify_protocol(content: bytes) -> Verified:
    """Check a protocol: its hashes, its signature, and that what it says follows from what was expected and met."""
    return verify(content, SCHEMA, "protocol of a count", "number", _said_anew)


def _said_anew(files: Mapping[str, bytes]) -> tuple[list[str], int]:
    held = json.loads(files["expected.json"])
    anew = said(json.loads(files["count.json"]), held, json.loads(files["met.json"]))
    follows = json.loads(as_text(anew)) == json.loads(files["lines.json"])
    return [] if follows else ["what the count says does not follow from what was expected and met"], len(held)
