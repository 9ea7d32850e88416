"""The guess at a mapping: which column fills which target."""

import re
from collections.abc import Iterable
from typing import Any

from tarn.core.finance.money import CURRENCIES
from tarn.core.mapping import TARGETS, UNITS, MappingError, read_value

_PLAIN = re.compile(r"[^a-z0-9]+")


def _words(heading: str) -> str:
    return _PLAIN.sub(" ", re.sub(r"\([^)]*\)", "", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", heading)).lower()).strip()


def guess_mapping(headings: list[str], rows: Iterable[dict[str, Any]]) -> dict[str, dict[str, str]]:
    """Guess which column fills which target, from headings and then from what the first rows look like.

    Returns by target `{"from": heading, "unit": unit}`; a unit in brackets in the heading is taken. No column is
    used twice.
    """
    out: dict[str, dict[str, str]] = {}
    used: set[str] = set()
    for exact in (True, False):
        for heading in headings:
            said = _words(heading)
            for name, target in TARGETS.items():
                hit = said in target.words if exact else any(len(w) > 3 and w in said for w in target.words)
                if hit and name not in out and heading not in used:
                    out[name] = {"from": heading, "unit": _unit(heading)}
                    used.add(heading)
                    break
    sample = list(rows)
    for name in ("mac", "address"):
        if name in out:
            continue
        for heading in headings:
            values = [str(r.get(heading) or "") for r in sample if r.get(heading)]
            if heading not in used and values and all(_reads(name, v) for v in values):
                out[name] = {"from": heading, "unit": ""}
                used.add(heading)
                break
    return out


def _reads(name: str, value: str) -> bool:
    try:
        return read_value(name, value) is not None and any(c in value for c in ":.-")
    except MappingError:
        return False


def _unit(heading: str) -> str:
    match = re.search(r"[(\[]\s*([A-Za-z]+)\s*[)\]]|\bin ([kMGT]i?B)\b", heading)
    unit = (match[1] or match[2]) if match else ""
    return unit if unit in UNITS or unit in CURRENCIES else ""
