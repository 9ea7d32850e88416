"""A filter as it is built on a screen: groups, conditions and brackets, some of them not said to their end yet.

The third face of the language beside text and tree. A filter becomes a draft without loss; a draft becomes the filter
of what is whole in it. What is typed for a value is read as the language reads it, and is taken by its letters where
the language reads something else in it.
"""

import re
from collections.abc import Callable, Iterator
from itertools import count
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from tarn.core.filters.parse import FilterError, parse
from tarn.core.filters.tree import (
    All,
    Any_,
    Compare,
    Counted,
    Has,
    InSet,
    Node,
    Not,
    Plain,
    Presence,
    Value,
    Within,
    to_text,
    value_text,
)

FieldName = Annotated[str, Field(pattern=r"^(field:[^\x00-\x1f]+|[\w.]*)$", max_length=300)]
ListName = Annotated[str, Field(pattern=r"^[a-z_]+$", max_length=60)]


class DraftRule(BaseModel):
    """A field against what was typed; `some` and `none` ask whether it is known and take no text."""

    type: Literal["rule"]
    id: int
    field: FieldName
    op: Literal["=", "!=", "<", "<=", ">", ">=", "~", "!~", "in", "some", "none"]
    text: str = ""


class DraftGroup(BaseModel):
    """Items of which all, any or none holds."""

    type: Literal["group"]
    id: int
    mode: Literal["all", "any", "none"]
    items: "list[Item]"


class DraftBracket(BaseModel):
    """Some item of a list, none, or how many, for which `inner` holds; `op` and `number` are those of how many."""

    type: Literal["bracket"]
    id: int
    list: ListName
    quantity: Literal["some", "no", "count"]
    op: Literal["=", "<", "<=", ">", ">="] = ">="
    number: str = "1"
    inner: DraftGroup


class DraftSet(BaseModel):
    """Membership of a kept set."""

    type: Literal["set"]
    id: int
    name: str


class DraftWritten(BaseModel):
    """What has no form here, as the language writes it."""

    type: Literal["written"]
    id: int
    text: str


Item = Annotated[DraftRule | DraftGroup | DraftBracket | DraftSet | DraftWritten, Field(discriminator="type")]


def draft_of(tree: Node) -> DraftGroup:
    """Return the draft of a filter; its items are numbered from 1."""
    return _as_group(tree, count(1))


def _as_group(node: Node, ids: Iterator[int]) -> DraftGroup:
    made = _item(node, ids)
    return made if isinstance(made, DraftGroup) and made.mode != "none" else _group("all", [made], ids)


def _group(mode: Literal["all", "any", "none"], items: list[Item], ids: Iterator[int]) -> DraftGroup:
    return DraftGroup(type="group", id=next(ids), mode=mode, items=items)


def _rule_of(field: str, op: str, text: str, ids: Iterator[int]) -> DraftRule:
    return DraftRule.model_validate({"type": "rule", "id": next(ids), "field": field, "op": op, "text": text})


def _item(node: Node, ids: Iterator[int]) -> Item:
    match node:
        case All(items):
            return _group("all", [_item(one, ids) for one in items], ids)
        case Any_(items):
            return _group("any", [_item(one, ids) for one in items], ids)
        case Not(Any_(items)):
            return _group("none", [_item(one, ids) for one in items], ids)
        case Not(item):
            return _group("none", [_item(item, ids)], ids)
        case Compare(field, op, value):
            return _rule_of(field, op, value_text(value), ids)
        case Within(field, values):
            return _rule_of(field, "in", ", ".join(value_text(v) for v in values), ids)
        case Presence(field, present):
            return _rule_of(field, "some" if present else "none", "", ids)
        case InSet(name):
            return DraftSet(type="set", id=next(ids), name=name)
        case Has(group, inner, no):
            return _bracket_of({"list": group, "quantity": "no" if no else "some"}, inner, ids)
        case Counted(group, op, number, inner):
            asked = {"list": group, "quantity": "count", "op": op, "number": value_text(number)}
            return _bracket_of(asked, inner, ids)
    return DraftWritten(type="written", id=next(ids), text=to_text(node))


def _bracket_of(asked: dict[str, str], inner: Node | None, ids: Iterator[int]) -> DraftBracket:
    group = _as_group(All(()) if inner is None else inner, ids)
    return DraftBracket.model_validate({"type": "bracket", "id": next(ids), "inner": group, **asked})


def tree_of(item: Item) -> Node | None:
    """Return the filter a draft asks for; None where nothing in it is whole yet. Raises FilterError of what is
    written."""
    match item:
        case DraftRule():
            return _rule(item)
        case DraftSet():
            return InSet(item.name) if item.name else None
        case DraftWritten():
            return parse(item.text) if item.text.strip() else None
        case DraftBracket():
            return _bracket(item)
    whole = tuple(node for one in item.items if (node := tree_of(one)) is not None)
    if not whole:
        return None
    if item.mode == "none":
        return Not(Any_(whole) if len(whole) > 1 else whole[0])
    if len(whole) == 1:
        return whole[0]
    return All(whole) if item.mode == "all" else Any_(whole)


def _bracket(item: DraftBracket) -> Node | None:
    inner = tree_of(item.inner)
    if item.quantity != "count":
        return Has(item.list, inner, item.quantity == "no")
    number = item.number.strip()
    return Counted(item.list, item.op, Plain(number), inner) if number.isdecimal() else None


def _rule(rule: DraftRule) -> Node | None:
    if not rule.field:
        return None
    if rule.op in ("some", "none"):
        return Presence(rule.field, rule.op == "some")
    typed = rule.text.strip()
    if not typed:
        return None
    if rule.op != "in":
        return Compare(rule.field, rule.op, typed_value(typed))
    for written in (f"x in {typed}", f"x in ({typed})"):
        read = _read(written)
        if isinstance(read, Within):
            return Within(rule.field, read.values)
    parts = [part for part in (p.strip() for p in typed.split(",")) if part]
    return Within(rule.field, tuple(typed_value(part) for part in parts)) if parts else None


_WITH_UNIT = re.compile(r"^(\d[\d.,]*)\s+([a-zA-Z]+)$")


def typed_value(text: str) -> Value:
    """Return what was typed as a value: a moment, a range, a pattern or a list where the language reads one in it."""
    read = _read(f"x = {text}")
    if isinstance(read, Compare):
        return read.value
    with_unit = _WITH_UNIT.match(text)
    return Plain("".join(with_unit.groups())) if with_unit else Plain(text, quoted=True)


def _read(text: str) -> Node | None:
    try:
        return parse(text)
    except FilterError:
        return None


def problems_of(group: DraftGroup, check: Callable[[Node], object]) -> dict[int, str]:
    """Return what is wrong with each item of a draft by its id. `check` raises FilterError of a filter it refuses."""
    wrong: dict[int, str] = {}

    def look(item: Item, within: str) -> None:
        match item:
            case DraftGroup():
                for one in item.items:
                    look(one, within)
                return
            case DraftBracket():
                look(item.inner, item.list)
                item = item.model_copy(update={"inner": DraftGroup(type="group", id=0, mode="all", items=[])})
        try:
            node = tree_of(item)
            if node is not None:
                check(Has(within, node) if within else node)
        except FilterError as error:
            wrong[item.id] = error.message

    look(group, "")
    return wrong
