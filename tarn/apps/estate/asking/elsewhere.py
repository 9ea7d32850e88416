"""What filters ask of apps built on the estate, which say so as they start: the estate knows none of them."""

from collections.abc import Callable

from tarn.core.filters.check import Checked

Judging = Callable[[int | None, str], dict[tuple[str, str], set[int]]]
"""From a moment and a verdict to the releases it holds of, by organisation and (folded) department with a word of their
own; an empty name stands for all that have none."""
Reckoning = Callable[[int | None, Checked | None], dict[int, int]]
"""From a moment and a condition on the things of a list that is reckoned to how many of them each asset has."""
Relating = Callable[[str, int | None, set[int], int | None], set[int]]
"""From a relation, a moment and assets to the assets that are in that relation to any of them, as it was confirmed
within so many seconds, or ever."""

_judging: list[Judging] = []
_reckoning: dict[str, Reckoning] = {}
_relating: list[Relating] = []


def judged_by(judging: Judging) -> None:
    """Say what knows the rulings on software, so that filters can ask for them."""
    _judging[:] = [judging]


def reckoned_by(group: str, reckoning: Reckoning) -> None:
    """Say what knows the things of a list nobody reads of devices, so that filters can ask for them."""
    _reckoning[group] = reckoning


def related_by(relating: Relating) -> None:
    """Say what knows how assets stand to each other, so that filters can ask for it."""
    _relating[:] = [relating]


def judging() -> Judging:
    """Return what knows the rulings on software."""
    return _judging[0]


def reckoning(group: str) -> Reckoning:
    """Return what knows the things of a list."""
    return _reckoning[group]


def relating() -> Relating:
    """Return what knows how assets stand to each other."""
    return _relating[0]
