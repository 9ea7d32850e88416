"""Signed messages between systems (Standard Webhooks 1.0): what is signed, with which secret."""

import base64
import hashlib
import hmac
import secrets

_PREFIX = "whsec_"


def new_secret() -> str:
    """Return a new secret of 32 random bytes, as both sides write it."""
    return _PREFIX + base64.b64encode(secrets.token_bytes(32)).decode()


def signature(secret: str, message: str, stamp: str, body: bytes) -> str:
    """Return the signature of a message: HMAC-SHA256 (RFC 2104) over its id, its time stamp and its body."""
    key = base64.b64decode(secret.removeprefix(_PREFIX))
    signed = hmac.new(key, f"{message}.{stamp}.".encode() + body, hashlib.sha256).digest()
    return "v1," + base64.b64encode(signed).decode()
