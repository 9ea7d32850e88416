"""What may come next in a filter: fields, comparisons, values, links."""

import re
from collections.abc import Callable
from dataclasses import dataclass

from lark.exceptions import UnexpectedInput

from tarn.core.fields import FIELDS, GROUPS, RELATIONS, Field
from tarn.core.filters.parse import grammar
from tarn.core.filters.tree import field_text, quote, quote_word
from tarn.core.text import fold

Values = Callable[[Field, str, int], list[str]]


@dataclass(frozen=True, slots=True)
class Offer:
    """One completion: `text` replaces what stands from `start` to the cursor; `kind` says what it is."""

    text: str
    kind: str
    detail: str
    start: int


_PARTIAL = re.compile(r"(@?[^\s()\[\],=<>!~\"@]*|\"[^\"]*)$")
_COMPARISONS = {
    "text": ("=", "~", "!=", "in"),
    "choice": ("=", "!=", "in"),
    "yes/no": ("=",),
    "address": ("in", "=", "~"),
    "version": ("<", "<=", "=", ">=", ">", "~"),
}
_ORDERED = ("<", "<=", "=", ">=", ">", "in")
_SAYS = {
    "=": "is",
    "!=": "is not",
    "~": "contains",
    "<": "under, or before",
    "<=": "at most",
    ">": "over, or after",
    ">=": "at least",
    "in": "one of, or within",
    "and": "both hold",
    "or": "one of them holds",
}
_MOMENTS = ["today", "now - 7d", "now - 30d", "today - 1y", "today + 60d"]


def complete(
    text: str, cursor: int, values: Values, phrases: list[str], sets: list[str], most: int = 40
) -> list[Offer]:
    """Return what may stand at the cursor, the likeliest first.

    `values(field, beginning, most)` gives words a field has had, for text fields.
    """
    before = text[:cursor]
    match = _PARTIAL.search(before)
    begun = match[0] if match else ""
    start = cursor - len(begun)
    head = before[:start]
    try:
        parser = grammar().parse_interactive(head)
        tokens = list(parser.exhaust_lexer())
    except UnexpectedInput:
        return []
    accepts: set[str] = parser.accepts()  # type: ignore[no-untyped-call]
    group = _open_group(head)
    group = group if group in GROUPS else ""  # in the bracket of a relation anything of an asset may stand
    known = GROUPS.get(group, FIELDS)
    offers: list[Offer] = []

    def add(words: list[tuple[str, str]], kind: str, suffix: str = "") -> None:
        wanted = fold(begun.strip('"'))
        ranked = sorted((w for w in words if wanted in fold(w[0])), key=lambda w: (not fold(w[0]).startswith(wanted),))
        offers.extend(Offer(w + suffix, kind, detail, start) for w, detail in ranked)

    if {"REGEX", "PHRASE"} <= accepts:
        last = next((t for t in reversed(tokens) if t.type == "NAME" and str(t).lower() in known), None)
        if last is not None:
            _add_values(known[str(last).lower()], begun, values, add)
            if not begun and tokens[-1].type == "EQUAL":
                add([("none", "it has no value")], "value")
        add([("@" + p, "phrase") for p in phrases], "phrase")
        return offers[:most]
    if tokens and tokens[-1].type == "IN_SET":
        add([(quote_word(s), "set") for s in sets], "set")
        return offers[:most]
    if "NAME" in accepts and not (tokens and tokens[-1].type == "NAME"):
        add([(field_text(f.name), f.meaning) for f in known.values()], "field")
        if not group:
            add([(g, f"some of its {g} …") for g in GROUPS], "list", "[")
            add([(relation, f"assets that {says} …") for relation, says in RELATIONS.items()], "list", " [")
            extra = [("no", "none of a list"), ("not", "turns a condition round"), ("count", "how many of a list")]
            add([*extra, ("in set", "in a kept set")], "word")
        return offers[:most]
    if tokens and tokens[-1].type == "NAME" and str(tokens[-1]).lower() in known and "EQUAL" in accepts:
        field = known[str(tokens[-1]).lower()]
        add([(c, _SAYS[c]) for c in _COMPARISONS.get(field.type, _ORDERED)], "comparison")
    if "AND" in accepts and (not tokens or str(tokens[-1]).lower() not in known):
        add([("and", _SAYS["and"]), ("or", _SAYS["or"])], "word")
    return offers[:most]


def _add_values(field: Field, begun: str, values: Values, add: Callable[..., None]) -> None:
    if field.type == "choice":
        add([(quote(c), "") for c in field.choices], "value")
        add([(quote(word), choice) for word, choice in field.also], "value")
    elif field.type == "yes/no":
        add([("yes", ""), ("no", "")], "value")
    elif field.type == "moment":
        add([(m, "") for m in _MOMENTS], "value")
    elif field.type in ("text", "version"):
        add([(quote(v), "") for v in values(field, begun.strip('"'), 30)], "value")


def _open_group(head: str) -> str:
    """Return the list whose bracket is open at the end of `head`, quoted text left out of account."""
    bare = re.sub(r'"(?:[^"\\]|\\.)*"', "", head)
    depth, at = 0, len(bare)
    while (at := max(bare.rfind("[", 0, at), bare.rfind("]", 0, at))) >= 0:
        if bare[at] == "]":
            depth += 1
        elif depth:
            depth -= 1
        else:
            name = re.search(r"([a-z_]+)\s*$", bare[:at])
            return name[1] if name else ""
    return ""
