"""Makers' names: the many spellings of one maker brought to one."""

import re
from functools import lru_cache

from tarn.core.text import fold

_FORMS = frozenset(
    [
        "inc",
        "incorporated",
        "corp",
        "corporation",
        "co",
        "company",
        "ltd",
        "limited",
        "llc",
        "llp",
        "plc",
        "gmbh",
        "mbh",
        "ag",
        "kg",
        "sa",
        "sas",
        "sarl",
        "spa",
        "srl",
        "bv",
        "nv",
        "ab",
        "oy",
        "as",
        "aps",
        "kk",
        "pty",
        "pte",
        "intl",
        "international",
    ]
)
"""Legal forms and the like, as they stand at the end of a name, dots taken out."""


@lru_cache(maxsize=10_000)
def maker(name: str) -> str:
    """Return a maker's name without its legal form, and not in capitals throughout.

    "HALBERD CORPORATION", "Halberd Corp." and "Halberd, Inc." are all "Halberd". A name of up to four capitals is held
    to be an abbreviation and stays; one that is nothing but legal forms stays as it is.
    """
    words = re.sub(r"[,;]+", " ", name).replace("(R)", "").replace("®", "").replace("™", "").split()
    kept = list(words)
    while len(kept) > 1 and fold(kept[-1]).replace(".", "").strip("-&") in _FORMS:
        kept.pop()
    if not kept or fold(kept[0]).replace(".", "") in _FORMS:
        kept = words
    return " ".join(w.capitalize() if w.isupper() and len(w) > 4 else w for w in kept)
