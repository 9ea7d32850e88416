"""Chances of use: the Exploit Prediction Scoring System's daily CSV file (FIRST)."""

import csv
import io
import re

from tarn.core.exposure.formats.common import moment
from tarn.core.exposure.told import Chance, Document, FeedError

NAME = "EPSS"
_HEADER = ["cve", "epss", "percentile"]
_DAY = re.compile(r"score_date:([0-9T:+\-Z]+)")
_ZONE = re.compile(r"([+-]\d\d)(\d\d)$")


def fits(beginning: str) -> bool:
    """Whether a text begins as such a file does."""
    return beginning.startswith("#model_version:") or beginning.lower().startswith("cve,epss,percentile")


def read(text: str) -> Document:
    """Return the chances of a day. A line that is none is named among the warnings. Raises FeedError."""
    lines = io.StringIO(text)
    first = lines.readline().strip()
    dated = None
    if first.startswith("#"):
        if match := _DAY.search(first):
            try:
                dated = moment(_ZONE.sub(r"\1:\2", match[1]))
            except ValueError as wrong:
                raise FeedError(str(wrong), "line 1") from None
        first = lines.readline().strip()
    if first.lower().split(",") != _HEADER:
        raise FeedError("the columns are cve, epss and percentile", "line 2" if dated else "line 1")
    chances: list[Chance] = []
    warnings: list[str] = []
    begins = 3 if dated else 2
    for number, row in enumerate(csv.reader(lines), start=begins):
        if not row:
            continue
        try:
            id_, chance, percentile = row[0].strip(), float(row[1]), float(row[2])
            if len(row) != 3 or not id_ or not (0 <= chance <= 1 and 0 <= percentile <= 1):
                raise ValueError
        except (ValueError, IndexError):
            warnings.append(f"line {number}: “{','.join(row)[:80]}” is no identifier with two shares of 0 to 1")
            continue
        chances.append(Chance(id_, chance, percentile))
    return Document(NAME, NAME, "FIRST", dated=dated, chances=tuple(chances), warnings=tuple(warnings))
