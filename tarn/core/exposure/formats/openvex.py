"""Statements in OpenVEX (v0.0.1 and v0.2.0)."""

from collections.abc import Iterator
from typing import Any, Literal

from pydantic import Field, field_validator

from tarn.core.exposure.cpe import ANY, NA, OutsideNameError, read_cpe, unquoted
from tarn.core.exposure.formats.common import Format, Id, Moment, Shape, shaped
from tarn.core.exposure.outside import Subject, cpe_subject, purl_subject, read_purl
from tarn.core.exposure.told import Document, Remedy, Statement, Status, Telling


class _Vulnerability(Shape):
    name: Id
    aliases: tuple[Id, ...] = ()


class _Product(Shape):
    id: str = Field(default="", alias="@id")
    identifiers: dict[str, str] = Field(default_factory=dict)


class _Statement(Shape):
    vulnerability: _Vulnerability
    products: tuple[_Product, ...] = ()
    status: Literal["not_affected", "affected", "fixed", "under_investigation"]
    justification: str = ""
    impact: str = Field(default="", alias="impact_statement")
    action: str = Field(default="", alias="action_statement")
    at: Moment | None = Field(default=None, alias="timestamp")

    @field_validator("vulnerability", mode="before")
    @classmethod
    def _named(cls, value: Any) -> Any:
        return {"name": value} if isinstance(value, str) else value

    @field_validator("products", mode="before")
    @classmethod
    def _products(cls, value: Any) -> Any:
        return [{"@id": p} if isinstance(p, str) else p for p in value] if isinstance(value, list) else value


class _Document(Shape):
    context: str = Field(alias="@context", pattern=r"^https://openvex\.dev/ns")
    id: Id = Field(alias="@id")
    author: str
    at: Moment = Field(alias="timestamp")
    changed: Moment | None = Field(default=None, alias="last_updated")
    statements: tuple[_Statement, ...] = Field(min_length=1)


_STATUS: dict[str, Status] = {
    "affected": "affected",
    "fixed": "fixed",
    "not_affected": "not affected",
    "under_investigation": "under investigation",
}


def read(data: Any) -> Document:
    """Return a document as read: a telling a statement. Raises FeedError."""
    document = shaped(_Document, data)
    warnings: list[str] = []
    tellings = []
    for number, told in enumerate(document.statements):
        ids = (told.vulnerability.name, *told.vulnerability.aliases)
        action = (Remedy("mitigation", told.action),) if told.action else ()
        tellings.append(
            Telling(
                tuple(dict.fromkeys(ids)),
                text=told.impact,
                published=told.at or document.at,
                statements=tuple(_statements(told, f"/statements/{number}", warnings)),
                remedies=action,
            )
        )
    dated = document.changed or document.at
    return Document("OpenVEX", document.id, document.author, "maker", dated, tuple(tellings), warnings=tuple(warnings))


def _statements(told: _Statement, place: str, warnings: list[str]) -> Iterator[Statement]:
    for number, product in enumerate(told.products):
        at = f"{place}/products/{number}"
        try:
            subject, version = _subject(product)
        except OutsideNameError as wrong:
            warnings.append(f"{at}: {wrong}")
            continue
        versions = (version,) if version else ()
        yield Statement(subject, _STATUS[told.status], at, versions, justification=told.justification)


def _subject(product: _Product) -> tuple[Subject, str]:
    named = product.identifiers.get("purl") or (product.id if product.id.startswith("pkg:") else "")
    if named:
        purl = read_purl(named)
        return purl_subject(purl), purl.version or ""
    if cpe := product.identifiers.get("cpe23"):
        name = read_cpe(cpe)
        return cpe_subject(name), "" if name.version in (ANY, NA) else unquoted(name.version)
    raise OutsideNameError(f"“{product.id[:80]}” is told by no purl or CPE 2.3 name; left aside")


FORMAT = Format(
    "OpenVEX",
    lambda data: isinstance(data, dict) and str(data.get("@context", "")).startswith("https://openvex.dev/"),
    read,
)
