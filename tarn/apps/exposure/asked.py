"""What filters ask of vulnerabilities, `vulnerability[…]`: conditions held against findings, an array at a time."""

from collections.abc import Callable
from functools import cached_property
from typing import Any

import numpy as np

from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.advisories import Known
from tarn.apps.exposure.finding.cures import cures, distinct
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.grading.promising import late
from tarn.apps.exposure.shown import touching
from tarn.core.exposure.grade import GRADES
from tarn.core.exposure.told import STATUSES
from tarn.core.fields import KNOWN
from tarn.core.filters.check import Checked, Cond, Either, Every, Without
from tarn.core.filters.plain import compares

_OF_VULNERABILITY: dict[str, Callable[[Known], Any]] = {
    "title": lambda k: k.title or k.text,
    "score": lambda k: k.score.base if k.score else None,
    "exploited": lambda k: k.used is not None,
    "chance": lambda k: k.chance,
    "published": lambda k: k.published,
    "own": lambda k: k.own is not None,
}
_OF_THING: dict[str, Callable[[things.Row], str]] = {
    "product": lambda r: r.product,
    "release": lambda r: r.version,
    "under": things.under,
}


def numbers(at: int | None, inner: Checked | None) -> dict[int, int]:
    """Return how many vulnerabilities for which a condition holds each asset is open to, those with any."""
    asked = _Asked(at, inner)
    rows = asked.rows if inner is None else asked.rows[asked.mask(inner)]
    pairs = np.unique((rows["asset"].astype(np.int64) << 32) | (rows["vulnerability"].astype(np.int64) & 0xFFFFFFFF))
    assets, times = np.unique(pairs >> 32, return_counts=True)
    return dict(zip(assets.tolist(), times.tolist(), strict=True))


class _Asked:
    """The findings of a moment, and what conditions ask of them, each column made when it is first asked for."""

    def __init__(self, at: int | None, inner: Checked | None) -> None:
        self.at = at
        self.rows, self._known = findings().at(at), touching(at)
        self._now = self._all(False)
        if inner is not None and _tells_knowledge(inner):
            now = findings("now").at(at)
            self._now = np.concatenate((self._now, np.full(len(now), True)))
            self.rows, self._known = np.concatenate((self.rows, now)), self._known | touching(at, "now")

    def mask(self, checked: Checked) -> Any:
        """Return by finding whether a condition holds."""
        match checked:
            case Every(items):
                return np.logical_and.reduce([self.mask(i) for i in items])
            case Either(items):
                return np.logical_or.reduce([self.mask(i) for i in items]) if items else self._all(False)
            case Without(item):
                return ~self.mask(item)
            case Cond(field):
                return self._one(checked, field.name)
        raise TypeError(checked)

    def _all(self, value: bool) -> Any:
        return np.full(len(self.rows), value)

    def _one(self, cond: Cond, name: str) -> Any:
        if name == "id":
            return self._of("vulnerability", lambda n: any(compares(cond, i) for i in _names(self._known[n])))
        if (of := _OF_VULNERABILITY.get(name)) is not None:
            return self._of("vulnerability", lambda n: compares(cond, of(self._known[n])))
        if name in _OF_THING:
            return self._of("thing", self._thing(cond, name))
        if name == "known":
            return np.array([compares(cond, word) for word in KNOWN])[self._now.astype(np.int8)]
        if name == "status":
            return self._of("status", lambda n: compares(cond, STATUSES[n]))
        if name == "cure":
            pairs, where = distinct(self.rows)
            told = cures(self.rows)
            return np.array([compares(cond, told[p]) for p in pairs], dtype=bool)[where]
        if name == "accepted":
            asked = np.array([compares(cond, False), compares(cond, True)])
            return asked[accepted.mask(self.rows, self.at).astype(np.int8)]
        if name == "open":
            return self._of("since", lambda n: compares(cond, n))
        told = self._grades if name == "grade" else self._late
        words: list[Any] = list(GRADES) if name == "grade" else [False, True]
        return np.array([compares(cond, w) for w in words])[told]

    def _of(self, column: str, holds: Callable[[int], bool]) -> Any:
        """Return a mask by asking once of each distinct value of a column."""
        values, where = np.unique(self.rows[column], return_inverse=True)
        return np.array([holds(v) for v in values.tolist()], dtype=bool)[where]

    def _thing(self, cond: Cond, name: str) -> Callable[[int], bool]:
        of, rows = _OF_THING[name], self._things
        if name == "product":
            return lambda n: n in rows and any(compares(cond, t) for t in (rows[n].product, rows[n].called))
        return lambda n: n in rows and compares(cond, of(rows[n]))

    @cached_property
    def _things(self) -> dict[int, things.Row]:
        return things.some(np.unique(self.rows["thing"]).tolist())

    @cached_property
    def _grades(self) -> Any:
        return grades(self.rows, self._known, self.at)

    @cached_property
    def _late(self) -> Any:
        return late(self._grades, self.rows, self._known, self.at).astype(np.int8)


def _tells_knowledge(checked: Checked) -> bool:
    """Whether a condition says by which knowledge findings are asked for."""
    match checked:
        case Every(items) | Either(items):
            return any(_tells_knowledge(i) for i in items)
        case Without(item):
            return _tells_knowledge(item)
        case Cond(field):
            return field.name == "known"
    return False


def _names(known: Known) -> list[str]:
    return [known.name, *known.aliases]
