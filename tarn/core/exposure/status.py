"""How something here stands to a vulnerability, in the words of VEX, and why: statements weighed against a thing.

Order of belief: the company's own decision; the maker's or distribution's word on its own product; a bill of
materials; the general record. Within one of these the word on the very version goes before that on a range, and the
later document before the earlier.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from tarn.core.exposure.cpe import NA, Relation, compare
from tarn.core.exposure.outside import DISTRIBUTED, Thing
from tarn.core.exposure.ranges import Range
from tarn.core.exposure.told import STATUSES, Need, Statement, Status, Word
from tarn.core.text import fold
from tarn.core.versions import VersionError, version_key
from tarn.core.versions.debian import parted

CERTAIN, BY_NAME, BY_NAME_ALONE, CARRIED_BACK, UNSURE = 100, 90, 80, 70, 60
"""How sure a verdict is, in percent: by a package's own name or a person's word; by maker's and product's names; by
the product's name alone; by the upstream range of what a distribution packages; where something is not known."""

PLATFORMS = ("windows", "linux", "macos", "android", "ios")
_ORDER_WORDS = {
    "deb": "in the distribution's own order (dpkg)",
    "rpm": "in the distribution's own order (RPM)",
    "semver": "by Semantic Versioning",
    "npm": "by npm's order",
    "pypi": "by PEP 440",
    "maven": "by Maven's order",
    "windows": "by builds of Windows",
    "plain": "by number",
}
_DOTTED = re.compile(r"[0-9]+(?:\.[0-9]+)*")


@dataclass(frozen=True, slots=True)
class Verdict:
    """What one statement comes to for one thing. `because`: in words; `sure`: in percent, below which something is not
    known and the status is under investigation; `needs`: what else must be on the device."""

    status: Status
    because: str
    sure: int
    exact: bool = False
    carried_back: bool = False
    justification: str = ""
    fixed_in: tuple[str, ...] = ()
    needs: tuple[Need, ...] = ()


def weigh(thing: Thing, statement: Statement) -> Verdict | None:
    """Return what a statement says of a thing; None where it is about something else or says nothing of it."""
    how = _named(thing, statement)
    if how is None:
        return None
    sure, doubts = how
    order, version, upstream = order_of(thing, statement)
    if upstream:
        sure = min(sure, CARRIED_BACK)
    if order in ("semver", "npm") and _DOTTED.fullmatch(version):
        order = "plain"  # two numbers, or four: no semantic version, and the order is the same
    try:
        found = _found(statement, version, order)
    except VersionError as wrong:
        return Verdict("under investigation", f"its version cannot be compared: {wrong}", UNSURE)
    if found is None:
        return None
    status, words, exact = found
    if doubts and status in ("affected", "fixed"):
        return Verdict("under investigation", f"{words}; but {doubts[0]}", min(sure, UNSURE), needs=statement.needs)
    if upstream and status == "affected":
        words += "; the package's own revision may carry the cure back"
    return Verdict(
        status,
        words,
        sure,
        exact,
        upstream,
        statement.justification if status == "not affected" else "",
        statement.fixed_in,
        statement.needs if status == "affected" else (),
    )


def _named(thing: Thing, statement: Statement) -> tuple[int, list[str]] | None:
    """Return how sure it is that the statement is about the thing, and what is not known of it; None: it is not."""
    subject = statement.subject
    keys = dict(thing.keys)
    if subject.key in keys:
        by_hand = keys[subject.key] == "rule"
        sure = CERTAIN if by_hand or not subject.key.startswith("product/") else BY_NAME
    elif loose_key(subject.key) in keys:
        sure = BY_NAME_ALONE
    else:
        return None
    doubts: list[str] = []
    if subject.key.startswith("package/"):
        if subject.type in ("deb", "rpm") and thing.order in ("deb", "rpm") and subject.type != thing.order:
            return None
        if subject.distribution is not None:
            if thing.distribution is None:
                doubts.append("the distribution of the device is not known")
            elif not subject.distribution.holds(thing.distribution):
                return None
        elif thing.distribution is not None:
            sure = min(sure, BY_NAME)
    if subject.cpe is not None:
        ours = thing.cpe(subject.cpe.vendor, subject.cpe.product)
        told = compare(subject.cpe, ours, leave_out=("version", "language", "other"))
        if told is Relation.DISJOINT:
            return None
        if told in (Relation.SUBSET, Relation.UNDEFINED):
            doubts.append(f"it is not known whether it is {_asked(subject.cpe, ours)}")
    platforms = {p for told_of in statement.platforms for p in PLATFORMS if p in fold(told_of)}
    if platforms and thing.part == "a":
        if not thing.platform:
            doubts.append(f"it is not known whether it runs on {' or '.join(sorted(platforms))}")
        elif thing.platform not in platforms:
            return None
    return sure, doubts


def loose_key(key: str) -> str:
    """Return a product's key without its maker."""
    return f"product/*/{key.rsplit('/', 1)[1]}" if key.startswith("product/") else key


def _asked(theirs: object, ours: object) -> str:
    for name in ("update", "edition", "sw_edition", "target_sw", "target_hw"):
        asked = getattr(theirs, name)
        if asked not in ("*", getattr(ours, name)):
            return f"{name.replace('_', ' ')} “{'none' if asked == NA else asked}”"
    return "meant"


def order_of(thing: Thing, statement: Statement) -> tuple[str, str, bool]:
    """Return the order to compare by, the thing's version for that, and whether it is a package's upstream version."""
    subject = statement.subject
    if thing.order in DISTRIBUTED.values() and thing.order and subject.key.startswith("product/"):
        return (subject.order or "plain"), parted(thing.version)[1] or thing.version, True
    if subject.key.startswith("package/") and thing.order in ("deb", "rpm"):
        return thing.order, thing.version, False
    return (subject.order or thing.order or "plain"), thing.version, False


def _found(statement: Statement, version: str, order: str) -> tuple[Status, str, bool] | None:
    """Return a version's status by a statement, in words, and whether it is named by itself. Raises VersionError."""
    if statement.of_all:
        return statement.status, "said of every version", False
    if not version:
        return "under investigation", f"which version is here is not known; said of {_said(statement)}", False
    key = version_key(version, order)
    if any(_is(v, version, key, order) for v in statement.left_out):
        return (statement.otherwise and (statement.otherwise, f"{version} is left out", True)) or None
    if any(_is(v, version, key, order) for v in statement.versions):
        return statement.status, f"{version} is named", True
    by = _ORDER_WORDS[order]
    for one in statement.ranges:
        if one.holds(version, order):
            return statement.status, f"{_lies(one)} {by}", False
    if statement.status == "affected":
        passed = [r for r in statement.ranges if r.fixed and r.beyond(version, order)]
        if passed:
            return "fixed", f"{passed[-1].high} carries the cure, {by}", False
        if statement.otherwise:
            return statement.otherwise, f"{version} is outside {_said(statement)}, {by}", False
    return None


def _is(named: str, version: str, key: str, order: str) -> bool:
    if named == version:
        return True
    try:
        return version_key(named, order) == key
    except VersionError:
        return False


def _lies(one: Range) -> str:
    said = one.said()
    return said if not one.low or one.low == one.high else f"it lies {said}"


def _said(statement: Statement) -> str:
    told = [*statement.versions[:3], *(r.said() for r in statement.ranges[:3])]
    more = len(statement.versions) + len(statement.ranges) - len(told)
    return ", ".join(told) + (f" and {more} more" if more > 0 else "")


@dataclass(frozen=True, slots=True)
class Witness:
    """A statement with the document it stands in: its number, whose word it is, when it was dated."""

    document: int
    word: Word
    dated: int
    statement: Statement


@dataclass(frozen=True, slots=True)
class Decided:
    """The status that is believed, the witness and verdict it rests on, and those that say otherwise."""

    status: Status
    verdict: Verdict
    witness: Witness
    otherwise: tuple[tuple[Witness, Verdict], ...] = ()


_RANK: dict[Word, int] = {"own": 4, "maker": 3, "components": 2, "general": 0}
_UPSTREAM = 1
"""The rank of a maker's word on what a distribution packages: below the distribution's, above the general record."""


def decide(thing: Thing, witnesses: Iterable[Witness]) -> Decided | None:
    """Return the status that is believed of what witnesses say; None where none of them says anything of it."""
    told = [(w, v) for w in witnesses if (v := weigh(thing, w.statement)) is not None]
    if not told:
        return None
    told.sort(key=_worth, reverse=True)
    witness, verdict = told[0]
    against = tuple((w, v) for w, v in told[1:] if v.status != verdict.status)
    return Decided(verdict.status, verdict, witness, against)


def _worth(pair: tuple[Witness, Verdict]) -> tuple[int, bool, bool, int, int, int]:
    """Of what one document says in several ways, the graver counts."""
    witness, verdict = pair
    rank = _RANK[witness.word]
    if verdict.carried_back and witness.word != "own":
        rank = min(rank, _UPSTREAM)
    known = verdict.sure > UNSURE
    return rank, known, verdict.exact, witness.dated, witness.document, -STATUSES.index(verdict.status)


@dataclass(frozen=True, slots=True)
class Held:
    """A witness with the time it was known: from `begins` until `ends`, None while it is."""

    begins: int
    ends: int | None
    witness: Witness


@dataclass(frozen=True, slots=True)
class StatusSpan:
    """A status as it was known from when to when."""

    begins: int
    ends: int | None
    decided: Decided


def spans(thing: Thing, held: Sequence[Held]) -> list[StatusSpan]:
    """Return what was known of a thing over time, one span after the other; none where nothing was said of it."""
    moments: list[int | None] = [*sorted({h.begins for h in held} | {h.ends for h in held if h.ends is not None}), None]
    out: list[StatusSpan] = []
    for begins, ends in pairwise(moments):
        assert begins is not None
        known = [h.witness for h in held if h.begins <= begins and (h.ends is None or h.ends > begins)]
        decided = decide(thing, known)
        if decided is None:
            continue
        last = out[-1] if out else None
        if last is not None and last.ends == begins and _same(last.decided, decided):
            out[-1] = StatusSpan(last.begins, ends, decided)
        else:
            out.append(StatusSpan(begins, ends, decided))
    return out


def _same(one: Decided, other: Decided) -> bool:
    return (
        one.status == other.status
        and one.verdict.needs == other.verdict.needs
        and one.verdict.sure == other.verdict.sure
    )
