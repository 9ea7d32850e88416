"""Keys and certificates of simulated devices: the same at every start."""

import base64
import datetime as dt
import hashlib
from functools import lru_cache

import asyncssh
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.asymmetric.rsa import RSAPrivateKey, RSAPrivateNumbers, RSAPublicNumbers
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


@lru_cache(maxsize=50)
def _short_key(subject: str) -> RSAPrivateKey:
    """Return an RSA key of 1024 bits: of two primes found from its subject, so the same at every start."""
    exponent, primes, tried = 65_537, [], 0
    while len(primes) < 2:
        drawn = hashlib.sha512(f"{subject}|{tried}".encode()).digest()
        tried += 1
        number = int.from_bytes(drawn, "big") | 1 | 3 << 510
        if all(number % p for p in (3, 5, 7, 11, 13, 17, 19, 23)) and number % exponent != 1 and _prime(number):
            primes.append(number)
    p, q = sorted(primes, reverse=True)
    secret = pow(exponent, -1, (p - 1) * (q - 1))
    public = RSAPublicNumbers(exponent, p * q)
    return RSAPrivateNumbers(p, q, secret, secret % (p - 1), secret % (q - 1), pow(q, -1, p), public).private_key()


_SHA256_RSA, _SHA1_RSA = (bytes.fromhex(f"2a864886f70d0101{n}") for n in ("0b", "05"))
"""Object identifiers of the two signatures (RFC 8017, appendix C); they are of one length."""
_SHA1_DIGEST = bytes.fromhex("3021300906052b0e03021a05000414")


def _over_sha1(made: x509.Certificate, key: RSAPrivateKey) -> x509.Certificate:
    """Return a certificate signed anew over SHA-1 (RFC 8017, 9.2), which the library makes no more, and rightly."""
    told = made.tbs_certificate_bytes.replace(_SHA256_RSA, _SHA1_RSA)
    digest = _SHA1_DIGEST + hashlib.sha1(told, usedforsecurity=False).digest()
    length = key.key_size // 8
    padded = b"\x00\x01" + b"\xff" * (length - len(digest) - 3) + b"\x00" + digest
    numbers = key.private_numbers()
    signed = pow(int.from_bytes(padded, "big"), numbers.d, numbers.public_numbers.n).to_bytes(length, "big")
    der = made.public_bytes(serialization.Encoding.DER).replace(_SHA256_RSA, _SHA1_RSA)
    return x509.load_der_x509_certificate(der.replace(made.signature, signed))


def _prime(number: int) -> bool:
    """Whether a number passes Miller and Rabin's test for the first bases."""
    odd, twos = number - 1, 0
    while odd % 2 == 0:
        odd, twos = odd // 2, twos + 1
    for base in (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37):
        found = pow(base, odd, number)
        if found in (1, number - 1):
            continue
        for _ in range(twos - 1):
            found = found * found % number
            if found == number - 1:
                break
        else:
            return False
    return True


ROOT, ISSUER = "Skerrivane root of trust", "Skerrivane servers authority"
"""The company's own authorities: the first signs the second, and that one certificates of servers."""


def _authorities(begins: dt.datetime) -> list[x509.Certificate]:
    """Return the certificates of the authorities, the one that signs for servers first."""
    return [_authority(ISSUER, ROOT, begins), _authority(ROOT, ROOT, begins)]


def _authority(subject: str, issuer: str, begins: dt.datetime) -> x509.Certificate:
    names = [x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name)]) for name in (subject, issuer)]
    return (
        x509.CertificateBuilder()
        .subject_name(names[0])
        .issuer_name(names[1])
        .public_key(_key("tls", subject).public_key())
        .serial_number(int.from_bytes(hashlib.sha256(subject.encode()).digest()[:8], "big"))
        .not_valid_before(begins - dt.timedelta(days=700))
        .not_valid_after(begins + dt.timedelta(days=3_000))
        .add_extension(x509.BasicConstraints(ca=True, path_length=None), critical=True)
        .sign(_key("tls", issuer), None)
    )


def certificate_pem(
    subject: str, begins: dt.datetime, ends: dt.datetime, *, weak: bool = False, issued: bool = False
) -> bytes:
    """Return a device's key and certificate, self-signed or with those that sign it. Ed25519 signs the same each time (RFC 8032), and so does RSA
    by PKCS #1 v1.5 (RFC 8017), which a weak one is signed by, over SHA-1."""
    key: Ed25519PrivateKey | RSAPrivateKey = _short_key(subject) if weak else _key("tls", subject)
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, subject)])
    issuer = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, ISSUER)]) if issued else name
    midnight = {"hour": 0, "minute": 0, "second": 0, "microsecond": 0}
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(issuer)
        .public_key(key.public_key())
        .serial_number(int.from_bytes(hashlib.sha256(subject.encode()).digest()[:8], "big"))
        .not_valid_before(begins.replace(**midnight))  # type: ignore[arg-type]
        .not_valid_after(ends.replace(**midnight))  # type: ignore[arg-type]
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(subject)]), critical=False)
        .sign(_key("tls", ISSUER) if issued else key, hashes.SHA256() if isinstance(key, RSAPrivateKey) else None)
    )
    if isinstance(key, RSAPrivateKey):
        made = _over_sha1(made, key)
    private = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    presented = [made, *(_authorities(begins.replace(**midnight)) if issued else ())]  # type: ignore[arg-type]
    return private + b"".join(one.public_bytes(serialization.Encoding.PEM) for one in presented)


def public_pin(subject: str) -> str:
    """Return the pin of the key in a certificate of that subject (RFC 7469, 2.4): the same at every start."""
    told = (
        _key("tls", subject)
        .public_key()
        .public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    )
    return base64.b64encode(hashlib.sha256(told).digest()).decode()
