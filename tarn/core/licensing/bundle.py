"""A position as an auditor takes it away: all it follows from, signed and dated, so that anyone can reckon it anew.

A bundle is a signed archive (`core/signed_archive.py`) of JSON files; its manifest names the day, who made it and when.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict
from datetime import date
from typing import Any

from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from pydantic import TypeAdapter

from tarn.core.licensing.metrics import METRICS
from tarn.core.licensing.position import Balance, LeftOut
from tarn.core.licensing.reckon import Basis, reckon
from tarn.core.licensing.rights import Licence, Use
from tarn.core.signed_archive import Verified, as_text, make_archive, verify

SCHEMA = "tarn.position/2"
_README = """This bundle holds a licence position of one day and everything it was reckoned from.

position.json    each balance: needed, entitled, assigned, short, spare, with its working
rules.json       the licences as they were counted, and what each metric means
uses.json        each installation that counts, with what is known of its device
assignment.json  which licence covers which installation, and by which right
left_out.json    what does not count, and why: by reason and product the devices (named in uses.json)
manifest.json    the SHA-256 of each file; signature.json signs it

`tarn verify-position FILE` checks hashes and signature and reckons the position anew from rules and uses.
"""


def _told(balance: Balance) -> dict[str, Any]:
    kept = ("key", "metric", "unit", "needed", "entitled", "assigned", "short", "spare", "installations")
    return {
        **{name: getattr(balance, name) for name in kept},
        "working": [[s.sign, s.figure, s.text, s.note] for s in balance.working],
    }


def make_bundle(basis: Basis, made_by: str, made_at: str, key: Ed25519PrivateKey) -> bytes:
    """Return the bundle of a position as the bytes of a ZIP archive."""
    whole = reckon(basis)
    held, told = whole.held, whole.balances
    rules = {
        "day": basis.day,
        "licences": [asdict(licence) for licence in basis.licences],
        "metrics": {m.name: m.text for m in METRICS.values()},
        "pins": basis.pins,
        "peaks": basis.peaks,
        "disputed": sorted(basis.disputed),
        "names": basis.names,
    }
    files = {
        "README.txt": _README.encode(),
        "position.json": as_text({"day": basis.day, "balances": [_told(balance) for balance in told]}),
        "rules.json": as_text(rules),
        "uses.json": as_text({"uses": [asdict(u) for u in basis.uses], "devices": basis.devices}),
        "assignment.json": as_text(
            {str(k): {"licence": v, "right": held.right_of[k]} for k, v in sorted(held.licence_of.items())}
        ),
        "left_out.json": as_text([asdict(left) for left in basis.left_out]),
    }
    about = {"schema": SCHEMA, "day": basis.day, "made_at": made_at, "made_by": made_by}
    return make_archive(files, about, key)


def verify_bundle(content: bytes) -> Verified:
    """Check a bundle: its hashes, its signature, and that the position follows from rules and uses."""
    return verify(content, SCHEMA, "bundle of a position", "day", _reckoned_anew)


def _reckoned_anew(files: Mapping[str, bytes]) -> tuple[list[str], int]:
    rules, uses = json.loads(files["rules.json"]), json.loads(files["uses.json"])
    numbers = TypeAdapter(dict[int, int])
    basis = Basis(
        day=date.fromisoformat(rules["day"]),
        licences=TypeAdapter(list[Licence]).validate_python(rules["licences"]),
        uses=TypeAdapter(list[Use]).validate_python(uses["uses"]),
        pins=numbers.validate_python(rules["pins"]),
        peaks=numbers.validate_python(rules["peaks"]),
        disputed=rules["disputed"],
        left_out=TypeAdapter(list[LeftOut]).validate_json(files["left_out.json"]),
        names=TypeAdapter(dict[int, str]).validate_python(rules["names"]),
        devices=TypeAdapter(dict[int, str]).validate_python(uses["devices"]),
    )
    whole = reckon(basis)
    held, told = whole.held, whole.balances
    said = {b["key"]: b for b in json.loads(files["position.json"])["balances"]}
    anew = {balance.key: json.loads(as_text(_told(balance))) for balance in told}
    faults = [
        f"the balance {key} does not follow from rules and uses"
        for key in sorted({*said, *anew})
        if said.get(key) != anew.get(key)
    ]
    licences = {int(k): v["licence"] for k, v in json.loads(files["assignment.json"]).items()}
    if licences != held.licence_of:
        faults.append("the assignment does not follow from rules and uses")
    return faults, len(said)
