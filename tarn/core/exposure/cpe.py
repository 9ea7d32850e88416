"""Names of platforms, CPE 2.3: read by NISTIR 7695 (formatted strings), compared by NISTIR 7696."""

import re
from collections.abc import Iterable
from dataclasses import dataclass, fields
from enum import Enum
from functools import lru_cache

ANY, NA = "*", "-"
"""The two logical values, as a formatted string writes them: whatever it is, and not applicable."""


class OutsideNameError(ValueError):
    """A text that is no name by the standard it claims to follow."""


class Relation(Enum):
    """How a source stands to a target (NISTIR 7696, 6.1.1)."""

    SUPERSET = "superset"
    SUBSET = "subset"
    EQUAL = "equal"
    DISJOINT = "disjoint"
    UNDEFINED = "undefined"


@dataclass(frozen=True, slots=True)
class Cpe:
    """A well-formed name (NISTIR 7695, 5.2): eleven attributes, each ANY, NA or a value as a formatted string quotes
    it, in small letters."""

    part: str = ANY
    vendor: str = ANY
    product: str = ANY
    version: str = ANY
    update: str = ANY
    edition: str = ANY
    language: str = ANY
    sw_edition: str = ANY
    target_sw: str = ANY
    target_hw: str = ANY
    other: str = ANY

    def __str__(self) -> str:
        return "cpe:2.3:" + ":".join(getattr(self, f.name) for f in fields(self))


_PARTED = re.compile(r"(?:\\.|[^\\:])+")
_PLAIN = r"(?:[a-z0-9_.\-]|\\[!-/:-@\[-`{-~]|[^\x00-\x7f])"
_VALUE = re.compile(rf"\*|-|(?:\*|\?+)?{_PLAIN}+(?:\*|\?+)?")


@lru_cache(maxsize=50_000)
def read_cpe(text: str) -> Cpe:
    """Return the name a formatted string binds (NISTIR 7695, 6.2). Raises OutsideNameError.

    A dot and a hyphen within a value may stand unquoted, as most records write them.
    """
    if not text.lower().startswith("cpe:2.3:"):
        raise OutsideNameError(f"“{text[:80]}” is no CPE 2.3 name: it begins with cpe:2.3:.")
    values = _PARTED.findall(text[len("cpe:2.3:") :].lower())
    if len(values) != 11 or ":".join(values) != text[len("cpe:2.3:") :].lower():
        raise OutsideNameError(f"“{text[:80]}” is no CPE 2.3 name: eleven values parted by colons follow cpe:2.3:.")
    for field, value in zip(fields(Cpe), values, strict=True):
        if not _VALUE.fullmatch(value):
            raise OutsideNameError(f"“{text[:80]}”: “{value}” is no value of {field.name} (NISTIR 7695, 5.3.2).")
    if values[0] not in ("a", "o", "h", ANY):
        raise OutsideNameError(f"“{text[:80]}”: part is a, o or h, not “{values[0]}”.")
    return Cpe(*values)


def quoted(text: str) -> str:
    """Return a text as a value: small letters, blanks as underscores, other signs quoted (NISTIR 7695, 5.3.2)."""
    bare = "_".join(text.lower().split())
    return re.sub(r"([^a-z0-9_.\-\x80-\U0010ffff])", r"\\\1", bare) or ANY


def unquoted(value: str) -> str:
    """Return a value without its quoting backslashes."""
    return re.sub(r"\\(.)", r"\1", value)


def compare_attribute(source: str, target: str) -> Relation:
    """Return how two values of one attribute stand (NISTIR 7696, table 6-2)."""
    if _wild(target):
        return Relation.UNDEFINED
    if source == target:
        return Relation.EQUAL
    if source == ANY:
        return Relation.SUPERSET
    if target == ANY:
        return Relation.SUBSET
    if NA in (source, target):
        return Relation.DISJOINT
    if _wild(source):
        return Relation.SUPERSET if _pattern(source).fullmatch(target) else Relation.DISJOINT
    return Relation.EQUAL if unquoted(source) == unquoted(target) else Relation.DISJOINT


def compare(source: Cpe, target: Cpe, leave_out: Iterable[str] = ()) -> Relation:
    """Return how two names stand (NISTIR 7696, table 6-4), some attributes left out, as a version told by a range."""
    left = set(leave_out)
    told = {
        compare_attribute(getattr(source, f.name), getattr(target, f.name)) for f in fields(Cpe) if f.name not in left
    }
    if Relation.DISJOINT in told:
        return Relation.DISJOINT
    if Relation.UNDEFINED in told:
        return Relation.UNDEFINED
    if told <= {Relation.EQUAL}:
        return Relation.EQUAL
    if told <= {Relation.EQUAL, Relation.SUPERSET}:
        return Relation.SUPERSET
    if told <= {Relation.EQUAL, Relation.SUBSET}:
        return Relation.SUBSET
    return Relation.UNDEFINED


def _wild(value: str) -> bool:
    return value != ANY and bool(re.search(r"(?<!\\)[*?]", value))


@lru_cache(maxsize=10_000)
def _pattern(value: str) -> re.Pattern[str]:
    """Return what a value with wild cards matches: `*` any run of signs, each `?` one or none (NISTIR 7696, 6.3)."""
    out = []
    for escaped, plain in re.findall(r"\\(.)|([^\\])", value):
        if escaped:
            out.append(rf"\\?{re.escape(escaped)}")
        elif plain == "*":
            out.append(".*")
        elif plain == "?":
            out.append(r"(?:\\?.)?")
        else:
            out.append(rf"\\?{re.escape(plain)}" if plain in ".-" else re.escape(plain))
    return re.compile("".join(out), re.DOTALL)
