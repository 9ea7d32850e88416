"""A position as an auditor takes it away: all it follows from, signed and dated, so that anyone can reckon it anew.

A bundle is a ZIP archive of JSON files. `manifest.json` names each file's SHA-256 (FIPS 180-4), the day, who made it
and when; `signature.json` carries an Ed25519 signature (RFC 8032) over the manifest's bytes and the public key.
"""

import base64
import hashlib
import io
import json
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from datetime import date
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from pydantic import TypeAdapter, ValidationError

from tarn.core.licensing.metrics import METRICS
from tarn.core.licensing.position import Balance, LeftOut
from tarn.core.licensing.reckon import Basis, reckon
from tarn.core.licensing.rights import Licence, Use

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


def _plain(value: Any) -> Any:
    if isinstance(value, (frozenset, set)):
        return sorted(value)
    if isinstance(value, date):
        return value.isoformat()
    raise TypeError(f"{type(value)} has no place in a bundle")


def _text(value: Any) -> bytes:
    return json.dumps(value, default=_plain, sort_keys=True, indent=1, ensure_ascii=False).encode()


def _told(balance: Balance) -> dict[str, Any]:
    kept = ("key", "metric", "unit", "needed", "entitled", "assigned", "short", "spare", "installations")
    return {
        **{name: getattr(balance, name) for name in kept},
        "working": [[s.sign, s.figure, s.text, s.note] for s in balance.working],
    }


def key_of(secret: bytes) -> Ed25519PrivateKey:
    """Return the key an installation signs its bundles with, derived from its secret (HKDF, RFC 5869)."""
    seed = HKDF(hashes.SHA256(), 32, None, b"tarn position bundles").derive(secret)
    return Ed25519PrivateKey.from_private_bytes(seed)


def fingerprint(public: bytes) -> str:
    """Return how people compare a public key: its SHA-256 in groups of four."""
    digest = hashlib.sha256(public).hexdigest()[:32]
    return " ".join(digest[n : n + 4] for n in range(0, 32, 4))


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
        "position.json": _text({"day": basis.day, "balances": [_told(balance) for balance in told]}),
        "rules.json": _text(rules),
        "uses.json": _text({"uses": [asdict(u) for u in basis.uses], "devices": basis.devices}),
        "assignment.json": _text(
            {str(k): {"licence": v, "right": held.right_of[k]} for k, v in sorted(held.licence_of.items())}
        ),
        "left_out.json": _text([asdict(left) for left in basis.left_out]),
    }
    manifest = _text(
        {
            "schema": SCHEMA,
            "day": basis.day,
            "made_at": made_at,
            "made_by": made_by,
            "sha256": {name: hashlib.sha256(content).hexdigest() for name, content in files.items()},
        }
    )
    public = key.public_key().public_bytes(serialization.Encoding.Raw, serialization.PublicFormat.Raw)
    signed = {"signature": base64.b64encode(key.sign(manifest)).decode(), "key": base64.b64encode(public).decode()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in {**files, "manifest.json": manifest, "signature.json": _text(signed)}.items():
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), content)
    return out.getvalue()


@dataclass(frozen=True)
class Verified:
    """What a check of a bundle found: `faults` in words (none: it is sound), and what it says of itself."""

    faults: list[str]
    day: str = ""
    made_by: str = ""
    made_at: str = ""
    fingerprint: str = ""
    balances: int = 0


def verify_bundle(content: bytes) -> Verified:
    """Check a bundle: its hashes, its signature, and that the position follows from rules and uses."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            twice = sorted({name for name in names if names.count(name) > 1})
            files = {name: archive.read(name) for name in names}
        manifest = json.loads(files["manifest.json"])
        signed = json.loads(files["signature.json"])
        public = base64.b64decode(signed["key"])
        hashes_ = dict(manifest["sha256"])
        if manifest["schema"] != SCHEMA:
            return Verified([f"this bundle is of the form “{manifest['schema']}”; this release checks {SCHEMA}"])
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError, OSError) as wrong:
        return Verified([f"this is no bundle of a position: {wrong}"])
    # Readers differ in which of two entries of one name they show; what is not in the manifest nobody signed.
    faults = [f"{name} is there twice" for name in twice]
    if archive.comment:
        faults.append("the archive carries a remark that nobody signed")
    try:
        Ed25519PublicKey.from_public_bytes(public).verify(base64.b64decode(signed["signature"]), files["manifest.json"])
    except (InvalidSignature, ValueError):
        faults.append("the signature does not fit the manifest")
    for name in sorted({*hashes_, *files} - {"manifest.json", "signature.json"}):
        if name not in files:
            faults.append(f"{name} is missing")
        elif hashes_.get(name) != hashlib.sha256(files[name]).hexdigest():
            faults.append(f"{name} is not what was signed")
    number = 0
    try:
        faults += _reckoned_anew(files)
        number = len(json.loads(files["position.json"])["balances"])
    except (KeyError, ValueError, ValidationError) as wrong:
        faults.append(f"the position cannot be reckoned anew: {wrong}")
    day, made_by, made_at = (str(manifest.get(n, "")) for n in ("day", "made_by", "made_at"))
    return Verified(faults, day, made_by, made_at, fingerprint(public), number)


def _reckoned_anew(files: Mapping[str, bytes]) -> Sequence[str]:
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
    anew = {balance.key: json.loads(_text(_told(balance))) for balance in told}
    faults = [
        f"the balance {key} does not follow from rules and uses"
        for key in sorted({*said, *anew})
        if said.get(key) != anew.get(key)
    ]
    licences = {int(k): v["licence"] for k, v in json.loads(files["assignment.json"]).items()}
    if licences != held.licence_of:
        faults.append("the assignment does not follow from rules and uses")
    return faults
