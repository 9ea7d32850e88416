"""Answers of Windows as values: text, numbers, moments, hardware addresses, rows."""

import re
from datetime import UTC, datetime
from typing import Any

Answer = dict[str, Any]
_MAC = re.compile(r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")


def text(value: Any) -> str:
    """Return a value as one line of text without control characters."""
    return re.sub(r"[\x00-\x1f\x7f\s]+", " ", "" if value is None else str(value)).strip()[:480]


def number(value: Any) -> int | None:
    """Return a whole number, or None where the computer gave none."""
    try:
        return int(value)
    except (TypeError, ValueError):
        return None


def moment(value: Any) -> int | None:
    """Return seconds since 1970 of a time as PowerShell prints it: `/Date(ms)/`, ISO 8601, or yyyymmdd."""
    said = text(value if not isinstance(value, dict) else value.get("value"))
    if match := re.match(r"^/Date\((-?\d+)", said):
        return int(match[1]) // 1000
    for shape in ("%Y%m%d", "%m/%d/%Y"):
        try:
            return int(datetime.strptime(said, shape).replace(tzinfo=UTC).timestamp())
        except ValueError:
            continue
    try:
        at = datetime.fromisoformat(said)
    except ValueError:
        return None
    return int((at if at.tzinfo else at.replace(tzinfo=UTC)).timestamp())


def rows(answer: Answer, name: str) -> list[dict[str, Any]]:
    """Return the rows of one question; PowerShell makes a list of one a single object."""
    got = answer.get(name) or []
    return [r for r in (got if isinstance(got, list) else [got]) if isinstance(r, dict)]


def one(answer: Answer, name: str) -> dict[str, Any]:
    return next(iter(rows(answer, name)), {})


def mac_of(value: Any) -> str | None:
    mac = text(value).lower().replace("-", ":")
    return mac if _MAC.match(mac) else None
