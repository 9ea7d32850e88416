"""Statuses derived: what documents say, weighed for every thing they may be about, as it was known over time.

It is the only writer of statuses. They are a function of documents, names outside and things alone: whoever derives
them, and when, comes to the same rows.
"""

import json
from collections import defaultdict
from collections.abc import Hashable, Iterable, Iterator, Sequence
from threading import Lock
from typing import NamedTuple

from django.db import transaction

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import Ground
from tarn.apps.exposure.finding import components, things
from tarn.apps.exposure.ground import changed
from tarn.apps.people.breath import Breath
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.outside import Thing
from tarn.core.exposure.status import Held, Witness, loose_key, spans
from tarn.core.exposure.told import STATUSES


class StatusRow(NamedTuple):
    """A status as its table holds it."""

    thing: int
    vulnerability: int
    status: int
    sure: int
    needs: int
    statement: int
    begins: int
    ends: int | None


class Said(NamedTuple):
    """A statement with its number, under its keys, and from when to when its document stood."""

    number: int
    vulnerability: int
    key: str
    held: Held


_SAID = (
    "SELECT s.id, s.vulnerability_id, s.key, s.body, d.id, d.word, ifnull(d.dated, 0), d.begins, d.ends "
    "FROM exposure_statementrow s JOIN exposure_telling t ON t.id = s.telling_id "
    "JOIN exposure_document d ON d.id = t.document_id WHERE {} AND (d.ends IS NULL OR d.ends > d.begins)"
)


class Things:
    """Things by their keys."""

    def __init__(self, numbers: Iterable[int]) -> None:
        self._outside = things.names()
        self.by_number: dict[int, Thing] = {}
        self._by_key: dict[str, list[int]] = defaultdict(list)
        self._growing = Lock()
        self._add(things.some(list(numbers)))

    def _add(self, rows: dict[int, things.Row]) -> None:
        for number, row in rows.items():
            thing = self.by_number[number] = self._outside.thing(row)
            for key, _ in thing.keys:
                self._by_key[key].append(number)

    def grow(self) -> None:
        """Add the things there are and these are not yet among."""
        with self._growing:
            there = things.everything()
            if len(there) > len(self.by_number):
                self._add({i: row for i, row in there.items() if i not in self.by_number})

    def named(self, key: str) -> Iterator[int]:
        """Yield the things a key may be about."""
        yield from self._by_key.get(key, ())
        if (loose := loose_key(key)) != key:
            yield from self._by_key.get(loose, ())

    def keys(self) -> list[str]:
        """Return all keys of these things."""
        return list(self._by_key)


AT_ONCE = 500
"""New things up to which they and their statuses are written together, so that nobody sees one without the other."""


def refresh_things(devices: list[int] | None = None) -> int:
    """Add the things that are new on devices, with their statuses; return how many were.

    New things of a few devices are no change of what is known: whoever carries findings on reads those devices anew.
    """
    rows = things.found_here(devices)
    rows |= components.within(rows)
    with transaction.atomic():
        fresh = things.add(rows)
        if devices is not None and len(fresh) <= AT_ONCE:
            _derive_things(fresh)
            return len(fresh)
    derive_things(fresh)
    return len(fresh)


def refresh_components() -> int:
    """Add what bills of materials tell of what is here, with its statuses; return how many things that was."""
    if not components.any_told():
        return 0
    rows = components.within(things.everything().values())
    with transaction.atomic():
        fresh = things.add(rows)
    derive_things(fresh)
    return len(fresh)


def derive_things(numbers: list[int]) -> None:
    """Find the statuses of things anew, whatever is said of them."""
    for piece in Breath(50).pieces(numbers):
        with transaction.atomic():
            if _derive_things(piece):
                changed(raw_connection())


def _derive_things(numbers: list[int]) -> bool:
    if not numbers:
        return False
    some = Things(numbers)
    keys = json.dumps(some.keys())
    where = "(s.key IN (SELECT value FROM json_each(?)) OR s.loose IN (SELECT value FROM json_each(?)))"
    return _replace(some, _said(where, [keys, keys]), "thing_id", numbers)


def _names_said() -> Hashable:
    row = raw_connection().execute("SELECT coalesce(max(id), 0), count(*) FROM exposure_outsidename")
    return tuple(row.fetchone())


def _known_things() -> Hashable:
    (newest,) = raw_connection().execute("SELECT coalesce(max(id), 0) FROM exposure_thing").fetchone()
    return newest, _names_said()


THINGS = Ground("things", _known_things)
"""Things are only ever added; what people call them outside may change."""
_NAMES = Ground("names outside", _names_said)
_all: Remembered[Things] = Remembered("things by name", _NAMES, most=1, one_at_a_time=True)


def all_things() -> Things:
    """Return all things there are, by their keys; those that came since are added."""
    held = _all.get("all", lambda: Things([]))
    held.grow()
    return held


def derive(vulnerabilities: Iterable[int]) -> None:
    """Find the statuses of all things to vulnerabilities anew."""
    there = all_things()
    for piece in Breath(50).pieces(sorted(vulnerabilities)):
        with transaction.atomic():
            if _replace(there, said_of(piece), "vulnerability_id", piece):
                changed(raw_connection())


def derive_all() -> None:
    """Make things and statuses anew from nothing but evidence and documents."""
    refresh_things()
    derive(i for (i,) in raw_connection().execute("SELECT id FROM exposure_vulnerability").fetchall())


def said_of(vulnerabilities: Sequence[int]) -> list[Said]:
    """Return all that is said of vulnerabilities."""
    return _said("s.vulnerability_id IN (SELECT value FROM json_each(?))", [json.dumps(list(vulnerabilities))])


def _said(where: str, values: list[object]) -> list[Said]:
    return [
        Said(i, v, key, Held(begins, ends, Witness(document, word, dated, read_statement(body))))
        for i, v, key, body, document, word, dated, begins, ends in raw_connection().execute(
            _SAID.format(where), values
        )
    ]


def reckoned(some: Things, said: Iterable[Said]) -> Iterator[StatusRow]:
    """Yield the statuses that follow from what is said, of these things."""
    about: dict[tuple[int, int], list[Said]] = defaultdict(list)
    for one in said:
        for thing in dict.fromkeys(some.named(one.key)):
            about[thing, one.vulnerability].append(one)
    for (thing, vulnerability), told in about.items():
        number_of = {id(s.held.witness): s.number for s in told}
        for span in spans(some.by_number[thing], [s.held for s in told]):
            verdict, witness = span.decided.verdict, span.decided.witness
            status = STATUSES.index(span.decided.status)
            rest = (verdict.sure, int(bool(verdict.needs)), number_of[id(witness)], span.begins, span.ends)
            yield StatusRow(thing, vulnerability, status, *rest)


def _replace(some: Things, said: list[Said], column: str, numbers: list[int]) -> bool:
    """Write what follows in place of what is held; rows that stay as they are are left alone. Return whether any
    differs."""
    db = raw_connection()
    fresh = set(reckoned(some, said))
    held: dict[StatusRow, int] = {}
    for number, *told in db.execute(
        "SELECT id, thing_id, vulnerability_id, status, sure, needs, statement, begins, ends FROM exposure_status "
        f"WHERE {column} IN (SELECT value FROM json_each(?))",
        [json.dumps(numbers)],
    ):
        held[StatusRow(*told)] = number
    gone = [(number,) for row, number in held.items() if row not in fresh]
    come: list[StatusRow] = sorted(fresh - held.keys(), key=_by_vulnerability)
    db.executemany("DELETE FROM exposure_status WHERE id = ?", gone)
    db.executemany(
        "INSERT INTO exposure_status (thing_id, vulnerability_id, status, sure, needs, statement, begins, ends) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        come,
    )
    return bool(gone or come)


def _by_vulnerability(row: StatusRow) -> tuple[int, int, int]:
    return row.vulnerability, row.thing, row.begins
