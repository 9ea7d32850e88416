"""Bills of materials and VEX in CycloneDX 1.4 to 1.6 (ECMA-424), checked by the schemas its library ships."""

import json
from functools import cache
from importlib import resources
from typing import Any, Literal

import jsonschema_rs
from pydantic import Field

from tarn.core.exposure.cpe import OutsideNameError, read_cpe
from tarn.core.exposure.formats.common import Format, Id, Moment, Shape, pointer, scored, shaped
from tarn.core.exposure.outside import Subject, cpe_subject, product_subject, purl_subject, read_purl
from tarn.core.exposure.ranges import Range, read_vers
from tarn.core.exposure.told import Component, Document, FeedError, Remedy, Score, Statement, Status, Telling
from tarn.core.versions import VersionError

_VERSIONS = ("1.4", "1.5", "1.6")
_BESIDE = ("spdx.SNAPSHOT.schema.json", "jsf-0.82.SNAPSHOT.schema.json")


@cache
def _schema(version: str) -> jsonschema_rs.Draft7Validator:
    folder = resources.files("cyclonedx.schema") / "_res"

    def read_one(name: str) -> Any:
        return json.loads((folder / name).read_text())

    beside = {name: read_one(name) for name in _BESIDE}
    main = read_one(f"bom-{version}.SNAPSHOT.schema.json")
    base = main["$id"].rsplit("/", 1)[0]
    registry = jsonschema_rs.Registry([(f"{base}/{name}", content) for name, content in beside.items()])
    return jsonschema_rs.Draft7Validator(main, registry=registry)


class _Organisation(Shape):
    name: str = ""


class _Component(Shape):
    ref: str = Field(default="", alias="bom-ref")
    name: str = ""
    group: str = ""
    version: str = ""
    purl: str = ""
    cpe: str = ""
    publisher: str = ""
    supplier: _Organisation = Field(default_factory=_Organisation)
    components: tuple["_Component", ...] = ()


class _Metadata(Shape):
    at: Moment | None = Field(default=None, alias="timestamp")
    component: _Component | None = None
    supplier: _Organisation = Field(default_factory=_Organisation)
    maker: _Organisation = Field(default_factory=_Organisation, alias="manufacture")
    made_by: _Organisation = Field(default_factory=_Organisation, alias="manufacturer")


class _Rating(Shape):
    vector: str = ""
    source: _Organisation = Field(default_factory=_Organisation)


class _Analysis(Shape):
    state: str = ""
    justification: str = ""
    detail: str = ""
    response: tuple[str, ...] = ()


class _Version(Shape):
    version: str = ""
    range: str = ""
    status: Literal["affected", "unaffected", "unknown"] = "affected"


class _Affects(Shape):
    ref: str
    versions: tuple[_Version, ...] = ()


class _Reference(Shape):
    id: Id


class _Vulnerability(Shape):
    id: Id
    references: tuple[_Reference, ...] = ()
    ratings: tuple[_Rating, ...] = ()
    cwes: tuple[int, ...] = ()
    description: str = ""
    detail: str = ""
    recommendation: str = ""
    workaround: str = ""
    published: Moment | None = None
    rejected: Moment | None = None
    analysis: _Analysis = Field(default_factory=_Analysis)
    affects: tuple[_Affects, ...] = ()


class _Bom(Shape):
    version: Literal["1.4", "1.5", "1.6"] = Field(alias="specVersion")
    serial: str = Field(default="", alias="serialNumber")
    number: int = Field(default=1, alias="version")
    metadata: _Metadata = Field(default_factory=_Metadata)
    components: tuple[_Component, ...] = ()
    vulnerabilities: tuple[_Vulnerability, ...] = ()


_STATUS: dict[str, Status] = {
    "resolved": "fixed",
    "resolved_with_pedigree": "fixed",
    "exploitable": "affected",
    "in_triage": "under investigation",
    "false_positive": "not affected",
    "not_affected": "not affected",
}
_OF_VERSION: dict[str, Status] = {
    "affected": "affected",
    "unaffected": "not affected",
    "unknown": "under investigation",
}


def read(data: Any) -> Document:
    """Return a bill of materials, or VEX, as read. Raises FeedError."""
    told = str(data.get("specVersion"))
    if told not in _VERSIONS:
        raise FeedError(f"CycloneDX “{told[:20]}” is not read; {', '.join(_VERSIONS)} are", "/specVersion")
    for fault in _schema(told).iter_errors(data):
        raise FeedError(fault.message[:200], pointer(fault.instance_path))
    bom = shaped(_Bom, data)
    warnings: list[str] = []
    about = bom.metadata.component
    by_ref = {c.ref: c for c in _all(bom.components) if c.ref}
    if about and about.ref:
        by_ref[about.ref] = about
    components = []
    for number, part in enumerate(_all(bom.components)):
        try:
            components.append(Component(_subject(part), part.version, part.purl))
        except OutsideNameError as wrong:
            warnings.append(f"/components/{number}: {wrong}")
    tellings = tuple(_telling(v, n, by_ref, warnings) for n, v in enumerate(bom.vulnerabilities))
    head = bom.metadata
    by = head.supplier.name or head.made_by.name or head.maker.name or (about.supplier.name if about else "")
    name = bom.serial or (f"{about.group}/{about.name}@{about.version}" if about else "")
    if not name:
        raise FeedError("it has neither a serial number nor a component it is of: nobody could tell it again", "/")
    of = None
    if about is not None:
        try:
            of = _subject(about)
        except OutsideNameError as wrong:
            warnings.append(f"/metadata/component: {wrong}")
    return Document(
        "CycloneDX",
        name,
        by,
        "maker" if by else "components",
        head.at,
        tellings,
        of=of,
        of_version=about.version if about else "",
        components=tuple(components),
        warnings=tuple(warnings),
    )


def _all(components: tuple[_Component, ...]) -> list[_Component]:
    out: list[_Component] = []
    waiting = list(reversed(components))
    while waiting:
        one = waiting.pop()
        out.append(one)
        waiting += reversed(one.components)
    return out


def _subject(part: _Component) -> Subject:
    if part.purl:
        return purl_subject(read_purl(part.purl))
    if part.cpe.startswith("cpe:2.3:"):
        return cpe_subject(read_cpe(part.cpe))
    return product_subject(part.supplier.name or part.publisher or part.group, part.name)


def _telling(told: _Vulnerability, number: int, by_ref: dict[str, _Component], warnings: list[str]) -> Telling:
    place = f"/vulnerabilities/{number}"
    scores: list[Score] = []
    for at, rating in enumerate(told.ratings):
        score = scored(rating.vector, rating.source.name, f"{place}/ratings/{at}", warnings) if rating.vector else None
        scores += [score] if score else []
    statements: list[Statement] = []
    for at, affects in enumerate(told.affects):
        where = f"{place}/affects/{at}"
        try:
            statements += _stated(told.analysis, affects, by_ref, where)
        except (OutsideNameError, VersionError) as wrong:
            warnings.append(f"{where}: {wrong}")
    remedies = [Remedy("vendor_fix", told.recommendation)] if told.recommendation else []
    remedies += [Remedy("workaround", told.workaround)] if told.workaround else []
    return Telling(
        tuple(dict.fromkeys((told.id, *(r.id for r in told.references)))),
        text=told.description or told.analysis.detail,
        published=told.published,
        withdrawn=told.rejected,
        statements=tuple(statements),
        scores=tuple(scores),
        weaknesses=tuple(f"CWE-{n}" for n in told.cwes),
        remedies=tuple(remedies),
    )


def _stated(analysis: _Analysis, affects: _Affects, by_ref: dict[str, _Component], place: str) -> list[Statement]:
    """Return the statements on one affected component: the analysis' state, or that of each version named."""
    ref = affects.ref.rsplit("#", 1)[-1] if affects.ref.startswith("urn:cdx:") else affects.ref
    part = by_ref.get(ref)
    if part is not None:
        subject, version = _subject(part), part.version
    elif ref.startswith("pkg:"):
        purl = read_purl(ref)
        subject, version = purl_subject(purl), purl.version or ""
    else:
        raise OutsideNameError(f"“{affects.ref[:80]}” is no part of this document and no package URL; left aside")
    overall = _STATUS.get(analysis.state)
    if not affects.versions:
        status: Status = overall or "affected"
        return [Statement(subject, status, place, (version,) if version else (), justification=_why(analysis, status))]
    out = []
    for number, one in enumerate(affects.versions):
        status = overall or _OF_VERSION[one.status]
        ranges: tuple[Range, ...] = tuple(read_vers(one.range)[1]) if one.range else ()
        versions = (one.version,) if one.version else ()
        where = f"{place}/versions/{number}"
        out.append(Statement(subject, status, where, versions, ranges, justification=_why(analysis, status)))
    return out


def _why(analysis: _Analysis, status: Status) -> str:
    return analysis.justification if status == "not affected" else ""


FORMAT = Format("CycloneDX", lambda data: isinstance(data, dict) and data.get("bomFormat") == "CycloneDX", read)
