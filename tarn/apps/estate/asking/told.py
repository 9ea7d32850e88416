"""Fields that another app reckons of each asset, such as how grave what is open on it is: asked of it by a moment."""

from collections.abc import Callable, Hashable, Mapping
from typing import Any

from tarn.apps.estate.store.handed import hand

HOME = "told"
"""Where such fields lie: “told.x” is reckoned by whoever said so under the name x."""
Telling = Callable[[int | None], Mapping[int, Any]]
"""From a moment to the value of each asset that has one."""

_tellings: dict[str, Telling] = {}
_changes: dict[str, Callable[[], Hashable]] = {}


def told_by(name: str, telling: Telling, changes: Callable[[], Hashable] | None = None) -> None:
    """Say who reckons a field; `changes`: a value that differs whenever the field may, though no evidence came."""
    _tellings[name] = telling
    if changes is not None:
        _changes[name] = changes


def how_it_stands(name: str) -> Hashable:
    """Return a value that differs whenever a field may, though no evidence came."""
    return _changes[name]() if name in _changes else None


def values(name: str, at: int | None) -> Mapping[int, Any]:
    """Return the value of each asset that has one, as of a moment; none where nobody reckons the field."""
    telling = _tellings.get(name)
    return telling(at) if telling is not None else {}


def column(name: str, at: int | None) -> str:
    """Return the SQL of a field of the asset whose span is `s`."""
    return f"told({hand(values(name, at))}, s.asset_id)"
