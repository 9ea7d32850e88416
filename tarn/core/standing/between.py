"""Two days held against each other: which edges came, which went, and which moved."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from tarn.core.standing.edge import Edge

What = Literal["came", "went", "moved"]
_ONE_PLACE = ("guest of", "plugged into")
"""Kinds of which an asset has one, as a rule: where another takes its place, it has moved."""


@dataclass(frozen=True, slots=True)
class Difference:
    """An edge that came, went, or moved; of a moved one `before`."""

    what: What
    edge: Edge
    before: Edge | None = None

    @property
    def led(self) -> tuple[int, ...]:
        """Where it led before."""
        return (self.before.on,) if self.before is not None else ()


def differences(before: Iterable[Edge], after: Iterable[Edge]) -> list[Difference]:
    """Return how the edges of one day differ from those of another, each once. Its ends, kind and port make an edge;
    which process calls, and when it was heard, make no other."""
    old, new = ({_key(e): e for e in edges} for edges in (before, after))
    went: dict[tuple[int, str], list[Edge]] = defaultdict(list)
    out: list[Difference] = []
    for key in sorted(old.keys() - new.keys()):
        edge = old[key]
        if edge.kind in _ONE_PLACE:
            went[edge.stands, edge.kind].append(edge)
        else:
            out.append(Difference("went", edge))
    for key in sorted(new.keys() - old.keys()):
        edge = new[key]
        earlier = went.get((edge.stands, edge.kind))
        if earlier:
            out.append(Difference("moved", edge, earlier.pop(0)))
        else:
            out.append(Difference("came", edge))
    out += [Difference("went", e) for of in went.values() for e in of]
    return out


def _key(edge: Edge) -> tuple[int, int, str, str]:
    return edge.stands, edge.on, edge.kind, edge.over
