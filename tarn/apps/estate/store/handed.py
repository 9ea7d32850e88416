"""Values handed to a statement that is about to run: what SQL asks for by a number, held until others have come."""

from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock
from typing import Any

from tarn.apps.estate.store.remembered import forgets_too

MOST_HELD = 64
"""Statements whose values are held; each is made anew by the next."""

_held: OrderedDict[int, Mapping[int, Any]] = OrderedDict()
_next = [0]
_lock = Lock()
forgets_too(_held.clear)


def hand(values: Mapping[int, Any]) -> int:
    """Hand values by asset to a statement; return the number it asks for them by."""
    with _lock:
        _next[0] += 1
        _held[_next[0]] = values
        while len(_held) > MOST_HELD:
            _held.popitem(last=False)
        return _next[0]


def look_up(number: int, asset: int) -> Any:
    """Return the value of an asset; for SQL's own use."""
    return _held[number].get(asset)
