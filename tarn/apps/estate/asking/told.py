"""Fields that another app reckons of each asset, such as how grave what is open on it is: asked of it by a moment."""

from collections.abc import Callable, Mapping
from typing import Any

from tarn.apps.estate.store.handed import hand

HOME = "told"
"""Where such fields lie: “told.x” is reckoned by whoever said so under the name x."""
Telling = Callable[[int | None], Mapping[int, Any]]
"""From a moment to the value of each asset that has one."""

_tellings: dict[str, Telling] = {}


def told_by(name: str, telling: Telling) -> None:
    """Say who reckons a field."""
    _tellings[name] = telling


def values(name: str, at: int | None) -> Mapping[int, Any]:
    """Return the value of each asset that has one, as of a moment; none where nobody reckons the field."""
    telling = _tellings.get(name)
    return telling(at) if telling is not None else {}


def column(name: str, at: int | None) -> str:
    """Return the SQL of a field of the asset whose span is `s`."""
    return f"told({hand(values(name, at))}, s.asset_id)"
