"""Narrowing a filter by a condition, and widening it again."""

from collections.abc import Callable

from tarn.core.filters.tree import All, Node, Not, Pattern, to_text
from tarn.core.filters.walk import parts_of


def conditions(tree: Node) -> tuple[Node, ...]:
    """Return the conditions a filter joins with “and” at its top, in their order."""
    return tuple(part for item in tree.items for part in conditions(item)) if isinstance(tree, All) else (tree,)


def _said(node: Node) -> str:
    """Two ways to write one condition say the same: quotes that are not needed, letter case, white space.

    In a pattern letter case tells things apart: a class and its opposite.
    """
    text = to_text(node)
    return text if any(isinstance(part, Pattern) for part in parts_of(node)) else text.casefold()


def asked_by(tree: Node) -> Callable[[Node], bool]:
    """Return what says of a condition whether all it asks is asked by a filter already."""
    there = {_said(node) for node in conditions(tree)}
    return lambda condition: all(_said(node) in there for node in conditions(condition))


def narrowed(tree: Node, condition: Node) -> Node:
    """Return a filter that asks for a condition as well; itself where it does already."""
    return tree if asked_by(tree)(condition) else All((*conditions(tree), *conditions(condition)))


def widened(tree: Node, condition: Node) -> Node:
    """Return a filter without what a condition asks."""
    gone = {_said(node) for node in conditions(condition)}
    left = tuple(node for node in conditions(tree) if _said(node) not in gone)
    return left[0] if len(left) == 1 else All(left)


def excluding(tree: Node, condition: Node) -> Node:
    """Return a filter that leaves out what a condition asks for."""
    return narrowed(tree, Not(condition))
