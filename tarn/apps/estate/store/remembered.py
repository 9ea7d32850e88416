"""What is remembered between questions: of which state of the data it is, how it is carried on, what it weighs.

Whatever is kept in a process is one of these, so that one `forget` drops all of it and one list shows it.
"""

import sys
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass, fields, is_dataclass
from itertools import chain, islice
from typing import Any, Generic, TypeVar

import numpy as np

from tarn.apps.estate.store.stamps import EVIDENCE, Ground, Newest, Stamp, stamp

Made = TypeVar("Made")
Carry = Callable[[Made, int], Made | None]
"""Makes a value of what it was before the evidence after a sighting's number; None where it cannot be carried on."""


@dataclass(frozen=True, slots=True)
class Shown:
    """One kind of what is remembered, for whoever looks after Tarn: `held` values of `most`, bytes in all."""

    name: str
    rests_on: tuple[str, ...]
    held: int
    most: int
    bytes: int


class Remembered(Generic[Made]):
    """Values by key, each of one state of the grounds it rests on; of one key only the newest state is kept.

    `most`: how many keys are kept, those asked for last. `one_at_a_time`: a value is large or takes long to make, so
    two who ask for it at once do not both make it.
    """

    def __init__(self, name: str, *rests_on: Ground, most: int, one_at_a_time: bool = False) -> None:
        self.name, self.rests_on, self._most = name, rests_on, most
        self._held: OrderedDict[Hashable, tuple[Stamp, Made]] = OrderedDict()
        self._lock = threading.Lock()
        self._making = threading.RLock() if one_at_a_time else None
        _ALL.append(self)

    def get(
        self,
        key: Hashable,
        make: Callable[[], Made],
        carry: Carry[Made] | None = None,
        keep: Callable[[Made], bool] = lambda made: True,
    ) -> Made:
        """Return what is remembered of a key as the data stands, or make it; carried on where only evidence is new.

        `keep`: whether what was made is to be remembered at all.
        """
        now = stamp(*self.rests_on)
        found = self._at(key, now)
        if found is not None:
            return found[0]
        if self._making is None:
            return self._make(key, now, make, carry, keep)
        with self._making:
            found = self._at(key, now)  # whoever was at it when we came has made it meanwhile
            return found[0] if found is not None else self._make(key, now, make, carry, keep)

    def _at(self, key: Hashable, now: Stamp) -> tuple[Made] | None:
        with self._lock:
            held = self._held.get(key)
            if held is None or held[0] != now:
                return None
            self._held.move_to_end(key)
            return (held[1],)

    def _make(
        self,
        key: Hashable,
        now: Stamp,
        make: Callable[[], Made],
        carry: Carry[Made] | None,
        keep: Callable[[Made], bool],
    ) -> Made:
        with self._lock:
            before = self._held.get(key)
        made: Made | None = None
        if carry is not None and before is not None and before[0].beside(EVIDENCE) == now.beside(EVIDENCE):
            newest = before[0].of(EVIDENCE)
            assert isinstance(newest, Newest)
            made = carry(before[1], newest.sighting)
        if made is None:
            made = make()
        if not keep(made):
            return made
        with self._lock:
            self._held[key] = (now, made)
            self._held.move_to_end(key)
            while len(self._held) > self._most:
                self._held.popitem(last=False)
        return made

    def put(self, key: Hashable, made: Made) -> None:
        """Keep what was made more of in place of what is remembered of a key, of the state that is of."""
        with self._lock:
            held = self._held.get(key)
            if held is not None:
                self._held[key] = (held[0], made)

    def forget(self) -> None:
        """Drop all of it."""
        with self._lock:
            self._held.clear()

    def shown(self) -> Shown:
        """Return how much of it there is."""
        with self._lock:
            values = [value for _, value in self._held.values()]
        weight = sum(weigh(v) for v in values)
        return Shown(self.name, tuple(g.name for g in self.rests_on), len(values), self._most, weight)


_ALL: list[Remembered[Any]] = []
_ALSO: list[Callable[[], None]] = []


def forgets_too(what: Callable[[], None]) -> Callable[[], None]:
    """Have something of another shape dropped whenever all is forgotten (words, a function's own cache)."""
    _ALSO.append(what)
    return what


def forget() -> None:
    """Drop everything that is remembered, after the tables were exchanged in this process."""
    for remembered in _ALL:
        remembered.forget()
    for drop in _ALSO:
        drop()


def everything() -> list[Shown]:
    """Return what is remembered in this process."""
    return [remembered.shown() for remembered in _ALL]


_SAMPLE = 400


def weigh(value: Any, _seen: dict[int, Any] | None = None) -> int:
    """Return about how many bytes a value takes: arrays by their size, long collections by a sample of them."""
    seen = {} if _seen is None else _seen
    if id(value) in seen:
        return 0
    seen[id(value)] = value  # held, so that no other thing comes by its number meanwhile
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    own = sys.getsizeof(value)
    if isinstance(value, dict):
        return own + _sampled(chain.from_iterable(value.items()), 2 * len(value), seen)
    if isinstance(value, (list, tuple, set, frozenset)):
        return own + _sampled(value, len(value), seen)
    if is_dataclass(value) and not isinstance(value, type):
        held = (getattr(value, f.name) for f in fields(value))
        return own + sum(weigh(v, seen) for v in (*held, *getattr(value, "__dict__", {}).values()))
    return own


def _sampled(values: Iterable[Any], number: int, seen: dict[int, Any]) -> int:
    looked_at = min(number, _SAMPLE)
    weight = sum(weigh(v, seen) for v in islice(values, looked_at))
    return weight * number // looked_at if looked_at else 0
