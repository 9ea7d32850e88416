"""Advisories in the Open Source Vulnerability format (OSV schema 1.x)."""

from collections.abc import Iterator
from typing import Any, Literal

from pydantic import Field

from tarn.core.exposure.cpe import OutsideNameError
from tarn.core.exposure.formats.common import Format, Id, Link, Moment, Shape, scored, shaped
from tarn.core.exposure.outside import DISTRIBUTED, Subject, ecosystem_subject, purl_subject, read_purl
from tarn.core.exposure.ranges import Range, sound
from tarn.core.exposure.told import Document, FeedError, Score, Statement, Telling, Word
from tarn.core.versions import VersionError, version_key


class _Package(Shape):
    ecosystem: str
    name: str
    purl: str = ""


class _Event(Shape):
    introduced: str | None = None
    fixed: str | None = None
    last_affected: str | None = None
    limit: str | None = None

    def told(self) -> list[tuple[str, str]]:
        return [
            (n, v) for n in ("introduced", "fixed", "last_affected", "limit") if (v := getattr(self, n)) is not None
        ]


class _Range(Shape):
    type: Literal["SEMVER", "ECOSYSTEM", "GIT"]
    events: tuple[_Event, ...] = Field(min_length=1)


class _Severity(Shape):
    type: str
    score: str


class _Affected(Shape):
    package: _Package | None = None
    ranges: tuple[_Range, ...] = ()
    versions: tuple[str, ...] = ()
    severity: tuple[_Severity, ...] = ()


class _Record(Shape):
    schema_version: str = Field(default="1.0.0", pattern=r"^1\.\d+(\.\d+)?$")
    id: Id
    modified: Moment
    published: Moment | None = None
    withdrawn: Moment | None = None
    aliases: tuple[Id, ...] = ()
    upstream: tuple[Id, ...] = ()
    summary: str = ""
    details: str = ""
    severity: tuple[_Severity, ...] = ()
    affected: tuple[_Affected, ...] = ()
    references: tuple[Link, ...] = ()


def read(data: Any) -> Document:
    """Return an advisory as read. Raises FeedError."""
    record = shaped(_Record, data)
    warnings: list[str] = []
    statements: list[Statement] = []
    distributed = False
    for number, affected in enumerate(record.affected):
        place = f"/affected/{number}"
        if affected.package is None:
            warnings.append(f"{place}: it names no package; left aside")
            continue
        try:
            subject = _subject(affected.package)
        except OutsideNameError as wrong:
            warnings.append(f"{place}/package: {wrong}")
            continue
        distributed = distributed or subject.distribution is not None
        statement = _stated(subject, affected, place, warnings)
        statements += [statement] if statement else []
    scores: list[Score] = []
    severities = (*record.severity, *(s for a in record.affected for s in a.severity))
    for one in dict.fromkeys((s.type, s.score) for s in severities):
        if one[0].startswith("CVSS"):
            score = scored(one[1], "", "/severity", warnings)
            scores += [score] if score else []
    ids, about = _names(record)
    telling = Telling(
        ids,
        about,
        record.summary.strip(),
        record.details.strip(),
        record.published,
        record.withdrawn,
        tuple(statements),
        tuple(scores),
        links=tuple(r.url for r in record.references if r.url),
    )
    word: Word = "maker" if distributed else "general"
    return Document("OSV", record.id, "", word, record.modified, (telling,), warnings=tuple(warnings))


def _names(record: _Record) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return the names of one vulnerability, or those of several that a notice speaks of (`upstream`, or aliases of
    which more than one is a CVE)."""
    aliases = tuple(dict.fromkeys(a for a in record.aliases if a != record.id))
    own = {i for i in (record.id, *aliases) if i.startswith("CVE-")}
    if len(own) > 1:
        return (record.id,), tuple(dict.fromkeys((*sorted(own), *record.upstream)))
    if record.upstream and not own:
        if len(record.upstream) == 1:
            return (record.id, *aliases, *record.upstream), ()
        return (record.id,), tuple(dict.fromkeys((*aliases, *record.upstream)))
    return (record.id, *aliases), ()


def _subject(package: _Package) -> Subject:
    by_name = ecosystem_subject(package.ecosystem, package.name)
    if not package.purl:
        return by_name
    told = purl_subject(read_purl(package.purl))
    # The ecosystem tells the release of a distribution, which a purl seldom does.
    of = by_name.distribution if told.type in DISTRIBUTED else None
    return Subject(told.key, told.name, of, order=told.order, type=told.type)


def _stated(subject: Subject, affected: _Affected, place: str, warnings: list[str]) -> Statement | None:
    ranges: list[Range] = []
    order = subject.order
    for number, one in enumerate(affected.ranges):
        at = f"{place}/ranges/{number}"
        if one.type == "GIT":
            if not affected.versions and len(affected.ranges) == 1:
                warnings.append(f"{at}: commits have no order, and no versions are named; left aside")
            continue
        if one.type == "SEMVER" and subject.distribution is None and not order:
            order = "semver"
        try:
            ranges += _between(one, order, at)
            sound(ranges, order)
        except VersionError as wrong:
            raise FeedError(str(wrong), at) from None
    if not ranges and not affected.versions:
        return None if affected.ranges else Statement(subject, "affected", place)
    if order != subject.order:
        subject = Subject(subject.key, subject.name, subject.distribution, order=order, type=subject.type)
    return Statement(
        subject,
        "affected",
        place,
        affected.versions,
        tuple(ranges),
        otherwise="not affected",
        fixed_in=tuple(dict.fromkeys(r.high for r in ranges if r.fixed)),
    )


def _between(one: _Range, order: str, place: str) -> Iterator[Range]:
    """Yield the ranges a list of events makes (OSV schema, “Evaluation”). Events are put in order where it is known."""
    events: list[tuple[str, str]] = []
    for number, event in enumerate(one.events):
        told = event.told()
        if len(told) != 1:
            raise FeedError("an event tells one of introduced, fixed, last_affected, limit", f"{place}/events/{number}")
        events += told
    if not any(name == "introduced" for name, _ in events):
        raise FeedError("the range begins nowhere: no event says “introduced”", f"{place}/events")
    rank = {"introduced": 1, "last_affected": 2, "fixed": 0, "limit": 0}
    if order:
        events.sort(key=lambda e: ("" if e[1] == "0" else version_key(e[1], order), rank[e[0]]))
    begun: str | None = None
    for name, version in events:
        if name == "introduced":
            begun = version if begun is None else begun
        elif begun is not None and not (name == "limit" and version == "*"):
            low = "" if begun == "0" else begun
            yield Range(low, version, high_in=name == "last_affected", fixed=name == "fixed")
            begun = None
    if begun is not None:
        yield Range("" if begun == "0" else begun)


FORMAT = Format(
    "OSV",
    lambda data: isinstance(data, dict) and "id" in data and "modified" in data and "@context" not in data,
    read,
)
