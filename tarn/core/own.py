"""Fields and kinds of the company's own: what they may be, and their place in the registry of fields.

A field of one's own is a field like any other once it is known here: filters, columns, bands, reports, imports and
the pages that explain them read the one registry.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal, InvalidOperation
from functools import partial
from ipaddress import ip_address, ip_interface
from typing import Any

from tarn.core.fields import FIELDS, Field
from tarn.core.kinds import KINDS
from tarn.core.mapping import TARGETS, Target
from tarn.core.ranges import hardware_address
from tarn.core.sections import OWN
from tarn.core.text import fold

TYPES = {
    "text": "text of one line",
    "long text": "text of several lines",
    "number": "a number, with a unit if there is one",
    "money": "an amount, with its currency",
    "date": "a day",
    "yes/no": "yes or no",
    "choice": "one of a list of words",
    "person": "a person's name",
    "place": "a place",
    "asset": "another asset, by its number",
    "link": "an address of a page (https://…)",
    "address block": "an address with its mask, and if known gateway, hardware address and name",
    "made of others": "put together from fields",
}
"""Types a field may have."""

REGISTRY_TYPES = {
    "number": "number",
    "money": "number",
    "date": "moment",
    "yes/no": "yes/no",
    "choice": "choice",
    "address block": "addresses",
}
"""How the registry calls them; every other is text."""

PREFIX = "field:"
"""What the names of these fields begin with in the registry; a filter writes field("…")."""

MADE = "made."
"""What the place of a field made of others begins with in the registry; its template follows."""

TAGS = f"{OWN}tags"
"""How evidence calls the tags of an asset: labels that people give it, any number, parted by semicolons."""

_FORBIDDEN = '",\\/:'


class OwnError(ValueError):
    """A field, kind or value that cannot be; `field` says which part of it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class OwnField:
    """A field: on which kinds it is (empty: on all), in which group of the dossier, after which others."""

    name: str
    type: str = "text"
    unit: str = ""
    choices: tuple[str, ...] = ()
    help: str = ""
    group: str = ""
    required: bool = False
    kinds: tuple[str, ...] = ()
    position: int = 0
    many: bool = False
    """Whether it holds several values, parted by semicolons."""
    template: str = ""
    """What a field made of others is put together from."""
    listed: bool = False
    """Whether lists of assets show it unless told otherwise."""


TAG_FIELD = OwnField("tags", many=True)
"""The field that ships: tags are read and held like a company's own field of several values."""


@dataclass(frozen=True, slots=True)
class OwnKind:
    """A kind: below which other it stands, whose fields it has too but for the `hidden`."""

    name: str
    parent: str = ""
    icon: str = ""
    hidden: tuple[str, ...] = ()
    names: tuple[str, ...] = ()
    """What it is called in other languages; a filter and a file may say it so."""


def checked_name(text: str, what: str) -> str:
    """Return a name that filters and files can carry. Raises OwnError."""
    name = " ".join(text.split())
    if not name:
        raise OwnError("name", f"A {what} needs a name.")
    if len(name) > 60:
        raise OwnError("name", f"A name of {len(name)} characters is too long: at most 60.")
    if fold(name) == TAG_FIELD.name:
        raise OwnError("name", "Every asset has tags already.")
    if odd := next((c for c in name if c in _FORBIDDEN or not c.isprintable()), None):
        raise OwnError("name", f"A name cannot hold “{odd}”: filters and lists of columns use it.")
    return name


def check_field(field: OwnField) -> None:
    """Raise OwnError where a field cannot be."""
    if field.type not in TYPES:
        raise OwnError("type", f"“{field.type}” is no type; one of: {', '.join(TYPES)}.")
    if field.type == "choice" and len(field.choices) < 2:
        raise OwnError("choices", "A choice needs two words or more to choose from.")
    if field.type != "choice" and field.choices:
        raise OwnError("choices", f"Only a choice has words to choose from; this is {field.type}.")
    if len({fold(c) for c in field.choices}) != len(field.choices):
        raise OwnError("choices", "One of the words is there twice.")
    if field.many and field.type in ("made of others", "long text"):
        raise OwnError("many", f"A field that is {field.type} cannot hold several values.")
    if field.type == "made of others" or field.template:
        pieces(field)
    if field.type == "money" and len(field.unit) != 3:
        raise OwnError("unit", "An amount needs its currency, such as EUR (ISO 4217).")


_PIECE = re.compile(r"\{([^{}]*)\}")


def pieces(field: OwnField) -> list[tuple[str, str]]:
    """Return what a field made of others is put together from: a text and the field that follows it, empty at the end.

    `{name}` is a field of every asset, `{Berth side}` one of the company's own. Raises OwnError.
    """
    if field.type != "made of others":
        raise OwnError("template", "Only a field made of others is put together from fields.")
    if field.required:
        raise OwnError("required", "Nobody enters what is made of others, so it cannot be needed.")
    out, at = [], 0
    for match in _PIECE.finditer(field.template):
        name = match[1].strip()
        known = next((n for n in (name, name.lower(), f"{PREFIX}{name}") if n in FIELDS), None)
        if known is None:
            raise OwnError("template", f"There is no field “{name}” to put in.")
        if FIELDS[known].stored.startswith(MADE):
            raise OwnError("template", f"“{name}” is made of others itself.")
        out.append((field.template[at : match.start()], known))
        at = match.end()
    if not out:
        raise OwnError("template", "Write which fields it is made of, such as {name}, {place}.")
    if set("{}") & set(_PIECE.sub("", field.template)):
        raise OwnError("template", "A brace is opened and not closed, or closed and not opened.")
    return [*out, (field.template[at:], "")]


def made_of(field: Field) -> list[str]:
    """Return the fields a field is made of; none for one that is not made of others, or of what was dropped."""
    if not field.stored.startswith(MADE):
        return []
    try:
        return [name for _, name in pieces(OwnField("", "made of others", template=field.stored[len(MADE) :])) if name]
    except OwnError:
        return []


def lineage(kind: str, kinds: Iterable[OwnKind]) -> list[str]:
    """Return a kind and those above it, the nearest first. Raises OwnError for a circle, with its path."""
    parents = {k.name: k.parent for k in kinds}
    out = [kind]
    while parent := parents.get(out[-1], ""):
        if parent in out:
            raise OwnError("parent", f"The kinds go in a circle: {' → '.join([*out, parent])}.")
        out.append(parent)
    return out


def fields_of(kind: str, fields: Iterable[OwnField], kinds: Iterable[OwnKind]) -> list[OwnField]:
    """Return the fields an asset of a kind has: those of all, of the kind, and of those above it that it does not hide.

    In the order of their groups and positions.
    """
    held = {k.name: k for k in kinds}
    line = lineage(kind, held.values())
    hidden = set(held[kind].hidden) if kind in held else set()
    mine = [
        f
        for f in fields
        if (not f.kinds or set(f.kinds) & set(line)) and not (f.name in hidden and kind not in f.kinds)
    ]
    return sorted(mine, key=lambda f: (f.group, f.position, f.name))


def read_own(field: OwnField, raw: Any) -> str | int | float | bool | None:
    """Return a value as evidence holds it; None where it is empty. Raises OwnError naming the field and the value."""
    said = str(raw).strip() if raw is not None else ""
    if said == "":
        return None
    if field.many:
        own_field = replace(field, many=False)
        several = [read_own(own_field, part) for part in re.split(r"[;\n]", said) if part.strip()]
        return "; ".join(dict.fromkeys(_written(own_field, v) for v in several)) or None

    def wrong(expected: str) -> OwnError:
        return OwnError(f"{OWN}{field.name}", f"{field.name}: “{said[:60]}” is not {expected}.")

    match field.type:
        case "number" | "money":
            plain = said.removesuffix(field.unit).strip().replace(" ", "")
            if plain.count(",") == 1 and "." not in plain:
                plain = plain.replace(",", ".")
            try:
                number = Decimal(plain)
            except InvalidOperation:
                raise wrong(f"a number{f' of {field.unit}' if field.unit else ''}") from None
            if not number.is_finite() or abs(number) >= 10**15:
                raise wrong("a number below a thousand billions")
            return int(number) if number == number.to_integral_value() else float(number)
        case "yes/no":
            if isinstance(raw, bool):
                return raw
            if fold(said) in ("yes", "true", "1", "no", "false", "0"):
                return fold(said) in ("yes", "true", "1")
            raise wrong("yes or no")
        case "date":
            if isinstance(raw, int) and not isinstance(raw, bool):
                return raw
            try:
                day = date.fromisoformat(said)
            except ValueError:
                raise wrong("a day such as 2026-08-03") from None
            return (day - date(1970, 1, 1)).days * 86_400
        case "choice":
            found = next((c for c in field.choices if fold(c) == fold(said)), None)
            if found is None:
                raise wrong(f"one of: {', '.join(field.choices)}")
            return found
        case "made of others":
            raise OwnError(f"{OWN}{field.name}", f"{field.name} is made of other fields and is not entered.")
        case "address block":
            try:
                return address_block(said)
            except ValueError as error:
                raise wrong(f"an address with its mask: {error}") from None
        case "link":
            if not said.startswith(("https://", "http://")):
                raise wrong("an address that begins with https://")
    if len(said) > 500:
        raise wrong("short enough: at most 500 characters")
    return said


def _written(field: OwnField, value: Any) -> str:
    """Return one of several values as text."""
    if field.type == "date":
        return (date(1970, 1, 1) + timedelta(days=int(value) // 86_400)).isoformat()
    return ("yes" if value else "no") if isinstance(value, bool) else str(value)


_MAC = re.compile(r"^[0-9a-f]{2}([:-]?[0-9a-f]{2}){5}$", re.IGNORECASE)


def address_block(text: str) -> str:
    """Return an address block in its one spelling: `10.60.4.9/24, gateway 10.60.4.1, mac 00:11:…, name eth0`.

    The parts behind the address come in any order, with or without the word for them. Raises ValueError.
    """
    first, *rest = [p.strip() for p in text.split(",") if p.strip()]
    own = ip_interface(first)
    told: dict[str, str] = {}
    for part in rest:
        word, _, value = part.partition(" ")
        if word.lower() not in ("gateway", "mac", "name"):
            word, value = "", part
        if word.lower() == "mac" or (not word and _MAC.match(value)):
            if not _MAC.match(value):
                raise ValueError(f"“{value}” is no hardware address")
            told["mac"] = hardware_address(value)
        elif word.lower() == "name":
            told["name"] = value
        elif word.lower() == "gateway" or re.fullmatch(r"[0-9.]+|[0-9a-f:]*:[0-9a-f:.]*", value, re.IGNORECASE):
            gateway = ip_address(value)
            if gateway not in own.network:
                raise ValueError(f"the gateway {gateway} is outside {own.network}")
            told["gateway"] = str(gateway)
        else:
            told["name"] = value
    order = [f"{word} {told[word]}" for word in ("gateway", "mac", "name") if word in told]
    return ", ".join([str(own), *order])


def know(fields: Iterable[OwnField], kinds: Iterable[OwnKind]) -> None:
    """Make these, and no others, the company's own fields and kinds in the registry."""
    own: dict[str, Field] = {}
    targets: dict[str, Target] = {}
    for f in fields:
        kind, name = "text" if f.many else REGISTRY_TYPES.get(f.type, "text"), f"{PREFIX}{f.name}"
        meaning = f.help or f"a field of the company's own, {TYPES[f.type]}"
        choices = () if f.many else f.choices
        if f.type == "made of others":
            own[name] = Field(name, kind, meaning, f"{MADE}{f.template}", "", (), f.name)
            continue
        own[name] = Field(name, kind, meaning, f"own.{f.name}", "", choices, f"{f.name}{_unit(f)}")
        into = f"{OWN}{f.name}"
        targets[into] = Target("decision", into, "own", f.name, (fold(f.name),), partial(read_own, f))
    targets[TAGS] = Target("decision", TAGS, "own", "tags", ("tags", "labels"), partial(read_own, TAG_FIELD))
    mine = list(kinds)
    choices = (*KINDS, *(k.name for k in mine))
    words = {fold(c) for c in choices}
    also = tuple((n, k.name) for k in mine for n in k.names if fold(n) not in words)
    kind_field = replace(FIELDS["kind"], choices=choices, also=also)
    FIELDS.exchange({**{n: f for n, f in FIELDS.items() if not n.startswith(PREFIX)}, "kind": kind_field, **own})
    TARGETS.exchange({**{n: t for n, t in TARGETS.items() if not n.startswith(OWN)}, **targets})


def _unit(field: OwnField) -> str:
    return f" ({field.unit})" if field.unit else ""
