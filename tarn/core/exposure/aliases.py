"""Names of one vulnerability brought together, whichever document names which beside which."""

from collections.abc import Iterable


class Names:
    """Names that are said to be of one thing: those of a group share a representative, the best known of them.

    Joining is symmetric and transitive, so a ring of aliases is only a group.
    """

    def __init__(self) -> None:
        self._above: dict[str, str] = {}

    def join(self, ids: Iterable[str]) -> str:
        """Hold names to be of one vulnerability; return their representative."""
        tops = {self.top(i) for i in ids}
        best = min(tops, key=preference)
        for top in tops:
            self._above[top] = best
        return best

    def top(self, name: str) -> str:
        """Return the representative of a name's group."""
        path = []
        while (above := self._above.get(name, name)) != name:
            path.append(name)
            name = above
        for passed in path:
            self._above[passed] = name
        return name

    def groups(self) -> dict[str, list[str]]:
        """Return the names by representative."""
        out: dict[str, list[str]] = {}
        for name in self._above:
            out.setdefault(self.top(name), []).append(name)
        return out


def preference(name: str) -> tuple[bool, str]:
    """Return how well a name stands for a group, the least best: a CVE before others."""
    return (not name.startswith("CVE-"), name)
