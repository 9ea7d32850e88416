"""Makers' names and models': the many spellings of one brought to one."""

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


@lru_cache(maxsize=10_000)
def model(name: str, made_by: str = "") -> str:
    """Return a model's name without its maker's in front, trade marks or needless space; `made_by` as `maker` gives it.

    "Halberd Keel 14", "Keel_14" and "Keel 14 (TM)" by Halberd are all "Keel 14". One named like its maker stays.
    """
    words = re.sub(r"\((?:R|TM|C)\)|[®™©]", " ", name.replace("_", " "), flags=re.I).split()
    own = [w for w in fold(made_by).split() if w]
    while own and len(words) > len(own) and [fold(w).strip(".,") for w in words[: len(own)]] == own:
        words = words[len(own) :]
        while len(words) > 1 and fold(words[0]).strip(".,") in _FORMS:
            words = words[1:]
    return " ".join(words)


_GENERAL = (
    _FORMS
    | frozenset(
        ("computer", "computers", "systems", "system", "technology", "technologies", "electronics", "group", "holding")
    )
    | frozenset(
        ("holdings", "the", "and", "of", "industries", "works", "products", "devices", "hardware", "enterprise")
    )
)
"""Words that stand in one spelling of a maker's name and not in another."""


@lru_cache(maxsize=10_000)
def normal(name: str) -> str:
    """Return a maker's name as it is compared: without case, accents, punctuation, legal forms and order of words.

    "HALBERD COMPUTER CORP", "Halberd, Inc." and "Halberd" are one. A name of nothing but general words keeps them.
    """
    words = re.sub(r"[^a-z0-9]+", " ", fold(name.replace("(R)", "").replace("(TM)", "").replace(".", ""))).split()
    telling = [w for w in words if w not in _GENERAL] or words
    return " ".join(sorted(set(telling)))


@lru_cache(maxsize=10_000)
def akin(one: str, other: str) -> bool:
    """Whether two normal forms may be one maker: the words of one are among the other's, or they differ by joining."""
    a, b = set(one.split()), set(other.split())
    return a <= b or b <= a or "".join(sorted(one.replace(" ", ""))) == "".join(sorted(other.replace(" ", "")))
