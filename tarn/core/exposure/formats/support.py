"""Ends of support, as CSV or JSON: `product`, `maker` (or `purl`, or `cpe`), `versions`, `ends`, `link`."""

import csv
import io
from typing import Any

from pydantic import Field

from tarn.core.exposure.cpe import OutsideNameError, read_cpe
from tarn.core.exposure.formats.common import Format, Moment, Shape, shaped
from tarn.core.exposure.outside import Subject, cpe_subject, product_subject, purl_subject, read_purl
from tarn.core.exposure.ranges import Range, read_vers
from tarn.core.exposure.told import Document, FeedError, SupportEnd
from tarn.core.versions import VersionError

NAME = "support ends"
COLUMNS = ("product", "maker", "purl", "cpe", "versions", "ends", "link")


class _End(Shape):
    product: str = ""
    maker: str = ""
    purl: str = ""
    cpe: str = ""
    versions: str = ""
    ends: Moment
    link: str = ""


class _Ends(Shape):
    title: str = NAME
    dated: Moment | None = None
    ends: tuple[_End, ...] = Field(alias="support_ends")


def read(data: Any) -> Document:
    """Return a JSON list as read. Raises FeedError."""
    listed = shaped(_Ends, data)
    ends = tuple(_end(one, f"/support_ends/{n}") for n, one in enumerate(listed.ends))
    return Document(NAME, listed.title, listed.title, dated=listed.dated, ends=ends)


def fits(beginning: str) -> bool:
    """Whether a text begins with the header of such a CSV file."""
    columns = {c.strip() for c in beginning.partition("\n")[0].lower().split(",")}
    return {"versions", "ends"} <= columns


def read_csv(text: str) -> Document:
    """Return a CSV file as read; a row that is none is named among the warnings. Raises FeedError."""
    reader = csv.DictReader(io.StringIO(text))
    columns = [c.strip().lower() for c in reader.fieldnames or ()]
    if unknown := [c for c in columns if c not in COLUMNS]:
        raise FeedError(f"“{unknown[0]}” is no column; there are: {', '.join(COLUMNS)}", "line 1")
    reader.fieldnames = columns
    ends, warnings = [], []
    for number, row in enumerate(reader, start=2):
        try:
            ends.append(_end(shaped(_End, {k: v or "" for k, v in row.items() if k}), f"line {number}"))
        except FeedError as wrong:
            warnings.append(
                wrong.rule if wrong.place.startswith("line") else f"line {number}{wrong.place}: {wrong.rule}"
            )
    return Document(NAME, NAME, "", ends=tuple(ends), warnings=tuple(warnings))


def _end(one: _End, place: str) -> SupportEnd:
    try:
        return SupportEnd(_subject(one), _versions(one.versions.strip()), one.ends, one.link)
    except (OutsideNameError, VersionError) as wrong:
        raise FeedError(str(wrong), place) from None


def _subject(one: _End) -> Subject:
    if one.purl:
        return purl_subject(read_purl(one.purl))
    if one.cpe:
        return cpe_subject(read_cpe(one.cpe))
    return product_subject(one.maker, one.product)


def _versions(text: str) -> tuple[Range, ...]:
    """Return ranges: empty for all, a `vers:` text, or the beginning of versions: `12` is 12 and 12.4, not 13."""
    if not text:
        return ()
    if text.startswith("vers:"):
        return tuple(read_vers(text)[1])
    head, dot, last = text.rpartition(".")
    if not last.isdecimal():
        return (Range(text, text, high_in=True),)
    return (Range(text, f"{head}{dot}{int(last) + 1}"),)


FORMAT = Format(NAME, lambda data: isinstance(data, dict) and "support_ends" in data, read)
