"""Small values as they are kept: JSON (RFC 8259), written and read by the thousand a second.

The library makes an encoder for each call that asks for other than its own settings, and a scanner's whole
machinery for a word in quotes; most of what is kept is such a word.
"""

import json
from typing import Any

_encode = json.JSONEncoder(ensure_ascii=False).encode
_encode_close = json.JSONEncoder(separators=(",", ":")).encode
_decode = json.JSONDecoder().decode


def kept(value: Any) -> str:
    """Return a value as it is kept. Raises TypeError for what JSON has no form for."""
    return str(value) if type(value) is int else _encode(value)


def kept_close(value: Any) -> str:
    """Return a value as it is kept where many lie beside each other: ASCII, without spaces."""
    return _encode_close(value)


def read_kept(text: str) -> Any:
    """Return the value that is kept as `text`. Raises ValueError for what is none."""
    if text[:1] == '"' and text[-1:] == '"' and "\\" not in text and '"' not in text[1:-1] and len(text) > 1:
        return text[1:-1]
    return _decode(text)
