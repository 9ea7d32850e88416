"""SNMP values as text, hardware addresses and columns."""

import re
from typing import Any

from tarn.collect.snmp.client import Walker

MOST_TEXT = 480


def text(value: Any) -> str:
    """Return an octet string as text: UTF-8, or Latin-1 where it is none; control characters become spaces."""
    if isinstance(value, bytes):
        try:
            value = value.decode()
        except UnicodeDecodeError:
            value = value.decode("latin-1")
    return re.sub(r"[\x00-\x1f\x7f\s]+", " ", str(value)).strip()[:MOST_TEXT]


def mac(value: Any) -> str | None:
    """Return a hardware address, or None where the octets are none."""
    if isinstance(value, bytes) and len(value) == 6 and any(value):
        return value.hex(":")
    return None


async def column(walker: Walker, oid: str) -> dict[str, Any]:
    """Return a column as values by index."""
    cut = len(oid) + 1
    return {o[cut:]: v for o, v in await walker.walk(oid)}
