"""What ends findings: which change each needs, of the kinds there are, and what is so of a change beside that.

A product that is barred is removed rather than updated; one that has a cure is updated; one past its end of support
without a cure is replaced; else the maker's other measures are taken, where there are any. A rule of our own says
itself what ends it.
"""

import json
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure.doing.results import CuredRelease
from tarn.apps.exposure.finding import support, things
from tarn.apps.exposure.finding.advisories import Known
from tarn.apps.exposure.finding.cures import cures, distinct, highest
from tarn.apps.exposure.finding.findings import Knowledge, bracket
from tarn.apps.software.reads.rulings import verdict_of_releases
from tarn.core.filters.tree import All, Any_, Compare, Node, Plain, Presence, Within, to_text

MEASURES = ("mitigation", "workaround")
"""Sorts of remedies (CSAF 2.0, 3.2.3.12.1) that are measures other than an update."""
_RESTARTS = (
    "none",
    "service",
    "connected",
    "dependencies",
    "parent",
    "vulnerable_component",
    "zone",
    "machine",
    "system",
)
"""Categories of restart_required (CSAF 2.0, 3.2.3.12.8), what disturbs least first."""


@dataclass
class Change:
    """One change: what it does to what. `cures`: of an update the releases needed by system; `pairs`: the products and
    releases it is about; `inside`: whether these stand within what is changed."""

    key: str
    verb: str
    what: str
    cures: dict[str, set[str]] = field(default_factory=lambda: defaultdict(set))
    orders: dict[str, str] = field(default_factory=dict)
    pairs: set[tuple[str, str]] = field(default_factory=set)
    own: Known | None = None
    system: bool = False
    inside: bool = False

    @property
    def targets(self) -> list[CuredRelease]:
        """The release to update to, by system."""
        return [{"under": u, "target": highest(self.orders[u], self.cures[u])} for u in sorted(self.cures)]


@dataclass(frozen=True)
class Aims:
    """The changes there are, by key, and by finding in part which it needs; -1 for none."""

    changes: list[Change]
    of: Any


def aims(rows: Any, known: dict[int, Known], at: int | None) -> Aims:
    """Return the changes that end findings."""
    changes: dict[str, Change] = {}
    needed = np.full(len(rows), -1, dtype=np.int32)
    order: dict[str, int] = {}

    def number(key: str, verb: str, what: str) -> int:
        if key not in changes:
            changes[key], order[key] = Change(key, verb, what), len(order)
        return order[key]

    own = rows["vulnerability"] < 0
    for rule in np.unique(rows["vulnerability"][own]).tolist():
        told = known[rule]
        assert told.own is not None
        place = number(f"rule:{-rule}", told.own.verb, told.own.what)
        changes[f"rule:{-rule}"].own = told
        needed[rows["vulnerability"] == rule] = place
    pairs, where = distinct(rows[~own])
    cure, row_of = cures(rows[~own]), things.some(sorted({t for t, _ in pairs}))
    barred, over = _barred(at), support.over(at)
    by_pair = np.full(len(pairs), -1, dtype=np.int32)
    without = np.zeros(len(pairs), dtype=bool)
    for n, (thing, statement) in enumerate(pairs):
        row, version = row_of[thing], cure[thing, statement]
        pair = (row.product, row.version)
        if row.part == things.COMPONENT:
            # What is within a product is not updated by itself: another release of that is needed.
            key = f"replace:{row.within}"
            by_pair[n] = number(key, "replace", row.within)
            changes[key].pairs.add(pair)
            changes[key].inside = True
            continue
        if pair in barred:
            verb = "remove"
        elif version:
            verb = "update"
        elif thing in over:
            verb = "replace"
        else:
            without[n] = True
            continue
        key = f"{verb}:{row.product}"
        by_pair[n] = number(key, verb, row.product)
        change = changes[key]
        change.pairs.add(pair)
        change.system |= row.part == "o"
        if verb == "update":
            change.cures[things.under(row)].add(version)
            change.orders[things.under(row)] = row.order
    told_of = np.flatnonzero(~own)
    needed[told_of] = by_pair[where] if pairs else needed[told_of]
    _measures(rows, needed, told_of[without[where]] if pairs else told_of, row_of, known, number, changes)
    return _sorted(changes, needed)


def _measures(
    rows: Any, needed: Any, at: Any, row_of: dict[int, things.Row], known: dict[int, Known], number: Any, changes: Any
) -> None:
    """Have findings without a cure need the maker's other measures, where their advisory tells of any."""
    with_measures = telling_measures(np.unique(rows["vulnerability"][at]).tolist())
    for vulnerability in with_measures:
        key = f"measures:{known[vulnerability].name}"
        mine = at[rows["vulnerability"][at] == vulnerability]
        needed[mine] = number(key, "take measures", known[vulnerability].name)
        for thing in np.unique(rows["thing"][mine]).tolist():
            changes[key].pairs.add((row_of[thing].product, row_of[thing].version))


def _sorted(changes: dict[str, Change], needed: Any) -> Aims:
    """Number changes by their keys, so that nothing depends on the order findings come in."""
    before = list(changes)
    ordered = sorted(changes)
    place = np.array([ordered.index(k) for k in before] + [-1], dtype=np.int32)
    return Aims([changes[k] for k in ordered], place[needed])


def _barred(at: int | None) -> set[tuple[str, str]]:
    """Return the products with their releases that the company bars for everybody."""
    numbers = verdict_of_releases(at, "barred").get(("", ""), set())
    return {(f.product, f.version) for n, f in things.releases().items() if n in numbers} if numbers else set()


def telling_measures(numbers: list[int]) -> dict[int, list[str]]:
    """Return by vulnerability the measures other than updates that its documents tell of."""
    out: dict[int, list[str]] = defaultdict(list)
    for vulnerability, text in _more(numbers):
        for remedy in json.loads(text).get("remedies", ()):
            if remedy["sort"] in MEASURES and remedy["text"] not in out[vulnerability]:
                out[vulnerability].append(remedy["text"])
    return {v: told for v, told in out.items() if told}


def restarts(numbers: list[int]) -> dict[int, str]:
    """Return by vulnerability what its remedies say has to be restarted, the most of it; nothing where none says."""
    out: dict[int, str] = {}
    for vulnerability, text in _more(numbers):
        for remedy in json.loads(text).get("remedies", ()):
            told = remedy.get("restart", "")
            if told in _RESTARTS:
                out[vulnerability] = max(out.get(vulnerability, "none"), told, key=_RESTARTS.index)
    return out


def _more(numbers: list[int]) -> list[tuple[int, str]]:
    cursor = raw_connection().execute(
        "SELECT t.vulnerability_id, t.more FROM exposure_telling t JOIN exposure_document d ON d.id = t.document_id "
        "WHERE d.ends IS NULL AND t.withdrawn IS NULL AND instr(t.more, '\"remedies\"') "
        "AND t.vulnerability_id IN (SELECT value FROM json_each(?))",
        [json.dumps([n for n in numbers if n > 0])],
    )
    return cursor.fetchall()


def disturbs(change: Change, told: dict[int, str], vulnerabilities: list[int]) -> str:
    """Return what a change disturbs, in words; "" where nobody tells."""
    if change.verb == "replace":
        return "the device while it is made anew" if change.system else "whoever works with it"
    if change.verb != "update":
        return ""
    worst = max((told[v] for v in vulnerabilities if v in told), key=_RESTARTS.index, default="")
    if change.system or worst in ("machine", "system"):
        return "restarts the device"
    return {"": "", "none": "nothing"}.get(worst, "restarts a service")


def filter_of(change: Change, knowledge: Knowledge, *, alone: bool) -> str:
    """Return the filter for the devices a change is to be made on. `alone`: no other change is about its product."""
    parts: list[Node] = []
    if change.own is not None:
        parts = [Compare("own", "=", Plain("yes")), Compare("id", "=", Plain(change.own.name, True))]
    elif change.verb == "update" and alone:
        parts = [Compare("product", "=", Plain(change.what, True)), Presence("cure", True)]
    else:
        if change.verb == "take measures":
            parts.append(Compare("id", "=", Plain(change.what, True)))
        parts.append(_pairs(change.pairs))
        if change.inside:
            parts.append(Compare("under", "=", Plain(change.what, True)))
        elif change.verb != "remove":
            parts.append(Presence("cure", change.verb == "update"))
    return bracket(f"{to_text(All(tuple(parts)))} and accepted = no", knowledge)


def _pairs(pairs: set[tuple[str, str]]) -> Node:
    """Return the condition of being one of some products with their releases."""
    by: dict[str, list[str]] = defaultdict(list)
    for product, release in sorted(pairs):
        by[product].append(release)
    each: list[Node] = []
    for product, releases in by.items():
        told = [r for r in releases if r]
        named: Node = Compare("product", "=", Plain(product, True))
        if told and len(told) == len(releases):
            at: Node = Within("release", tuple(Plain(r, True) for r in told))
            each.append(All((named, at)))
        else:
            each.append(named)
    return each[0] if len(each) == 1 else Any_(tuple(each))
