"""Places, departments and holders as trees: what lies under what, and all that a branch holds.

A tree is told by each name's parent, `under`; names are compared as filters compare text. What is spoken of only
as a parent is in the tree as well.
"""

from collections.abc import Mapping

from tarn.core.text import fold

HIERARCHIES = ("place", "department", "person")
"""The fields whose words stand in a tree."""

Under = Mapping[str, str]
"""Parent by name."""


class Circle(ValueError):
    """A name would come to lie under itself; `path` shows how."""

    def __init__(self, path: list[str]) -> None:
        self.path = path
        super().__init__(f"That would be a circle: {' under '.join(path)}.")


def branch(under: Under, name: str) -> tuple[str, ...]:
    """Return a name and everything under it, in the order found; only the name itself where it is no parent."""
    below: dict[str, list[str]] = {}
    for child, parent in under.items():
        below.setdefault(fold(parent), []).append(child)
    out, seen = [name], {fold(name)}
    for one in out:
        for child in below.get(fold(one), ()):
            if fold(child) not in seen:
                seen.add(fold(child))
                out.append(child)
    return tuple(out)


def put_under(under: Under, name: str, parent: str) -> dict[str, str]:
    """Return the tree with a name put under another. Raises Circle with the way round."""
    folded = {fold(child): above for child, above in under.items()}
    path, at = [name, parent], parent
    while fold(at) != fold(name):
        if fold(at) not in folded:
            return {**{c: p for c, p in under.items() if fold(c) != fold(name)}, name: parent}
        at = folded[fold(at)]
        path.append(at)
    raise Circle(path)
