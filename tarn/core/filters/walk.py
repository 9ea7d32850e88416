"""Going through a filter's tree: which sets, phrases and fields it rests on."""

from collections.abc import Iterator
from dataclasses import fields, is_dataclass
from typing import Any

from tarn.core.filters.tree import Compare, InSet, Node, Phrase, Presence, Within


def _parts(node: Any) -> Iterator[Any]:
    if isinstance(node, tuple):
        for one in node:
            yield from _parts(one)
    elif is_dataclass(node):
        yield node
        for field in fields(node):
            yield from _parts(getattr(node, field.name))


def sets_in(node: Node) -> set[str]:
    """Return the names of the sets a filter speaks of."""
    return {p.name for p in _parts(node) if isinstance(p, InSet)}


def fields_in(node: Node) -> set[str]:
    """Return the names of the fields a filter compares, as they are written there."""
    return {p.field for p in _parts(node) if isinstance(p, Compare | Within | Presence)}


def phrases_in(node: Node) -> set[str]:
    """Return the names of the phrases a filter speaks of."""
    return {p.name for p in _parts(node) if isinstance(p, Phrase)}
