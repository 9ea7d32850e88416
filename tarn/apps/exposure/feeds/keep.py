"""Keeping documents: as they came, by content, a version from when to when; and what each tells, under its keys."""

import hashlib
import json
import zlib
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from django.db import transaction

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.feeds.lists import take_lists
from tarn.apps.exposure.feeds.names import Known
from tarn.apps.people.breath import Breath
from tarn.core.exposure.codec import more_of, statement_json
from tarn.core.exposure.reading import Part
from tarn.core.exposure.status import loose_key
from tarn.core.exposure.told import Document, Statement, Telling

FAULTS_KEPT = 500
"""Faults of a run that are told one by one; all are counted."""
LONGEST_TEXT = 20_000
FUTURE = 2 * 86_400
"""Seconds a document may be dated after it came before that is said."""
LEAST_HELD = 10
"""Documents that may be withdrawn at once, whatever share of a feed they are."""

_DOCUMENTS = (
    "INSERT INTO exposure_document (id, feed_id, format, name, hash, by, word, dated, begins, ends, warnings) "
    "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, NULL, ?)"
)
_TELLINGS = (
    "INSERT INTO exposure_telling (id, document_id, vulnerability_id, title, text, published, withdrawn, used, more) "
    "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)"
)
_STATEMENTS = (
    "INSERT INTO exposure_statementrow (telling_id, vulnerability_id, key, loose, body) VALUES (?, ?, ?, ?, ?)"
)
_ENDS = "INSERT INTO exposure_supporttold (document_id, key, loose, body, ends, link) VALUES (?, ?, ?, ?, ?, ?)"
_COMPONENTS = (
    'INSERT INTO exposure_componenttold (document_id, of_key, of_version, key, name, version, "order") '
    "VALUES (?, ?, ?, ?, ?, ?, ?)"
)


@dataclass
class Kept:
    """What came of reading documents: counts by what became of them, faults, and the vulnerabilities told anew."""

    counts: dict[str, int] = field(
        default_factory=lambda: {"read": 0, "new": 0, "changed": 0, "same": 0, "older": 0, "refused": 0}
    )
    faults: list[dict[str, str]] = field(default_factory=list)
    touched: set[int] = field(default_factory=set)
    withdrawing: list[Part] = field(default_factory=list)

    def fault(self, place: str, rule: str) -> None:
        """Note a fault; beyond some hundreds they are only counted."""
        if len(self.faults) < FAULTS_KEPT:
            self.faults.append({"place": place[:300], "rule": rule[:400]})


class Keeper:
    """Takes documents of one feed in as of a moment.

    What takes back an advisory that stood is put aside until it is known how many do: `finish` takes them in, or says
    that they are more than the feed's share and wait for a person.
    """

    def __init__(self, feed: int, at: int, share: int = 100) -> None:
        self.feed, self.at, self.share = feed, at, share
        self.kept = Kept()
        self._names: set[tuple[str, str]] = set()

    def take(self, parts: Iterable[Part]) -> None:
        """Take documents in, some in each transaction."""
        for piece in Breath(100).pieces(parts):
            with transaction.atomic():
                self._piece(piece, hold=True)

    def finish(self) -> dict[str, int] | None:
        """Take in what withdraws; return how many of how many, where they are beyond the share and were left out."""
        waiting = self.kept.withdrawing
        if not waiting:
            return None
        (standing,) = (
            raw_connection()
            .execute("SELECT count(*) FROM exposure_document WHERE feed_id = ? AND ends IS NULL", [self.feed])
            .fetchone()
        )
        if len(waiting) > LEAST_HELD and len(waiting) * 100 > self.share * standing:
            return {"withdrawn": len(waiting), "of": standing}
        for piece in Breath(100).pieces(waiting):
            with transaction.atomic():
                self._piece(piece, hold=False)
        return None

    def _piece(self, parts: list[Part], hold: bool) -> None:
        db, kept = raw_connection(), self.kept
        sound = []
        for part in parts:
            if part.document is None:
                kept.counts["read"] += hold
                kept.counts["refused"] += 1
                kept.fault(part.place, str(part.refused))
            else:
                sound.append((part, part.document, hashlib.sha256(part.body).digest()))
        standing = self._standing(db, [(d.format, d.name) for _, d, _ in sound])
        write = _Write(db, self.feed, self.at)
        for part, document, digest in sound:
            kept.counts["read"] += hold
            key = (document.format, document.name)
            before = standing.get(key)
            if before is not None and before.hash == digest:
                kept.counts["same"] += 1
                continue
            if before is not None and (document.dated or 0) < (before.dated or 0):
                kept.counts["older"] += 1
                continue
            if hold and before is not None and before.speaks and _withdraws(document):
                kept.withdrawing.append(part)
                continue
            for warning in self._warnings(document):
                kept.fault(f"{part.place} {document.name}", warning)
            kept.counts["new" if before is None else "changed"] += 1
            write.put(document, digest, part.body, before.number if before else None)
            standing[key] = _Standing(write.number, digest, document.dated, not _withdraws(document))
        write.done()
        kept.touched |= {write.known.now(v) for v in write.touched}

    def _warnings(self, document: Document) -> list[str]:
        told = list(document.warnings)
        if document.dated is not None and document.dated > self.at + FUTURE:
            told.append("it is dated in the future; by when it came it is put in order")
        return told

    def _standing(self, db: Any, names: list[tuple[str, str]]) -> dict[tuple[str, str], "_Standing"]:
        """Return the versions that stand of documents, by format and name."""
        rows = db.execute(
            "SELECT d.format, d.name, d.id, d.hash, d.dated, EXISTS (SELECT 1 FROM exposure_telling t "
            "WHERE t.document_id = d.id AND t.withdrawn IS NULL) FROM json_each(?) n CROSS JOIN exposure_document d "
            "WHERE d.feed_id = ? AND d.format = n.value ->> 0 AND d.name = n.value ->> 1 AND d.ends IS NULL",
            [json.dumps(names), self.feed],
        )
        return {(f, n): _Standing(i, bytes(h), dated, bool(speaks)) for f, n, i, h, dated, speaks in rows}


@dataclass(frozen=True, slots=True)
class _Standing:
    number: int
    hash: bytes
    dated: int | None
    speaks: bool


def _withdraws(document: Document) -> bool:
    return bool(document.tellings) and all(t.withdrawn is not None for t in document.tellings)


class _Write:
    """What one transaction writes, gathered and written in a few statements."""

    def __init__(self, db: Any, feed: int, at: int) -> None:
        self.db, self.feed, self.at = db, feed, at
        self.known = Known(db)
        self.number = self._last("exposure_document")
        self.touched: set[int] = set()
        self._telling = self._last("exposure_telling")
        self._documents: list[tuple[object, ...]] = []
        self._tellings: list[tuple[Any, ...]] = []
        self._statements: list[tuple[Any, ...]] = []
        self._contents: list[tuple[bytes, bytes]] = []
        self._ends: list[tuple[object, ...]] = []
        self._components: list[tuple[object, ...]] = []

    def _last(self, table: str) -> int:
        return int(self.db.execute(f"SELECT coalesce(max(id), 0) FROM {table}").fetchone()[0])

    def put(self, document: Document, digest: bytes, body: bytes, before: int | None) -> None:
        """Have a document stand in place of `before`; `touched` holds the vulnerabilities either tells of."""
        if before is not None:
            self.done()
            self.db.execute("UPDATE exposure_document SET ends = ? WHERE id = ?", [self.at, before])
            told = self.db.execute("SELECT vulnerability_id FROM exposure_telling WHERE document_id = ?", [before])
            self.touched |= {v for (v,) in told}
        self.number += 1
        self._contents.append((digest, zlib.compress(body, 1)))
        dated = document.dated
        row = (self.number, self.feed, document.format, document.name[:400], digest, document.by[:200], document.word)
        self._documents.append((*row, dated, self.at, json.dumps(document.warnings)))
        for telling in document.tellings:
            if not telling.about:
                self._tell(telling, self.known.one(telling.ids))
            for name in telling.about:
                self._tell(telling, self.known.one((name,)))
        for end in document.ends:
            key = end.subject.key[:400]
            said = statement_json(Statement(end.subject, "affected", "", ranges=end.ranges))
            self._ends.append((self.number, key, loose_key(key), said, end.ends, end.link))
        if document.of is not None:
            of = (self.number, document.of.key[:400], document.of_version[:500])
            self._components += (
                (*of, c.subject.key[:400], c.subject.name[:300], c.version[:500], c.subject.order)
                for c in document.components
            )
        take_lists(self.db, self.feed, document, self.at)

    def _tell(self, telling: Telling, vulnerability: int) -> None:
        self._telling += 1
        self.touched.add(vulnerability)
        title, text = telling.title[:LONGEST_TEXT], telling.text[:LONGEST_TEXT]
        times = (telling.published, telling.withdrawn, telling.used)
        row = (self._telling, self.number, vulnerability, title, text, *times, json.dumps(more_of(telling)))
        self._tellings.append(row)
        for statement in telling.statements if telling.withdrawn is None else ():
            key = statement.subject.key[:400]
            body = statement_json(statement)
            self._statements.append((self._telling, vulnerability, key, loose_key(key), body))

    def done(self) -> None:
        """Write what is gathered."""
        self.db.executemany("INSERT OR IGNORE INTO exposure_content (hash, body) VALUES (?, ?)", self._contents)
        self.db.executemany(_DOCUMENTS, self._documents)
        self.db.executemany(_ENDS, self._ends)
        self.db.executemany(_COMPONENTS, self._components)
        now = self.known.now  # a later document may have joined what an earlier one told of
        self.db.executemany(_TELLINGS, [(t, d, now(v), *rest) for t, d, v, *rest in self._tellings])
        self.db.executemany(_STATEMENTS, [(t, now(v), *rest) for t, v, *rest in self._statements])
        for gathered in (
            self._contents,
            self._documents,
            self._ends,
            self._components,
            self._tellings,
            self._statements,
        ):
            gathered.clear()
