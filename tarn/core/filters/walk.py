"""Going through a filter's tree: which sets, phrases and fields it rests on."""

from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from typing import Any

from tarn.core.filters.tree import Compare, InSet, Node, Phrase, Plain, Presence, Within


def parts_of(node: Any) -> Iterator[Any]:
    """Yield all a filter is made of: conditions, values, and what is within them."""
    if isinstance(node, tuple):
        for one in node:
            yield from parts_of(one)
    elif is_dataclass(node):
        yield node
        for field in fields(node):
            yield from parts_of(getattr(node, field.name))


def sets_in(node: Node) -> set[str]:
    """Return the names of the sets a filter speaks of."""
    return {p.name for p in parts_of(node) if isinstance(p, InSet)}


def values_in(node: Node, field: str) -> list[Plain]:
    """Return the plain values a field is held against, in their order."""
    asked = [part for part in parts_of(node) if isinstance(part, Compare | Within) and part.field == field]
    values = [v for part in asked for v in (part.values if isinstance(part, Within) else (part.value,))]
    return [value for value in values if isinstance(value, Plain)]


def fields_in(node: Node) -> set[str]:
    """Return the names of the fields a filter compares, as they are written there."""
    return {p.field for p in parts_of(node) if isinstance(p, Compare | Within | Presence)}


def phrases_in(node: Node) -> set[str]:
    """Return the names of the phrases a filter speaks of."""
    return {p.name for p in parts_of(node) if isinstance(p, Phrase)}
