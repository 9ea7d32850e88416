"""Licence keys as text: many taken apart, and one known again without being shown."""

import hashlib
import hmac
import re


def split_keys(text: str) -> list[str]:
    """Return pasted keys; what parts them is guessed: lines, else semicolons, tabs, commas, else blanks."""
    for mark in ("\n", ";", "\t", ","):
        if mark in text.strip():
            return [k for part in text.split(mark) if (k := part.strip(" \t\r\n,;"))]
    return text.split()


def digest_of(key: str, secret: bytes) -> str:
    """Return what finds a key again (HMAC, RFC 2104, with SHA-256): the same for any spacing and case."""
    plain = re.sub(r"\s", "", key).upper()
    return hmac.new(secret, plain.encode(), hashlib.sha256).hexdigest()
