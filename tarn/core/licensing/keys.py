"""Licence keys as text: many taken apart, and one known again without being shown."""

import hashlib
import hmac
import re

LONG_GROUP = 8
"""Characters of a part between blanks from which it is a key of its own; shorter ones are groups of one key."""


def split_keys(text: str) -> list[str]:
    """Return pasted keys, parted by line ends, semicolons, tabs and commas, in whatever mixture.

    Blanks part keys too, unless what stands between them is short: “AB12C DE34F GH56J” is one key in groups.
    """
    out: list[str] = []
    for part in re.split(r"[\r\n;\t,]+", text):
        words = part.split()
        if len(words) > 1 and all(len(w) >= LONG_GROUP for w in words):
            out += words
        elif words:
            out.append(" ".join(words))
    return out


MOST_SHOWN = 5


def tail_of(key: str) -> str:
    """Return the end of a key by which a person knows it again: a fifth of it, five characters at the most.

    Of a short one nothing is shown: what is left to guess would be too little. One that is itself only an end
    (“…Q6YDW”) is all that is known of it.
    """
    if key.startswith("…"):
        return key[-MOST_SHOWN:]
    plain = re.sub(r"[\s-]", "", key)
    shown = min(MOST_SHOWN, len(plain) // 5)
    return plain[-shown:] if len(plain) >= 10 else ""


def digest_of(key: str, secret: bytes) -> str:
    """Return what finds a key again (HMAC, RFC 2104, with SHA-256): the same for any spacing and case."""
    plain = re.sub(r"\s", "", key).upper()
    return hmac.new(secret, plain.encode(), hashlib.sha256).hexdigest()
