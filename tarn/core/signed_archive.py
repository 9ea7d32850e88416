"""Archives that others can check: a ZIP of files, each with its SHA-256 (FIPS 180-4) in `manifest.json`, and in
`signature.json` an Ed25519 signature (RFC 8032) over the manifest's bytes with the public key."""

import base64
import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date
from typing import Any

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey
from cryptography.hazmat.primitives.kdf.hkdf import HKDF


def _plain(value: Any) -> Any:
    if isinstance(value, (frozenset, set)):
        return sorted(value)
    if isinstance(value, date):
        return value.isoformat()
    raise TypeError(f"{type(value)} has no place in a bundle")


def as_text(value: Any) -> bytes:
    """Return a value as the JSON text that an archive holds of it."""
    return json.dumps(value, default=_plain, sort_keys=True, indent=1, ensure_ascii=False).encode()


def key_of(secret: bytes) -> Ed25519PrivateKey:
    """Return the key an installation signs its archives with, derived from its secret (HKDF, RFC 5869)."""
    seed = HKDF(hashes.SHA256(), 32, None, b"tarn position bundles").derive(secret)
    return Ed25519PrivateKey.from_private_bytes(seed)


def fingerprint(public: bytes) -> str:
    """Return how people compare a public key: its SHA-256 in groups of four."""
    digest = hashlib.sha256(public).hexdigest()[:32]
    return " ".join(digest[n : n + 4] for n in range(0, 32, 4))


def make_archive(files: Mapping[str, bytes], about: Mapping[str, Any], key: Ed25519PrivateKey) -> bytes:
    """Return the bytes of a signed archive of files. `about`: what the manifest says beside their hashes: `schema`,
    `made_by`, `made_at` and what else it is of."""
    manifest = as_text(
        {**about, "sha256": {name: hashlib.sha256(content).hexdigest() for name, content in files.items()}}
    )
    public = key.public_key().public_bytes(serialization.Encoding.Raw, serialization.PublicFormat.Raw)
    signed = {"signature": base64.b64encode(key.sign(manifest)).decode(), "key": base64.b64encode(public).decode()}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in {**files, "manifest.json": manifest, "signature.json": as_text(signed)}.items():
            archive.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), content)
    return out.getvalue()


@dataclass(frozen=True)
class Opened:
    """What an archive holds, and what is wrong with it in words. Where it cannot be read at all there are no files."""

    faults: list[str]
    files: dict[str, bytes] = field(default_factory=dict)
    manifest: dict[str, Any] = field(default_factory=dict)
    fingerprint: str = ""


def open_archive(content: bytes, schema: str, what: str) -> Opened:
    """Open a signed archive and check its hashes and its signature. `what`: what it should be, in words."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            twice = sorted({name for name in names if names.count(name) > 1})
            files = {name: archive.read(name) for name in names}
        manifest = json.loads(files["manifest.json"])
        signed = json.loads(files["signature.json"])
        public = base64.b64decode(signed["key"])
        hashes_ = dict(manifest["sha256"])
        if manifest["schema"] != schema:
            return Opened([f"this bundle is of the form “{manifest['schema']}”; this release checks {schema}"])
    except (zipfile.BadZipFile, KeyError, ValueError, TypeError, AttributeError, OSError) as wrong:
        return Opened([f"this is no {what}: {wrong}"])
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
    return Opened(faults, files, manifest, fingerprint(public))


@dataclass(frozen=True)
class Verified:
    """What a check found: `faults` in words (none: it is sound), and what the archive says of itself: what it is `of`,
    who made it and when; `number`: of how many things."""

    faults: list[str]
    of: str = ""
    made_by: str = ""
    made_at: str = ""
    fingerprint: str = ""
    number: int = 0


def verify(
    content: bytes, schema: str, what: str, of: str, anew: Callable[[Mapping[str, bytes]], tuple[list[str], int]]
) -> Verified:
    """Check an archive: its hashes, its signature, and that what it says follows from what it holds.

    `of`: what its manifest names what it is of by; `anew`: reckons from its files what does not follow, and of how many
    things; where it cannot (KeyError, ValueError, TypeError, AttributeError) that is a fault too.
    """
    opened = open_archive(content, schema, what)
    faults, number = list(opened.faults), 0
    if not opened.files:
        return Verified(faults)
    try:
        more, number = anew(opened.files)
        faults += more
    except (KeyError, ValueError, TypeError, AttributeError) as wrong:
        faults.append(f"what it says cannot be reckoned anew: {wrong}")
    named, made_by, made_at = (str(opened.manifest.get(n, "")) for n in (of, "made_by", "made_at"))
    return Verified(faults, named, made_by, made_at, opened.fingerprint, number)
