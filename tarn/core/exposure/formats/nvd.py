"""Vulnerabilities as the NVD's API 2.0 gives them (CVE API schema 2.0): configurations of CPE names with AND and OR."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, Literal

from pydantic import Field

from tarn.core.exposure.cpe import ANY, NA, OutsideNameError, read_cpe, unquoted
from tarn.core.exposure.formats.common import Format, Id, Link, Moment, Said, Shape, english, scored, shaped
from tarn.core.exposure.outside import cpe_subject
from tarn.core.exposure.ranges import Range, sound
from tarn.core.exposure.told import Document, FeedError, Need, Score, Statement, Telling
from tarn.core.versions import VersionError


class Match(Shape):
    """A CPE name with a range of versions; `vulnerable` false: it only has to be there."""

    vulnerable: bool
    criteria: str
    from_: str = Field(default="", alias="versionStartIncluding")
    after: str = Field(default="", alias="versionStartExcluding")
    up_to: str = Field(default="", alias="versionEndIncluding")
    below: str = Field(default="", alias="versionEndExcluding")


class Node(Shape):
    """Names of which one (OR) or all (AND) are meant."""

    operator: Literal["AND", "OR"] = "OR"
    negate: bool = False
    matches: tuple[Match, ...] = Field(default=(), alias="cpeMatch")


class Configuration(Shape):
    """Nodes of which one (OR) or all (AND) are meant."""

    operator: Literal["AND", "OR"] = "OR"
    negate: bool = False
    nodes: tuple[Node, ...] = ()


class _Metric(Shape):
    class Data(Shape):
        vector: str = Field(default="", alias="vectorString")

    source: str = ""
    data: Data = Field(alias="cvssData")


class _Metrics(Shape):
    v40: tuple[_Metric, ...] = Field(default=(), alias="cvssMetricV40")
    v31: tuple[_Metric, ...] = Field(default=(), alias="cvssMetricV31")
    v30: tuple[_Metric, ...] = Field(default=(), alias="cvssMetricV30")
    v2: tuple[_Metric, ...] = Field(default=(), alias="cvssMetricV2")


class _Weakness(Shape):
    description: tuple[Said, ...] = ()


class _Cve(Shape):
    id: Id
    state: str = Field(default="", alias="vulnStatus")
    published: Moment | None = None
    modified: Moment | None = Field(default=None, alias="lastModified")
    descriptions: tuple[Said, ...] = ()
    metrics: _Metrics = _Metrics()
    weaknesses: tuple[_Weakness, ...] = ()
    configurations: tuple[Configuration, ...] = ()
    links: tuple[Link, ...] = Field(default=(), alias="references")


class _Wrapped(Shape):
    cve: _Cve


def read(data: Any) -> Document:
    """Return one vulnerability of a page as read. Raises FeedError."""
    cve = shaped(_Wrapped, data).cve
    warnings: list[str] = []
    statements: list[Statement] = []
    for number, configuration in enumerate(cve.configurations):
        statements += applicable(configuration, f"/cve/configurations/{number}", warnings)
    scores: list[Score] = []
    for name in ("v40", "v31", "v30", "v2"):
        for metric in getattr(cve.metrics, name):
            score = scored(metric.data.vector, metric.source, f"/cve/metrics/{name}", warnings)
            scores += [score] if score else []
    weaknesses = (d.value for w in cve.weaknesses for d in w.description if d.value.startswith("CWE-"))
    telling = Telling(
        (cve.id,),
        text=english(cve.descriptions),
        published=cve.published,
        withdrawn=(cve.modified or cve.published or 0) if cve.state.lower() == "rejected" else None,
        statements=tuple(statements),
        scores=tuple(scores),
        weaknesses=tuple(dict.fromkeys(weaknesses)),
        links=tuple(link.url for link in cve.links if link.url),
    )
    return Document("NVD record", cve.id, "NVD", dated=cve.modified, tellings=(telling,), warnings=tuple(warnings))


def applicable(configuration: Configuration, place: str, warnings: list[str]) -> Iterator[Statement]:
    """Yield a statement a vulnerable name, with what else must be on the device. Raises FeedError."""
    if configuration.negate:
        warnings.append(f"{place}: a configuration that is negated as a whole is left aside")
        return
    groups: list[tuple[list[tuple[Match, Statement]], bool]] = []
    for number, node in enumerate(configuration.nodes):
        at = f"{place}/nodes/{number}/cpeMatch"
        made = [(m, s) for n, m in enumerate(node.matches) if (s := _stated(m, f"{at}/{n}", warnings)) is not None]
        if node.operator == "AND":
            groups += [([one], node.negate) for one in made]
        else:
            groups.append((made, node.negate))
    together = configuration.operator == "AND" or any(n.operator == "AND" for n in configuration.nodes)
    for place_of, (group, negated) in enumerate(groups):
        if negated:
            continue
        others = [g for n, g in enumerate(groups) if n != place_of] if together else []
        needs = tuple(Need(tuple(s for _, s in matches), not_there) for matches, not_there in others)
        for match, statement in group:
            if match.vulnerable:
                yield replace(statement, otherwise="not affected", needs=needs)


def _stated(match: Match, place: str, warnings: list[str]) -> Statement | None:
    try:
        name = read_cpe(match.criteria)
        subject = cpe_subject(name)
    except OutsideNameError as wrong:
        warnings.append(f"{place}: {wrong}")
        return None
    low, high = match.from_ or match.after, match.up_to or match.below
    if (match.from_ and match.after) or (match.up_to and match.below):
        raise FeedError("one end of the range is told both including and excluding", place)
    ranges: tuple[Range, ...] = ()
    versions: tuple[str, ...] = ()
    if low or high:
        ranges = (Range(low, high, bool(match.from_) or not low, bool(match.up_to), fixed=bool(match.below)),)
        try:
            sound(ranges, "plain")
        except VersionError as wrong:
            raise FeedError(str(wrong), place) from None
    elif name.version not in (ANY, NA):
        versions = (unquoted(name.version),)
    fixed = (match.below,) if match.below else ()
    status: Literal["affected", "under investigation"] = "under investigation" if name.version == NA else "affected"
    return Statement(subject, status, place, versions, ranges, fixed_in=fixed)


FORMAT = Format(
    "NVD record",
    lambda data: isinstance(data, dict) and isinstance(data.get("cve"), dict) and "dataType" not in data,
    read,
    listed="vulnerabilities",
)
