"""Keys and certificates of simulated devices: the same at every start."""

import base64
import datetime as dt
import hashlib
from functools import lru_cache

import asyncssh
from cryptography import x509
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.x509.oid import NameOID


def _key(*parts: str) -> Ed25519PrivateKey:
    return Ed25519PrivateKey.from_private_bytes(hashlib.sha256("|".join(parts).encode()).digest())


@lru_cache(maxsize=1000)
def host_key(name: str) -> asyncssh.SSHKey:
    """Return a device's SSH host key."""
    pem = _key("host", name).private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.OpenSSH, serialization.NoEncryption()
    )
    return asyncssh.import_private_key(pem)


def certificate_pem(subject: str, begins: dt.datetime, ends: dt.datetime) -> bytes:
    """Return a device's key and self-signed certificate. Ed25519 signs the same each time (RFC 8032)."""
    key = _key("tls", subject)
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, subject)])
    midnight = {"hour": 0, "minute": 0, "second": 0, "microsecond": 0}
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(int.from_bytes(hashlib.sha256(subject.encode()).digest()[:8], "big"))
        .not_valid_before(begins.replace(**midnight))  # type: ignore[arg-type]
        .not_valid_after(ends.replace(**midnight))  # type: ignore[arg-type]
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(subject)]), critical=False)
        .sign(key, None)
    )
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return private + made.public_bytes(serialization.Encoding.PEM)


def public_pin(subject: str) -> str:
    """Return the pin of the key in a certificate of that subject (RFC 7469, 2.4): the same at every start."""
    told = (
        _key("tls", subject)
        .public_key()
        .public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    )
    return base64.b64encode(hashlib.sha256(told).digest()).decode()
