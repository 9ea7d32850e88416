"""What wants a hand: each room says so in one place of its own (`wants.py`), and Today gathers it."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal

from tarn.core.declared import Declared

WantGrade = Literal["bad", "warn", "note"]
WANT_GRADES: tuple[WantGrade, ...] = ("bad", "warn", "note")
"""How pressing: something breaks or is past its day; something will; something can be tidied."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """Something that wants a hand now. `things`: what it is of, a key each: its count, and what “done” is held
    against. `text`: the sentence after the count. `to` and `search`: the page that shows exactly these."""

    things: tuple[str, ...]
    text: str
    to: str
    search: Mapping[str, str] = field(default_factory=dict)
    beside: str = ""


@dataclass(frozen=True, slots=True)
class Want:
    """Something that may want a hand. `key` never changes; `may`: the action of those it is for; `button`: what to do;
    `find`: returns it as whoever asks sees it, of no things where nothing is amiss; `rank`: among those of its grade
    the lower come first."""

    key: str
    grade: WantGrade
    may: str
    button: str
    find: Callable[[], Wanted]
    rank: int = 50


_wants = Declared("WANTS")


def wants_declared_in(module: str) -> None:
    """Note which module of a room says what wants a hand, as its WANTS; it is read when first that is asked."""
    _wants.name(module)


def all_wants() -> list[Want]:
    """Return all that may want a hand, those that are most pressing first."""
    return sorted(_wants, key=lambda w: (WANT_GRADES.index(w.grade), w.rank, w.key))


def several(count: int, one: str, many: str) -> str:
    """Return the sentence for one or for several."""
    return one if count == 1 else many


def named(names: Iterable[str], most: int = 3) -> str:
    """Return the first names, and how many more there are."""
    every = list(dict.fromkeys(names))
    more = len(every) - most
    return ", ".join(every[:most]) + (f" and {more} more" if more > 0 else "")
