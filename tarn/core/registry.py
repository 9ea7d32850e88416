"""A registry that is exchanged whole: whoever goes through it goes through one state of it, whatever comes."""

from collections.abc import ItemsView, Iterator, Mapping, ValuesView
from types import MappingProxyType
from typing import TypeVar

Entry = TypeVar("Entry")


class Registry(Mapping[str, Entry]):
    """Entries by name. What it holds is never changed; `exchange` puts another state in its place, at once for all."""

    def __init__(self, entries: Mapping[str, Entry]) -> None:
        self._state: Mapping[str, Entry] = MappingProxyType(dict(entries))

    def exchange(self, entries: Mapping[str, Entry]) -> None:
        """Put other entries in place of all there are."""
        self._state = MappingProxyType(dict(entries))

    def __getitem__(self, name: str) -> Entry:
        return self._state[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._state)

    def __len__(self) -> int:
        return len(self._state)

    def __contains__(self, name: object) -> bool:
        return name in self._state

    def items(self) -> ItemsView[str, Entry]:
        """Return names and entries of one state: the default would look each name up anew."""
        return self._state.items()

    def values(self) -> ValuesView[Entry]:
        """Return the entries of one state."""
        return self._state.values()
