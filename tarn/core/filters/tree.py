"""The tree of a filter, its JSON face and its text face. No meaning is checked here."""

import json
import re
from dataclasses import dataclass, fields
from typing import Any, Union


@dataclass(frozen=True, slots=True)
class Plain:
    """A value as written, `quoted` if it stood in quotes; `pos` its place in the text."""

    text: str
    quoted: bool = False
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Pattern:
    """A regular expression."""

    text: str
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Phrase:
    """A named list or pattern, `@name`."""

    name: str
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Moment:
    """`today`, `now` or a date, with shifts such as ("-", 30, "d")."""

    base: str
    shifts: tuple[tuple[str, int, str], ...] = ()
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Between:
    """A range, both ends in."""

    low: Union[Plain, Moment]
    high: Union[Plain, Moment]
    pos: int = 0


Value = Union[Plain, Pattern, Phrase, Moment, Between]


@dataclass(frozen=True, slots=True)
class All:
    """Every one holds. No items: everything."""

    items: tuple["Node", ...]


@dataclass(frozen=True, slots=True)
class Any_:
    """At least one holds."""

    items: tuple["Node", ...]


@dataclass(frozen=True, slots=True)
class Not:
    """It does not hold."""

    item: "Node"


@dataclass(frozen=True, slots=True)
class Compare:
    """A field against one value; `op` is one of = != < <= > >= ~ !~."""

    field: str
    op: str
    value: Value
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Within:
    """A field is one of several values."""

    field: str
    values: tuple[Value, ...]
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Presence:
    """A field has a value, or has none."""

    field: str
    present: bool
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Has:
    """Some item of a list, or none, for which all of `inner` holds."""

    group: str
    inner: "Node | None" = None
    no: bool = False
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Counted:
    """The number of items of a list for which `inner` holds, against a number."""

    group: str
    op: str
    number: Value
    inner: "Node | None" = None
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Unread:
    """Nothing has ever read that section of it, so nobody knows what it holds."""

    section: str
    pos: int = 0


@dataclass(frozen=True, slots=True)
class InSet:
    """Membership of a kept set."""

    name: str
    pos: int = 0


@dataclass(frozen=True, slots=True)
class Related:
    """Some asset in that relation for which `inner` holds, or none; `heard`: only as it was confirmed that lately, such
    as 7d."""

    relation: str
    inner: "Node"
    no: bool = False
    pos: int = 0
    heard: str = ""


@dataclass(frozen=True, slots=True)
class Words:
    """Bare words: each is found in some name, number, serial, address or person."""

    words: tuple[str, ...]
    pos: int = 0


Node = Union[All, Any_, Not, Compare, Within, Presence, Has, Counted, Unread, InSet, Related, Words]

EVERYTHING = All(())

_KINDS: dict[str, type] = {
    "all": All,
    "any": Any_,
    "not": Not,
    "compare": Compare,
    "within": Within,
    "presence": Presence,
    "has": Has,
    "counted": Counted,
    "unread": Unread,
    "in_set": InSet,
    "related": Related,
    "words": Words,
    "plain": Plain,
    "pattern": Pattern,
    "phrase": Phrase,
    "moment": Moment,
    "between": Between,
}
_NAMES = {cls: name for name, cls in _KINDS.items()}


def to_json(node: Any) -> Any:
    """Return a tree as plain data: each node an object with `is` and its parts; places are left out."""
    if isinstance(node, tuple):
        return [to_json(n) for n in node]
    if type(node) in _NAMES:
        parts = {f.name: to_json(getattr(node, f.name)) for f in fields(node) if f.name != "pos"}
        return {"is": _NAMES[type(node)], **parts}
    return node


def from_json(data: Any) -> Any:
    """Return the tree of plain data. Raises ValueError naming what it does not know."""
    if isinstance(data, list):
        return tuple(from_json(d) for d in data)
    if isinstance(data, dict):
        kind = data.get("is")
        if kind not in _KINDS:
            raise ValueError(f"a filter's tree has no node “{kind}”")
        cls = _KINDS[kind]
        parts = {k: from_json(v) for k, v in data.items() if k != "is"}
        unknown = set(parts) - {f.name for f in fields(cls)}
        if unknown:
            raise ValueError(f"the node “{kind}” has no part “{sorted(unknown)[0]}”")
        try:
            return cls(**parts)
        except TypeError as error:
            raise ValueError(f"the node “{kind}” lacks a part: {error}") from None
    return data


_SAFE = re.compile(r"^[^\W_](?:(?!\.\.)[\w.:/*%\-])*$")
RESERVED = frozenset(["and", "or", "not", "no", "some", "in", "none", "today", "now", "count", "field", "unread"])


def quote(text: str) -> str:
    """Return a word as it stands in a filter: in quotes only where it needs them."""
    if text == "/" or (_SAFE.match(text) and text.lower() not in RESERVED):
        return text
    return json.dumps(text, ensure_ascii=False)


def quote_word(text: str) -> str:
    """Return a word where no field is compared with it: alone there, a slash would begin a pattern."""
    return '"/"' if text == "/" else quote(text)


def value_text(value: Value) -> str:
    """Return a value as a filter writes it."""
    match value:
        case Plain(text, quoted):
            return json.dumps(text, ensure_ascii=False) if quoted and not _SAFE.match(text) else quote(text)
        case Pattern(text):
            return f"/{text}/"
        case Phrase(name):
            return f"@{name}"
        case Moment(base, shifts):
            return base + "".join(f" {sign} {number}{unit}" for sign, number, unit in shifts)
        case Between(low, high):
            return f"{value_text(low)} .. {value_text(high)}"
    raise TypeError(value)


def field_text(name: str) -> str:
    """Return a field's name as a filter writes it: one of the company's own as field("…")."""
    return f"field({json.dumps(name[6:], ensure_ascii=False)})" if name.startswith("field:") else name


def to_text(node: Node, inside: str = "") -> str:
    """Return a tree as text that reads back to the same tree."""
    match node:
        case All(items):
            text = " and ".join(to_text(i, "all") for i in items)
            return f"({text})" if inside in ("not", "all") and len(items) > 1 else text
        case Any_(items):
            text = " or ".join(to_text(i, "any") for i in items)
            return f"({text})" if inside and len(items) > 1 else text
        case Not(item):
            return "not " + to_text(item, "not")
        case Compare(field, op, value):
            return f"{field_text(field)} {op} {value_text(value)}"
        case Within(field, values):
            inner = ", ".join(value_text(v) for v in values)
            return f"{field_text(field)} in " + (inner if len(values) == 1 else f"({inner})")
        case Presence(field, present):
            return f"{field_text(field)} {'!=' if present else '='} none"
        case Has(group, inner, no):
            if inner is None:
                return f"no {group}" if no else f"count {group} > 0"
            return f"{'no ' if no else ''}{group}[{to_text(inner)}]"
        case Counted(group, op, number, inner):
            bracket = f"[{to_text(inner)}]" if inner is not None else ""
            return f"count {group}{bracket} {op} {value_text(number)}"
        case Unread(section):
            return f"unread {section}"
        case InSet(name):
            return f"in set {json.dumps(name, ensure_ascii=False)}"
        case Related(relation, inner, no, _, heard):
            lately = f" heard within {heard}" if heard else ""
            return f"{'no ' if no else ''}{relation} [{to_text(inner)}]{lately}"
        case Words(words):
            return " ".join(quote_word(w) for w in words)
    raise TypeError(node)


def numbers_in(node: Node) -> list[str]:
    """Return the asset numbers a filter names one by one at its top, in their order; none where it names none."""
    match node:
        case Within("number", items):
            return [one.text for one in items if isinstance(one, Plain)]
        case All(items):
            return [number for item in items for number in numbers_in(item)]
    return []
