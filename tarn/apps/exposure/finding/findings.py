"""Findings: which device is or was open to which vulnerability, derived of statuses and of where things are.

One array of all time answers of any moment: what is open then, since when, and how each ended.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, LISTED
from tarn.apps.exposure.finding import hotfixes
from tarn.apps.exposure.finding.catching_up import catch_up
from tarn.apps.exposure.finding.deriving import THINGS
from tarn.apps.exposure.finding.needs import Needs
from tarn.apps.exposure.finding.occurrences import OPEN, occurrences, runs
from tarn.apps.exposure.ground import ADVISORIES, OWN
from tarn.apps.exposure.own import deriving as own
from tarn.core.exposure.told import STATUSES

AFFECTED, UNSURE = STATUSES.index("affected"), STATUSES.index("under investigation")
SHAPE = np.dtype(
    [
        ("vulnerability", "i4"),
        ("asset", "i4"),
        ("thing", "i4"),
        ("begins", "u4"),
        ("ends", "u4"),
        ("status", "i1"),
        ("statement", "i8"),
        ("since", "u4"),
        ("until", "u4"),
    ]
)
"""A part of a finding: a device that has a thing open to a vulnerability from `begins` to `ends`. `status` is affected
or under investigation; `statement` the one believed. `since` and `until`: of the whole finding, which goes on while
one release takes another's place and is open too."""

Knowledge = Literal["then", "now"]
"""Whether a day is asked for what was known on it, or for what is now known to have been true."""


def bracket(inner: str, knowledge: Knowledge = "then") -> str:
    """Return the filter for the devices with a finding for which a condition holds, by what was or is now known."""
    return f"vulnerability[{inner}{' and known = afterwards' if knowledge == 'now' else ''}]"


@dataclass(frozen=True)
class Findings:
    """Findings of all time by vulnerability and asset."""

    rows: Any

    @cached_property
    def numbers(self) -> list[int]:
        """The vulnerabilities, and the negatives of our own rules, that any device is or was open to."""
        return [int(n) for n in np.unique(self.rows["vulnerability"])]

    def at(self, moment: int | None) -> Any:
        """Return the rows open at a moment, now where none is given."""
        if moment is None:
            return self.rows[self.rows["ends"] == OPEN]
        return self.rows[(self.rows["begins"] <= moment) & (self.rows["ends"] > moment)]

    def of(self, vulnerability: int) -> Any:
        """Return the rows of one vulnerability."""
        a, b = np.searchsorted(self.rows["vulnerability"], (vulnerability, vulnerability + 1))
        return self.rows[a:b]


_told: Remembered[Any] = Remembered("findings by documents", EVIDENCE, LISTED, ADVISORIES, most=2, one_at_a_time=True)
_findings: Remembered[Findings] = Remembered("findings", EVIDENCE, LISTED, ADVISORIES, OWN, most=2, one_at_a_time=True)
_held_statuses: Remembered[Any] = Remembered("statuses", ADVISORIES, THINGS, most=2)


def findings(known: Knowledge = "then") -> Findings:
    """Return the findings of all time, as they were known, or as they are now known to have been."""
    return _findings.get(known, lambda: _made(known))


def _made(known: Knowledge) -> Findings:
    catch_up()
    own.catch_up()
    told = _told.get(known, lambda: _derived(known), lambda before, since: _carried_on(known, before, since))
    # Rules of our own stand under negative numbers: they come before all that documents tell of.
    return Findings(np.concatenate((_of_our_own(), told)))


def _statuses(known: Knowledge) -> Any:
    return _held_statuses.get(known, lambda: _read_statuses(known))


def _read_statuses(known: Knowledge) -> Any:
    shape = np.dtype(
        [("thing", "i4"), ("vulnerability", "i4"), ("status", "i1"), ("needs", "?"), ("statement", "i8"),
         ("begins", "u4"), ("ends", "u4")]
    )  # fmt: skip
    only = " AND ends IS NULL" if known == "now" else ""
    begins = "0" if known == "now" else "begins"
    cursor = raw_connection().execute(
        f"SELECT thing_id, vulnerability_id, status, needs, statement, {begins}, ifnull(ends, ?) FROM exposure_status "
        f"WHERE status IN (?, ?){only} ORDER BY thing_id",
        [OPEN, AFFECTED, UNSURE],
    )
    return np.array(cursor.fetchall(), shape)


def _carried_on(known: Knowledge, before: Any, since: int) -> Any:
    """Return findings carried on: those of devices with new evidence made anew, the others as they were."""
    devices = touched(since)
    if devices is None:
        return None
    fresh = _derived(known, devices)
    kept = before[~np.isin(before["asset"], np.array(devices, dtype=np.int32))]
    # Both are in order: each new row goes in where it belongs.
    order = kept["vulnerability"].astype(np.int64) << 32 | kept["asset"]
    place = np.searchsorted(order, fresh["vulnerability"].astype(np.int64) << 32 | fresh["asset"])
    return np.insert(kept, place, fresh)


def _derived(known: Knowledge, devices: list[int] | None = None) -> Any:
    """Return the findings that follow from statuses and from where things are, of some devices or of all."""
    statuses = _statuses(known)
    needs = Needs.read(statuses[statuses["needs"]]["statement"].tolist())
    things = frozenset(np.unique(statuses["thing"]).tolist())
    where = occurrences(things | needs.things).rows
    if devices is not None:
        where = where[np.isin(where["asset"], np.array(devices, dtype=np.int32))]
    first, last = (np.searchsorted(where["thing"], statuses["thing"], side) for side in ("left", "right"))
    times = last - first
    of = np.repeat(np.arange(len(statuses)), times)
    at = np.arange(int(times.sum())) - np.repeat(np.cumsum(times) - times, times) + np.repeat(first, times)
    rows = np.zeros(len(of), SHAPE)
    for name in ("vulnerability", "thing", "status", "statement"):
        rows[name] = statuses[name][of]
    rows["asset"] = where["asset"][at]
    rows["begins"] = np.maximum(where["begins"][at], statuses["begins"][of])
    rows["ends"] = np.minimum(where["ends"][at], statuses["ends"][of])
    needing = statuses["needs"][of]
    if needing.any():
        met = np.array(list(needs.met(rows[needing].tolist(), where)), SHAPE)
        rows = np.concatenate((rows[~needing], met))
    rows = hotfixes.without_cured(rows[rows["begins"] < rows["ends"]])
    return _ordered(rows)


def _of_our_own() -> Any:
    """Return what the company's own rules find: rows under the negative of a rule's number, of no thing."""
    told = raw_connection().execute(
        "SELECT -s.rule_id, s.asset, s.begins, ifnull(s.ends, ?) FROM exposure_ownspan s "
        "JOIN exposure_ownrule r ON r.id = s.rule_id WHERE r.in_force",
        [OPEN],
    )
    return _ordered(np.array([(rule, a, 0, b, e, AFFECTED, 0, 0, 0) for rule, a, b, e in told], SHAPE))


def _ordered(rows: Any) -> Any:
    return _whole(rows[np.lexsort((rows["begins"], rows["asset"], rows["vulnerability"]))])


def _whole(rows: Any) -> Any:
    """Note since when and until when each device is open to each vulnerability without a break."""
    if not len(rows):
        return rows
    other = (rows["vulnerability"][1:] != rows["vulnerability"][:-1]) | (rows["asset"][1:] != rows["asset"][:-1])
    first, furthest = runs(other, rows["begins"], rows["ends"])
    of = np.cumsum(np.isin(np.arange(len(rows)), first)) - 1
    last = np.concatenate((first[1:], [len(rows)])) - 1
    rows["since"], rows["until"] = rows["begins"][first][of], furthest[last][of]
    return rows
