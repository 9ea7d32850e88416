"""Findings told: one by one for lists and files, with the because of each."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.finding.advisories import Known, known
from tarn.apps.exposure.finding.findings import Knowledge, findings
from tarn.apps.exposure.finding.occurrences import OPEN
from tarn.apps.exposure.grading.grades import grades
from tarn.apps.exposure.ground import ADVISORIES
from tarn.apps.exposure.results import FindingOut
from tarn.apps.people.speaking import asked_in_words
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.grade import GRADES
from tarn.core.exposure.status import Verdict, weigh
from tarn.core.exposure.told import STATUSES, Statement
from tarn.core.filters.parse import FilterError, parse

_known: Remembered[dict[int, Known]] = Remembered("vulnerabilities that touch us", ADVISORIES, most=4)


def touching(at: int | None, knowledge: Knowledge = "then") -> dict[int, Known]:
    """Return what is known of the vulnerabilities some device is or ever was open to, as of a moment."""

    held = _known.get((at, knowledge), dict)
    # What came with new evidence alone is read when it is first met.
    missing = [n for n in findings(knowledge).numbers if n not in held]
    if missing:
        held.update(known(missing, at))
    return held


@dataclass(frozen=True)
class Because:
    """Why a thing stands as it does: the verdict in words, and the document that says so."""

    verdict: Verdict | None
    format: str
    document: str
    by: str
    word: str
    title: str

    def __str__(self) -> str:
        """The because as one sentence, its witness at the end."""
        if self.word == "own":
            return f"{self.title} ({self.by}, in our own word)"
        words = self.verdict.because if self.verdict else "as its document says"
        if self.verdict and self.verdict.justification:
            words = self.verdict.justification.replace("_", " ")
        return f"{words} ({self.by or 'its publisher'}: {self.format} {self.document})"


class Reasons:
    """Why statuses are as they are; looked up once each."""

    def __init__(self, statements: list[int], numbers: list[int]) -> None:
        db = raw_connection()
        outside = things.names()
        rows = things.some(numbers)
        self.things = {n: outside.thing(row) for n, row in rows.items()}
        self.rows = rows
        self._said = {
            number: (read_statement(body), *witness)
            for number, body, *witness in db.execute(
                "SELECT s.id, s.body, d.format, d.name, d.by, d.word, t.title FROM exposure_statementrow s "
                "JOIN exposure_telling t ON t.id = s.telling_id JOIN exposure_document d ON d.id = t.document_id "
                "WHERE s.id IN (SELECT value FROM json_each(?))",
                [json.dumps(sorted(set(statements)))],
            )
        }
        self._told: dict[tuple[int, int], Because] = {}

    def statement(self, number: int) -> Statement:
        """Return a statement by its number."""
        return self._said[number][0]

    def why(self, thing: int, statement: int) -> Because:
        """Return why a thing stands as a statement says."""
        told = self._told.get((thing, statement))
        if told is None:
            said, *witness = self._said[statement]
            told = self._told[thing, statement] = Because(weigh(self.things[thing], said), *witness)
        return told


def listed(asked: Question, knowledge: Knowledge = "then", *, own: bool = True) -> Iterator[FindingOut]:
    """Yield the findings open at the question's moment on the devices it asks for, by device and advisory; those of our
    own rules among them unless told otherwise."""
    mine = np.array(sorted(ids(asked)), dtype=np.int32)
    rows = findings(knowledge).at(asked.at)
    rows = rows[np.isin(rows["asset"], mine) & (own | (rows["vulnerability"] > 0))]
    told = touching(asked.at, knowledge)
    reasons = Reasons(np.unique(rows["statement"]).tolist(), np.unique(rows["thing"]).tolist())
    names, grade = device_names(np.unique(rows["asset"]).tolist(), asked.at), grades(rows, told, asked.at).tolist()
    ordered = sorted(
        zip(rows.tolist(), grade, strict=True), key=lambda r: (names[r[0][1]], told[r[0][0]].name, r[0][2])
    )
    for (vulnerability, asset, thing, _, _, status, statement, since, until), graded in ordered:
        one, row = told[vulnerability], reasons.rows.get(thing)
        yield {
            "asset": asset,
            "device": names[asset],
            "advisory": one.name,
            "aliases": one.aliases,
            "product": row.called if row else "",
            "release": row.version if row else "",
            "status": STATUSES[status],
            "since": iso(since),
            "until": None if until == OPEN else iso(until),
            "score": one.score.base if one.score else None,
            "exploited": one.used is not None,
            "grade": GRADES[graded],
            "because": str(reasons.why(thing, statement)) if row else fits_rule(one),
        }


def fits_rule(one: Known) -> str:
    """Return why a device is found by a rule of our own: what the rule asks for, in words."""
    assert one.own is not None
    try:
        return f"it fits our own rule: {asked_in_words(parse(one.own.asks))}"
    except FilterError:
        return f"it fitted our own rule: {one.own.asks}"


def device_names(assets: list[int], at: int | None) -> dict[int, str]:
    """Return what devices are called, as of a moment."""
    then = holds("s", at)
    cursor: Any = raw_connection().execute(
        "SELECT s.asset_id, coalesce(s.name, a.number) FROM estate_assetspan s "
        "JOIN estate_asset a ON a.id = s.asset_id "
        f"WHERE s.asset_id IN (SELECT value FROM json_each(?)) AND {then.text}",
        [json.dumps(assets), *then.values],
    )
    return dict(cursor)
