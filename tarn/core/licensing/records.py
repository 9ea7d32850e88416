"""Records of use: who used a product from when to when, and the most at once."""

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

COLUMNS = ("product", "person", "device", "begins", "ends")


class RecordError(ValueError):
    """A file of records that cannot be read; the message names the line."""


@dataclass(frozen=True, slots=True)
class Record:
    """A product was used by a person on a device; moments in seconds since 1970."""

    product: str
    person: str
    device: str
    begins: int
    ends: int


def read_records(text: str, zone: ZoneInfo) -> list[Record]:
    """Read a file of records: comma, semicolon or tab separated, with the columns product, begins, ends, and person and
    device if known. Times are ISO 8601; without an offset they are of `zone`. Raises RecordError naming the line.
    """
    plain = text.lstrip("\ufeff")
    if not plain.strip():
        raise RecordError("the file is empty")
    head = plain.splitlines()[0]
    mark = max(",;\t", key=head.count)
    reader = csv.DictReader(io.StringIO(plain), delimiter=mark)
    names = {name.strip().casefold(): name for name in reader.fieldnames or ()}
    if missing := [n for n in ("product", "begins", "ends") if n not in names]:
        raise RecordError(f"line 1: no column “{missing[0]}”; the file needs product, begins, ends")
    out = []
    for row in reader:
        told = {n: (row.get(names[n]) or "").strip() if n in names else "" for n in COLUMNS}
        where = f"line {reader.line_num}: "
        if not told["product"]:
            raise RecordError(f"{where}no product")
        begins, ends = (_moment(told[n], zone, f"{where}{n}") for n in ("begins", "ends"))
        if ends < begins:
            raise RecordError(f"{where}it ends before it begins")
        out.append(Record(told["product"], told["person"], told["device"], begins, ends))
    return out


def _moment(text: str, zone: ZoneInfo, where: str) -> int:
    try:
        read = datetime.fromisoformat(text)
    except ValueError:
        raise RecordError(f"{where}: “{text}” is no time; write it like 2026-03-01T08:30") from None
    return int((read if read.tzinfo else read.replace(tzinfo=zone)).timestamp())


def peak(spans: Iterable[tuple[int, int]]) -> int:
    """Return the most spans that held at one moment; one that ends as another begins makes room for it."""
    now = most = 0
    for _, change in sorted(edge for begins, ends in spans for edge in ((begins, 1), (ends, -1))):
        now += change
        most = max(most, now)
    return most
