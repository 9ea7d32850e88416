"""Fields that another app reckons of each asset, such as how grave what is open on it is: asked of it by a moment."""

from collections import OrderedDict
from collections.abc import Callable, Mapping
from threading import Lock
from typing import Any

HOME = "told"
"""Where such fields lie: “told.x” is reckoned by whoever said so under the name x."""
Telling = Callable[[int | None], Mapping[int, Any]]
"""From a moment to the value of each asset that has one."""
MOST_HELD = 64
"""Values held for statements that are about to run; each is made anew by the next."""

_tellings: dict[str, Telling] = {}
_held: OrderedDict[int, Mapping[int, Any]] = OrderedDict()
_next = [0]
_lock = Lock()


def told_by(name: str, telling: Telling) -> None:
    """Say who reckons a field."""
    _tellings[name] = telling


def values(name: str, at: int | None) -> Mapping[int, Any]:
    """Return the value of each asset that has one, as of a moment; none where nobody reckons the field."""
    telling = _tellings.get(name)
    return telling(at) if telling is not None else {}


def column(name: str, at: int | None) -> str:
    """Return the SQL of a field of the asset whose span is `s`."""
    made = values(name, at)
    with _lock:
        _next[0] += 1
        _held[_next[0]] = made
        while len(_held) > MOST_HELD:
            _held.popitem(last=False)
        return f"told({_next[0]}, s.asset_id)"


def look_up(token: int, asset: int) -> Any:
    """Return the value of an asset for a statement; for SQL's own use."""
    return _held[token].get(asset)
