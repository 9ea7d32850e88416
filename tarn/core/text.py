"""Text: folded for comparison, where letter case and accents do not count; and amounts in words."""

import unicodedata
from collections.abc import Iterable

RUNS = frozenset("=+-@\t\r")
"""What a text begins with that a spreadsheet would carry out (OWASP, CSV injection)."""


def cell(value: object) -> object:
    """Return a value as it stands in a file a spreadsheet opens: a text that would be carried out is only text."""
    return "'" + value if isinstance(value, str) and value[:1] in RUNS else value


def fold(text: str) -> str:
    """Return `text` without letter case and accents, for comparing and searching.

    Uses full case folding (Unicode Standard, section 3.13) after dropping the
    combining marks of the canonical decomposition (UAX #15, NFD).
    """
    if text.isascii():
        return text.lower()
    bare = "".join(c for c in unicodedata.normalize("NFD", text) if not unicodedata.combining(c))
    return bare.casefold()


def fitting(words: Iterable[str], between: str, most: int) -> str:
    """Return words put together, as many of them as fit into so many characters: none is cut within."""
    out = between.join(words)
    return out if len(out) <= most else out[: most + len(between)].rpartition(between)[0]


def nearest(word: str, known: list[str], most: int = 3) -> list[str]:
    """Return up to `most` of `known` that look like `word`, the likeliest first."""
    from difflib import get_close_matches

    folded = {fold(k): k for k in known}
    hits = get_close_matches(fold(word), list(folded), n=most, cutoff=0.6)
    starts = [k for f, k in folded.items() if f.startswith(fold(word)) and f not in hits]
    return ([folded[h] for h in hits] + starts)[:most]


def quantity(value: float, unit: str, step: int) -> str:
    """Return an amount with the greatest prefix that leaves at least one, three figures long: 480 GB, 2.5 Gb/s."""
    prefixes = ("", "k", "M", "G", "T", "P")
    power = 0
    while abs(value) >= step and power < len(prefixes) - 1:
        value /= step
        power += 1
    return f"{value:.3g} {prefixes[power]}{unit}"
