"""Whether evidence that came can make a question answer otherwise: by what it reads, and by what is otherwise."""

import json
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import Any

from tarn.apps.estate.asking.places import turned
from tarn.apps.estate.models import span_model
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import earliest, touched
from tarn.apps.estate.store.remembered import forgets_too
from tarn.apps.estate.store.stamps import EVIDENCE, Stamp, stamp
from tarn.core.fields import FIELDS, RECKONED
from tarn.core.filters.check import Checked, Cond, Either, Every, Member, NeverRead, Number, RelatedTo, Some, Without
from tarn.core.own import made_of

EDGES, SAID, ANYTHING = "edges", "said", "anything"
"""What may be read beside columns of the asset's span and lists: what stands on what; what sources and people say of
single fields; and what no evidence tells by itself, so that it may always be otherwise."""
_ALWAYS = frozenset(("column standing", "column organisation"))
"""What every question reads: of whom it is, and whether it is of the register."""


def reads_of(checked: Checked) -> frozenset[str]:
    """Return what a question reads: columns, lists, and some of EDGES, SAID, ANYTHING."""
    return _ALWAYS | frozenset(_reads(checked))


def _reads(checked: Checked | None) -> Iterator[str]:
    match checked:
        case Every(items) | Either(items):
            for item in items:
                yield from _reads(item)
        case Without(item) | Member(_, item):
            yield from _reads(item)
        case Some(group) | Number(group):
            yield ANYTHING if group in RECKONED else f"list {group}"
        case RelatedTo(_, other):
            yield EDGES
            yield from _reads(other)
        case Cond(field):
            made = made_of(field)
            for stored in [FIELDS[n].stored for n in made] if made else [field.stored]:
                yield _stored(stored)
        case NeverRead():
            yield ANYTHING


def _stored(stored: str) -> str:
    home, _, column = stored.partition(".")
    if home in ("span", "term"):
        return f"column {column}"
    return SAID if home in ("claim", "own") else ANYTHING


class Moved:
    """What evidence after a sighting tells otherwise than before of the devices it is of; each thing is looked for when
    it is first asked about. Of evidence from before what was known, all may be otherwise."""

    def __init__(self, since: int) -> None:
        devices = touched(since)
        self._all = devices is None or _late(since)
        self._devices = json.dumps(devices or [])
        self._from = earliest(since) or 0
        self._known: dict[str, bool] = {}
        self._columns: frozenset[str] | None = None

    def any_of(self, reads: Iterable[str]) -> bool:
        """Whether any of what a question reads is otherwise, what stands on what left aside."""
        return self._all or any(self._otherwise(what) for what in reads if what != EDGES)

    def _otherwise(self, what: str) -> bool:
        if what == ANYTHING:
            return True
        if what.startswith("column "):
            if self._columns is None:
                self._columns = frozenset(self._changed())
            return what.removeprefix("column ") in self._columns
        if what not in self._known:
            table = "estate_fieldspan" if what == SAID else span_model(what.removeprefix("list "))._meta.db_table
            self._known[what] = self._turned(table)
        return self._known[what]

    def _turned(self, table: str) -> bool:
        """Whether any row of the devices began or ended since the first of the evidence."""
        among = "x.asset_id IN (SELECT value FROM json_each(?))"
        return any(
            raw_connection()
            .execute(
                f"SELECT EXISTS(SELECT 1 FROM {table} x WHERE {among} AND {part.text})", [self._devices, *part.values]
            )
            .fetchone()[0]
            for part in turned("x", self._from - 1)
        )

    def _changed(self) -> Iterator[str]:
        """Yield the columns of the devices' spans that had more than one value since just before the evidence."""
        cursor = raw_connection().execute(
            "SELECT s.* FROM estate_assetspan s WHERE s.asset_id IN (SELECT value FROM json_each(?)) "
            "AND (s.valid_to IS NULL OR s.valid_to >= ?) ORDER BY s.asset_id, s.valid_from",
            [self._devices, self._from],
        )
        names = [name for name, *_ in cursor.description]
        rows = cursor.fetchall()
        at, out = names.index("asset_id"), set[str]()
        first: dict[int, tuple[Any, ...]] = {}
        for row in rows:
            before = first.setdefault(row[at], row)
            if before is row and row[names.index("valid_from")] >= self._from:
                out.update(names)  # it is new
            out.update(n for n, a, b in zip(names, before, row, strict=True) if a != b)
        return iter({n.removesuffix("_id") for n in out})


def _late(since: int) -> bool:
    """Whether evidence after a sighting is of before what was known of its device: then what was may be otherwise."""
    (found,) = (
        raw_connection()
        .execute(
            "SELECT EXISTS(SELECT 1 FROM estate_sighting n JOIN estate_sighting o ON o.asset_id = n.asset_id "
            "AND o.at >= n.at AND o.id <= ? WHERE n.id > ?)",
            [since, since],
        )
        .fetchone()
    )
    return bool(found)


def moved(since: int) -> Moved:
    """Return what evidence after a sighting tells otherwise, as the data stands; many questions ask for the same."""
    return _moved(stamp(EVIDENCE), since)


@lru_cache(maxsize=4)
def _moved(now: Stamp, since: int) -> Moved:
    return Moved(since)


forgets_too(_moved.cache_clear)
