"""CVE records: the CVE Record Format 5.x (dataType CVE_RECORD)."""

from collections.abc import Iterator
from typing import Any, Literal

from pydantic import Field

from tarn.core.exposure.cpe import OutsideNameError, read_cpe
from tarn.core.exposure.formats.common import Format, Id, Link, Moment, Said, Shape, english, scored, shaped
from tarn.core.exposure.formats.nvd import Configuration, applicable
from tarn.core.exposure.outside import Subject, product_subject, purl_subject, read_purl
from tarn.core.exposure.ranges import Range, sound
from tarn.core.exposure.told import Document, FeedError, Remedy, Score, Statement, Status, Telling, Word
from tarn.core.makers import maker
from tarn.core.naming import product_key
from tarn.core.versions import VersionError

_Status = Literal["affected", "unaffected", "unknown"]
_STATUS: dict[_Status, Status] = {
    "affected": "affected",
    "unaffected": "not affected",
    "unknown": "under investigation",
}
_ORDER = {"semver": "semver", "rpm": "rpm", "maven": "maven", "python": "pypi", "npm": "npm", "dpkg": "deb"}
"""Orders by `versionType`; `custom` and the like have that of what is here."""


class _Change(Shape):
    at: str
    status: _Status


class _Version(Shape):
    version: str
    status: _Status
    type: str = Field(default="", alias="versionType")
    below: str = Field(default="", alias="lessThan")
    up_to: str = Field(default="", alias="lessThanOrEqual")
    changes: tuple[_Change, ...] = ()


class _Affected(Shape):
    vendor: str = ""
    product: str = ""
    collection: str = Field(default="", alias="collectionURL")
    package: str = Field(default="", alias="packageName")
    purl: str = Field(default="", alias="packageURL")
    cpes: tuple[str, ...] = ()
    platforms: tuple[str, ...] = ()
    otherwise: _Status | None = Field(default=None, alias="defaultStatus")
    versions: tuple[_Version, ...] = ()


class _Problem(Shape):
    class One(Shape):
        cwe: str = Field(default="", alias="cweId")

    descriptions: tuple[One, ...] = ()


class _Vector(Shape):
    vector: str = Field(default="", alias="vectorString")


class _Metric(Shape):
    v4: _Vector | None = Field(default=None, alias="cvssV4_0")
    v31: _Vector | None = Field(default=None, alias="cvssV3_1")
    v30: _Vector | None = Field(default=None, alias="cvssV3_0")
    v2: _Vector | None = Field(default=None, alias="cvssV2_0")

    def vectors(self) -> list[str]:
        return [m.vector for m in (self.v4, self.v31, self.v30, self.v2) if m is not None]


class _Provider(Shape):
    name: str = Field(default="", alias="shortName")


class _Container(Shape):
    provider: _Provider = Field(default=_Provider(), alias="providerMetadata")
    title: str = ""
    descriptions: tuple[Said, ...] = ()
    affected: tuple[_Affected, ...] = ()
    applicable: tuple[Configuration, ...] = Field(default=(), alias="cpeApplicability")
    problems: tuple[_Problem, ...] = Field(default=(), alias="problemTypes")
    links: tuple[Link, ...] = Field(default=(), alias="references")
    metrics: tuple[_Metric, ...] = ()
    solutions: tuple[Said, ...] = ()
    workarounds: tuple[Said, ...] = ()
    reasons: tuple[Said, ...] = Field(default=(), alias="rejectedReasons")


class _Containers(Shape):
    cna: _Container
    adp: tuple[_Container, ...] = ()


class _About(Shape):
    id: Id = Field(alias="cveId")
    state: Literal["PUBLISHED", "REJECTED"]
    published: Moment | None = Field(default=None, alias="datePublished")
    updated: Moment | None = Field(default=None, alias="dateUpdated")
    rejected: Moment | None = Field(default=None, alias="dateRejected")


class _Record(Shape):
    version: str = Field(alias="dataVersion", pattern=r"^5\.\d+(\.\d+)?$")
    about: _About = Field(alias="cveMetadata")
    containers: _Containers


def read(data: Any) -> Document:
    """Return a record as read; of one that was rejected only that. Raises FeedError."""
    record = shaped(_Record, data)
    about, cna = record.about, record.containers.cna
    warnings: list[str] = []
    if about.state == "REJECTED":
        gone = about.rejected or about.updated or about.published
        text = english(cna.reasons) or "The record was rejected."
        telling = Telling((about.id,), text=text, published=about.published, withdrawn=gone or 0)
        return Document("CVE record", about.id, cna.provider.name, dated=about.updated, tellings=(telling,))
    statements: list[Statement] = []
    scores: list[Score] = []
    for place, container in (
        ("/containers/cna", cna),
        *((f"/containers/adp/{n}", c) for n, c in enumerate(record.containers.adp)),
    ):
        statements += _statements(container, place, warnings)
        for number, metric in enumerate(container.metrics):
            for vector in metric.vectors():
                score = scored(vector, container.provider.name, f"{place}/metrics/{number}", warnings)
                scores += [score] if score else []
    remedies = [Remedy("vendor_fix", s.value) for s in cna.solutions]
    remedies += [Remedy("workaround", s.value) for s in cna.workarounds]
    telling = Telling(
        (about.id,),
        title=cna.title.strip(),
        text=english(cna.descriptions),
        published=about.published,
        statements=tuple(statements),
        scores=tuple(scores),
        weaknesses=tuple(dict.fromkeys(d.cwe for p in cna.problems for d in p.descriptions if d.cwe)),
        remedies=tuple(remedies),
        links=tuple(link.url for link in cna.links if link.url),
    )
    return Document(
        "CVE record", about.id, cna.provider.name, _word(cna), about.updated, (telling,), warnings=tuple(warnings)
    )


def _word(cna: _Container) -> Word:
    """A record is its maker's word where the one who wrote it is named as the maker of all it affects."""
    by = product_key(maker(cna.provider.name))
    makers = {product_key(maker(a.vendor)) for a in cna.affected if a.vendor}
    return "maker" if by and makers == {by} else "general"


def _statements(container: _Container, at: str, warnings: list[str]) -> Iterator[Statement]:
    for number, affected in enumerate(container.affected):
        place = f"{at}/affected/{number}"
        try:
            subjects = list(_subjects(affected))
        except OutsideNameError as wrong:
            warnings.append(f"{place}: {wrong}")
            continue
        for subject in subjects:
            yield from _of(subject, affected, place, warnings)
    for number, configuration in enumerate(container.applicable):
        yield from applicable(configuration, f"{at}/cpeApplicability/{number}", warnings)


def _subjects(affected: _Affected) -> Iterator[Subject]:
    if affected.purl:
        yield purl_subject(read_purl(affected.purl))
        return
    if not affected.product and affected.package and affected.collection:
        raise OutsideNameError(
            f"the package {affected.package} of {affected.collection} is named by no product or purl"
        )
    yield product_subject(affected.vendor, affected.product)


def _of(subject: Subject, affected: _Affected, place: str, warnings: list[str]) -> Iterator[Statement]:
    """Yield what is said of the versions of one product (“versions” and “defaultStatus” of the format)."""
    for text in affected.cpes:
        try:
            read_cpe(text)
        except OutsideNameError as wrong:
            warnings.append(f"{place}/cpes: {wrong}")
    default = affected.otherwise
    if not affected.versions:
        yield Statement(subject, _STATUS[default or "unknown"], place, platforms=affected.platforms)
        return
    by_status: dict[_Status, tuple[list[str], list[Range], str]] = {}
    for number, version in enumerate(affected.versions):
        where = f"{place}/versions/{number}"
        if version.type == "git":
            warnings.append(f"{where}: commits have no order; left aside")
            continue
        for status, one in _spelt(version, where):
            singles, ranges, _ = by_status.setdefault(status, ([], [], ""))
            if isinstance(one, str):
                singles.append(one)
            else:
                ranges.append(one)
            by_status[status] = (singles, ranges, _ORDER.get(version.type.lower(), ""))
    for status, (singles, ranges, order) in by_status.items():
        try:
            sound(ranges, order)
        except VersionError as wrong:
            raise FeedError(str(wrong), f"{place}/versions") from None
        yield Statement(
            Subject(subject.key, subject.name, subject.distribution, subject.cpe, order or subject.order, subject.type),
            _STATUS[status],
            place,
            tuple(singles),
            tuple(ranges),
            otherwise=_STATUS[default or "unknown"] if status == "affected" else "",
            fixed_in=tuple(dict.fromkeys(r.high for r in ranges if r.fixed)) if status == "affected" else (),
            platforms=affected.platforms,
        )


def _spelt(version: _Version, place: str) -> Iterator[tuple[_Status, str | Range]]:
    """Yield a version entry as single versions and ranges, each with its status; `changes` part a range."""
    if not version.below and not version.up_to:
        if version.changes:
            raise FeedError("changes are told of a single version; a range has lessThan or lessThanOrEqual", place)
        yield version.status, ("" if version.version == "*" else version.version) or Range()
        return
    if version.below and version.up_to:
        raise FeedError("lessThan and lessThanOrEqual are both told", place)
    low = "" if version.version in ("0", "*", "unspecified") else version.version
    status = version.status
    for change in version.changes:
        yield status, Range(low, change.at, fixed=change.status == "unaffected")
        low, status = change.at, change.status
    end = version.below or version.up_to
    if end == "*" or end.endswith(".*"):
        bound = "" if end == "*" else end.removesuffix(".*")
        yield status, Range(low) if not bound else Range(low, _next(bound), fixed=False)
        return
    yield status, Range(low, end, high_in=bool(version.up_to), fixed=bool(version.below))


def _next(prefix: str) -> str:
    head, dot, last = prefix.rpartition(".")
    return f"{head}{dot}{int(last) + 1}" if last.isdecimal() else prefix


FORMAT = Format("CVE record", lambda data: isinstance(data, dict) and data.get("dataType") == "CVE_RECORD", read)
