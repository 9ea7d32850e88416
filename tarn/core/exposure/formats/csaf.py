"""Advisories in the Common Security Advisory Framework 2.0 (OASIS), its VEX profile among them."""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, Literal

from pydantic import Field

from tarn.core.exposure.cpe import ANY, NA, OutsideNameError, read_cpe, unquoted
from tarn.core.exposure.formats.common import Format, Id, Moment, Shape, scored, shaped
from tarn.core.exposure.outside import Subject, cpe_subject, distribution, product_subject, purl_subject, read_purl
from tarn.core.exposure.ranges import Range, read_vers
from tarn.core.exposure.told import Document, FeedError, Remedy, Score, Statement, Status, Telling
from tarn.core.text import fold
from tarn.core.versions import VersionError


class _Helper(Shape):
    cpe: str = ""
    purl: str = ""


class _Product(Shape):
    name: str
    id: str = Field(alias="product_id")
    helper: _Helper | None = Field(default=None, alias="product_identification_helper")


class _Branch(Shape):
    category: str
    name: str
    branches: tuple["_Branch", ...] = ()
    product: _Product | None = None


class _Group(Shape):
    id: str = Field(alias="group_id")
    products: tuple[str, ...] = Field(alias="product_ids")


class _Relationship(Shape):
    category: str
    product: _Product = Field(alias="full_product_name")
    component: str = Field(alias="product_reference")
    within: str = Field(alias="relates_to_product_reference")


class _Tree(Shape):
    branches: tuple[_Branch, ...] = ()
    names: tuple[_Product, ...] = Field(default=(), alias="full_product_names")
    groups: tuple[_Group, ...] = Field(default=(), alias="product_groups")
    relationships: tuple[_Relationship, ...] = ()


class _Status(Shape):
    first_affected: tuple[str, ...] = ()
    first_fixed: tuple[str, ...] = ()
    fixed: tuple[str, ...] = ()
    known_affected: tuple[str, ...] = ()
    known_not_affected: tuple[str, ...] = ()
    last_affected: tuple[str, ...] = ()
    recommended: tuple[str, ...] = ()
    under_investigation: tuple[str, ...] = ()


class _Named(Shape):
    products: tuple[str, ...] = Field(default=(), alias="product_ids")
    groups: tuple[str, ...] = Field(default=(), alias="group_ids")


class _Flag(_Named):
    label: str


class _Remediation(_Named):
    class Restart(Shape):
        category: str = ""

    category: str
    details: str = ""
    url: str = ""
    restart: Restart | None = Field(default=None, alias="restart_required")


class _Threat(_Named):
    category: str
    details: str = ""


class _Scores(Shape):
    class Vector(Shape):
        vector: str = Field(default="", alias="vectorString")

    v3: Vector | None = Field(default=None, alias="cvss_v3")
    v2: Vector | None = Field(default=None, alias="cvss_v2")


class _Note(Shape):
    category: str
    text: str


class _Other(Shape):
    text: Id


class _Weakness(Shape):
    id: str = ""


class _Reference(Shape):
    url: str = ""


class _Vulnerability(Shape):
    cve: Id | None = None
    ids: tuple[_Other, ...] = ()
    title: str = ""
    notes: tuple[_Note, ...] = ()
    status: _Status = Field(default_factory=_Status, alias="product_status")
    flags: tuple[_Flag, ...] = ()
    remediations: tuple[_Remediation, ...] = ()
    threats: tuple[_Threat, ...] = ()
    scores: tuple[_Scores, ...] = ()
    weakness: _Weakness | None = Field(default=None, alias="cwe")
    references: tuple[_Reference, ...] = ()
    released: Moment | None = Field(default=None, alias="release_date")


class _Publisher(Shape):
    category: str
    name: str


class _Tracking(Shape):
    id: Id
    first: Moment = Field(alias="initial_release_date")
    current: Moment = Field(alias="current_release_date")
    status: Literal["draft", "interim", "final"]


class _Document(Shape):
    category: str
    version: Literal["2.0"] = Field(alias="csaf_version")
    publisher: _Publisher
    title: str
    tracking: _Tracking


class _Advisory(Shape):
    document: _Document
    tree: _Tree = Field(default_factory=_Tree, alias="product_tree")
    vulnerabilities: tuple[_Vulnerability, ...] = ()


def read(data: Any) -> Document:
    """Return an advisory as read: a telling a vulnerability. Raises FeedError."""
    advisory = shaped(_Advisory, data)
    head, warnings = advisory.document, list[str]()
    products = _Products(advisory.tree, warnings)
    tellings = []
    for number, vulnerability in enumerate(advisory.vulnerabilities):
        ids = ([vulnerability.cve] if vulnerability.cve else []) + [o.text for o in vulnerability.ids]
        about: tuple[str, ...] = ()
        if len(advisory.vulnerabilities) == 1:
            ids.append(head.tracking.id)  # a notice of one vulnerability is another name of it
        elif not ids:
            ids = [f"{head.tracking.id}#{number + 1}"]
        tellings.append(_telling(tuple(dict.fromkeys(ids)), about, vulnerability, number, head, products, warnings))
    return Document(
        "CSAF",
        head.tracking.id,
        head.publisher.name,
        "maker" if head.publisher.category == "vendor" else "general",
        head.tracking.current,
        tuple(tellings),
        warnings=tuple(warnings),
    )


def _telling(
    ids: tuple[str, ...],
    about: tuple[str, ...],
    told: _Vulnerability,
    number: int,
    head: _Document,
    products: "_Products",
    warnings: list[str],
) -> Telling:
    place = f"/vulnerabilities/{number}"
    scores: list[Score] = []
    for at, one in enumerate(told.scores):
        for vector in (one.v3, one.v2):
            score = scored(vector.vector, head.publisher.name, f"{place}/scores/{at}", warnings) if vector else None
            scores += [score] if score else []
    remedies = [
        Remedy(r.category, r.details, r.url, r.restart.category if r.restart else "") for r in told.remediations
    ]
    notes = [n.text for n in told.notes if n.category in ("description", "summary", "details")]
    return Telling(
        ids,
        about,
        told.title or head.title,
        "\n".join(notes[:1]),
        told.released or head.tracking.first,
        None,
        tuple(_statements(told, place, products)),
        tuple(scores),
        (told.weakness.id,) if told.weakness and told.weakness.id else (),
        tuple(remedies),
        tuple(r.url for r in told.references if r.url),
        used=any(t.category == "exploit_status" and _in_use(t.details) for t in told.threats),
    )


def _in_use(details: str) -> bool:
    """Whether a threat's words say that it is used: “no known …” and the like do not."""
    said = fold(details)
    used = any(word in said for word in ("exploited", "in use", "active"))
    return used and not said.startswith(("no ", "not ", "none"))


_STATUS: tuple[tuple[str, Status], ...] = (
    ("known_affected", "affected"),
    ("first_affected", "affected"),
    ("last_affected", "affected"),
    ("fixed", "fixed"),
    ("first_fixed", "fixed"),
    ("known_not_affected", "not affected"),
    ("under_investigation", "under investigation"),
)


def _statements(told: _Vulnerability, place: str, products: "_Products") -> Iterator[Statement]:
    labels: dict[str, str] = {}
    for flag in told.flags:
        labels |= dict.fromkeys(products.named(flag.products, flag.groups), flag.label)
    fixes = [*told.status.first_fixed, *told.status.fixed]
    for name, status in _STATUS:
        for number, product in enumerate(getattr(told.status, name)):
            at = f"{place}/product_status/{name}/{number}"
            subject, version, ranges = products.of(product, at)
            if subject is None:
                continue
            # Of a distribution's package, whatever is newer than the one that carries the cure carries it too.
            onwards = name in ("first_affected", "first_fixed") or (
                name == "fixed" and subject.distribution is not None
            )
            if version and onwards:
                ranges, version = (Range(version),), ""
            elif version and name == "last_affected":
                ranges, version = (Range("", version, high_in=True),), ""
            cures = (products.of(f, at) for f in fixes) if status == "affected" else ()
            yield Statement(
                subject,
                status,
                at,
                (version,) if version else (),
                ranges,
                justification=labels.get(product, "") if status == "not affected" else "",
                fixed_in=tuple(dict.fromkeys(v for s, v, _ in cures if s is not None and v and s.key == subject.key)),
            )


_Told = tuple[Subject | None, str, tuple[Range, ...]]


class _Products:
    """The products of a tree by their id: what each is about, its version, or the range of its versions."""

    def __init__(self, tree: _Tree, warnings: list[str]) -> None:
        self.warnings = warnings
        self._told: dict[str, _Told] = {}
        self._groups = {g.id: g.products for g in tree.groups}
        self._systems: dict[str, tuple[str, str]] = {}
        for number, branch in enumerate(tree.branches):
            self._walk(branch, {}, f"/product_tree/branches/{number}")
        for number, product in enumerate(tree.names):
            self._put(product, {}, f"/product_tree/full_product_names/{number}")
        for number, one in enumerate(tree.relationships):
            self._join(one, f"/product_tree/relationships/{number}")

    def named(self, products: tuple[str, ...], groups: tuple[str, ...]) -> tuple[str, ...]:
        """Return products by themselves and by groups."""
        return (*products, *(p for g in groups for p in self._groups.get(g, ())))

    def of(self, product: str, place: str) -> _Told:
        """Return what a product id stands for. Raises FeedError where the tree has none such."""
        if product not in self._told:
            raise FeedError(f"the product tree has no product “{product[:80]}”", place)
        return self._told[product]

    def _walk(self, branch: _Branch, path: dict[str, str], place: str) -> None:
        below = {**path, branch.category: branch.name}
        if branch.product is not None:
            self._put(branch.product, below, place)
        for number, child in enumerate(branch.branches):
            self._walk(child, below, f"{place}/branches/{number}")

    def _put(self, product: _Product, path: dict[str, str], place: str) -> None:
        version, ranges = path.get("product_version", ""), tuple[Range, ...]()
        self._systems[product.id] = (path.get("product_name", product.name), version)
        try:
            subject, told = self._subject(product, path)
            version = told or version
            if text := path.get("product_version_range", ""):
                order, found, _ = read_vers(text)
                ranges, version = tuple(found), ""
                subject = replace(subject, order=order if order != "plain" else subject.order)
        except (OutsideNameError, VersionError) as wrong:
            self.warnings.append(f"{place}: {wrong}")
            self._told[product.id] = (None, "", ())
            return
        self._told[product.id] = (subject, version, ranges)

    def _subject(self, product: _Product, path: dict[str, str]) -> tuple[Subject, str]:
        helper = product.helper
        if helper and helper.purl:
            purl = read_purl(helper.purl)
            return purl_subject(purl), purl.version or ""
        if helper and helper.cpe.startswith("cpe:2.3:"):
            name = read_cpe(helper.cpe)
            return cpe_subject(name), "" if name.version in (ANY, NA) else unquoted(name.version)
        if "product_name" not in path:
            raise OutsideNameError(f"“{product.name[:80]}” is told by no maker and product, CPE or purl; left aside")
        return product_subject(path.get("vendor", ""), path["product_name"]), ""

    def _join(self, one: _Relationship, place: str) -> None:
        """A component as part of a product: of a package, the product is the distribution it is of."""
        subject, version, ranges = self._told.get(one.component, (None, "", ()))
        system, release = self._systems.get(one.within, ("", ""))
        if subject is not None and subject.key.startswith("package/") and system:
            subject = replace(subject, distribution=distribution(system, release))
        self._told[one.product.id] = (subject, version, ranges)
        if subject is None:
            self.warnings.append(f"{place}: {one.component} is told by no name we can look for; left aside")


FORMAT = Format(
    "CSAF",
    lambda data: isinstance(data, dict) and isinstance(data.get("document"), dict),
    read,
)
