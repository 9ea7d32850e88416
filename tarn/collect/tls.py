"""Certificates of TLS ports: what is presented, whoever signed it (RFC 5280, RFC 8446)."""

import asyncio
import base64
import contextlib
import ssl
from collections.abc import Sequence
from hashlib import sha256

from cryptography import x509
from cryptography.exceptions import UnsupportedAlgorithm
from cryptography.hazmat.primitives.asymmetric.dsa import DSAPublicKey
from cryptography.hazmat.primitives.asymmetric.ec import EllipticCurvePublicKey
from cryptography.hazmat.primitives.asymmetric.ed448 import Ed448PublicKey
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
from cryptography.hazmat.primitives.asymmetric.rsa import RSAPublicKey
from cryptography.hazmat.primitives.serialization import Encoding, PublicFormat
from cryptography.x509.oid import NameOID

from tarn.collect.routes import Route
from tarn.core.items import Certificate
from tarn.core.text import fitting


def _context() -> ssl.SSLContext:
    # The certificate is evidence, not a ground for trust, so none is refused; old versions are met in the field.
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE
    context.minimum_version = ssl.TLSVersion.MINIMUM_SUPPORTED
    context.set_ciphers("ALL:@SECLEVEL=0")  # short keys and broken hashes are what is to be told
    return context


_CONTEXT = _context()


async def certificate(route: Route, address: str, port: int, seconds: float) -> Certificate | None:
    """Return the certificate a port presents, or None where it speaks no TLS."""
    host, number = route.dial(address, port)
    try:
        _, writer = await asyncio.wait_for(asyncio.open_connection(host, number, ssl=_CONTEXT), seconds)
    except (OSError, TimeoutError, ssl.SSLError):
        return None
    try:
        ders = _presented(writer.get_extra_info("ssl_object"))
    finally:
        writer.close()
        with contextlib.suppress(OSError, ssl.SSLError, TimeoutError):
            await asyncio.wait_for(writer.wait_closed(), 1)
    return read_certificate(ders[0], port, ders[1:]) if ders else None


def _presented(tls: ssl.SSLObject) -> list[bytes]:
    """Return what a port presented, its own certificate first; before Python 3.13 only the inner object has it all."""
    holder = tls if hasattr(tls, "get_unverified_chain") else tls._sslobj  # type: ignore[attr-defined]
    chain = holder.get_unverified_chain() or []
    return [c if isinstance(c, bytes) else ssl.PEM_cert_to_DER_cert(c.public_bytes()) for c in chain]


def pin_of(der: bytes) -> str:
    """Return the pin of a certificate's public key: the SHA-256 of its SubjectPublicKeyInfo, base64 (RFC 7469, 2.4).

    Empty where the key is of a kind that cannot be read.
    """
    try:
        key = x509.load_der_x509_certificate(der).public_key()
    except (ValueError, UnsupportedAlgorithm):
        return ""
    told = key.public_bytes(Encoding.DER, PublicFormat.SubjectPublicKeyInfo)
    return base64.b64encode(sha256(told).digest()).decode()


def read_certificate(der: bytes, port: int, signers: Sequence[bytes] = ()) -> Certificate:
    """Return what a certificate says, and whom those presented after it name. Raises ValueError where it is none."""
    cert = x509.load_der_x509_certificate(der)
    kind, bits = _key(cert)
    return Certificate(
        port=port,
        subject=_name(cert.subject),
        issuer=_name(cert.issuer),
        serial=f"{cert.serial_number:x}",
        begins=int(cert.not_valid_before_utc.timestamp()),
        ends=int(cert.not_valid_after_utc.timestamp()),
        fingerprint=sha256(der).hexdigest(),
        key=pin_of(der),
        key_kind=kind,
        key_bits=bits,
        hashed=_hashed(cert),
        names=_short(_names(cert), " "),
        chain=_short([_name(x509.load_der_x509_certificate(one).subject) for one in signers], "; "),
    )


MOST_WRITTEN = 3_900
"""Characters kept of names and of a chain: what is longer is cut at a whole one, and says so."""


def _short(words: list[str], between: str) -> str:
    held = fitting(words, between, MOST_WRITTEN)
    return held if held == between.join(words) else f"{held}{between}…"


def _names(cert: x509.Certificate) -> list[str]:
    """Return the DNS names and addresses a certificate holds for (RFC 5280, 4.2.1.6)."""
    try:
        said = cert.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (x509.ExtensionNotFound, ValueError):
        return []
    return [*said.get_values_for_type(x509.DNSName), *map(str, said.get_values_for_type(x509.IPAddress))]


def _key(cert: x509.Certificate) -> tuple[str, int | None]:
    """Return what sort of key a certificate has and how long it is in bits; nothing where it cannot be read."""
    try:
        key = cert.public_key()
    except (ValueError, UnsupportedAlgorithm):
        return "", None
    match key:
        case RSAPublicKey():
            return "RSA", key.key_size
        case DSAPublicKey():
            return "DSA", key.key_size
        case EllipticCurvePublicKey():
            return "EC", key.curve.key_size
        case Ed25519PublicKey():
            return "Ed25519", 256
        case Ed448PublicKey():
            return "Ed448", 456
    return type(key).__name__.strip("_").removesuffix("PublicKey"), None


def _hashed(cert: x509.Certificate) -> str:
    """Return the hash a certificate's signature is made over; empty for algorithms that have one of their own."""
    try:
        return cert.signature_hash_algorithm.name if cert.signature_hash_algorithm else ""
    except UnsupportedAlgorithm:
        return cert.signature_algorithm_oid.dotted_string


def _name(name: x509.Name) -> str:
    common = name.get_attributes_for_oid(NameOID.COMMON_NAME)
    return str(common[0].value) if common else name.rfc4514_string()[:300]
