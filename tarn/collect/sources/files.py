"""Tables in files: CSV and its kin, XLSX, JSON, DHCP leases. Rows come one at a time; memory stays flat.

DHCP: dhcpd.leases(5) of ISC dhcpd, and the lease file of Kea (memfile, CSV).
"""

import contextlib
import csv
import io
import json
import re
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import IO, Any
from xml.etree.ElementTree import ParseError
from zipfile import BadZipFile, ZipFile

import openpyxl
from openpyxl.utils.exceptions import InvalidFileException

MOST_COLUMNS, MOST_OCTETS = 200, 256 << 20
_HEAD = 64 * 1024
_MOST_JSON = 64 << 20
_MOST_STRINGS, _MOST_PART = 96 << 20, 1 << 30
"""Octets a workbook's list of texts, which is held whole, and any other part of it may unpack to."""

Row = dict[str, Any]
BEYOND = "\x00beyond"
"""Under this a row holds the cells for which there is no heading."""
MOST_LINES = 40
"""Lines one cell may go over; more are a quote that was meant to be closed."""


class FileError(ValueError):
    """A file that cannot be read as a table; the message says where and why."""


@dataclass(frozen=True, slots=True)
class Shape:
    """How a file is read: csv, xlsx, json or leases; encoding and separator where it is text; its headings, and the row
    they stand in (counted from one; titles may stand above)."""

    format: str
    headings: tuple[str, ...]
    encoding: str = ""
    separator: str = ""
    heading: int = 1


def shape_of(path: Path, name: str, heading: int | None = None) -> Shape:
    """Find out how a file is to be read, from its content first and its name second.

    `heading`: the row its headings stand in; found out where it is not said. Raises FileError.
    """
    size = path.stat().st_size
    if size == 0:
        raise FileError(f"“{name}” is empty.")
    if size > MOST_OCTETS:
        raise FileError(f"“{name}” has {size >> 20} MB; {MOST_OCTETS >> 20} are the most that is read.")
    with path.open("rb") as file:
        head = file.read(_HEAD)
    if head[:4] == b"PK\x03\x04":
        top = list(islice(_sheet(path), LOOKED_AT))
        row = heading or heading_row(top)
        return Shape("xlsx", _headings(top, row, name), heading=row)
    encoding = _encoding(head, name)
    text = head.decode(encoding, "ignore").lstrip("\ufeff")
    if text.lstrip()[:1] in ("[", "{"):
        first = next(_json_rows(path, encoding), None)
        if first is None:
            raise FileError(f"“{name}” holds no rows.")
        return Shape("json", tuple(first)[:MOST_COLUMNS], encoding)
    if re.search(r"^lease \S+ \{", text, re.M):
        return Shape("leases", _LEASE, encoding)
    separator = _separator(text)
    top = []
    with contextlib.suppress(csv.Error):  # a quote that is never closed is told when the rows are read, with its line
        for cells in islice(csv.reader(io.StringIO(text), delimiter=separator), LOOKED_AT):
            top.append(list(cells))
    row = heading or heading_row(top)
    return Shape("csv", _headings(top, row, name), encoding, separator, row)


LOOKED_AT = 50
"""Rows looked at to find the headings."""


def heading_row(rows: list[list[Any]]) -> int:
    """Return which row holds the headings: the first that is nearly as wide as the widest and all words.

    Titles, the day of the export and empty rows above are narrower.
    """
    widths = [sum(1 for c in cells if c not in (None, "")) for cells in rows]
    widest = max(widths, default=0)
    for place, (cells, width) in enumerate(zip(rows, widths, strict=True), start=1):
        words = all(isinstance(c, str) and not _FIGURES.fullmatch(c.strip()) for c in cells if c not in (None, ""))
        if width >= max(1, 0.6 * widest) and words:
            return place
    return 1


_FIGURES = re.compile(r"[\d.,:/\- ]+")


def _encoding(head: bytes, name: str) -> str:
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        return "utf-16"
    if head[:3] == b"\xef\xbb\xbf":
        return "utf-8-sig"
    if b"\x00" in head:
        raise FileError(f"“{name}” is no text and no XLSX workbook.")
    try:
        head[: len(head) - 4 if len(head) == _HEAD else None].decode("utf-8")
    except UnicodeDecodeError:
        return "cp1252"  # every octet but five is a letter there: the usual one where it is not UTF-8
    return "utf-8"


def _separator(text: str) -> str:
    """Return the separator that parts most of the first lines into the same number of columns, the more the better.

    Titles above the headings have none; so the commonest number counts, not the first line's.
    """
    lines = [line for line in text.splitlines()[:20] if line.strip()]
    best, most = ",", 0
    for candidate in (",", ";", "\t", "|"):
        widths = [len(r) for r in csv.reader(lines, delimiter=candidate)]
        score = max(((width - 1) * widths.count(width) for width in set(widths)), default=0)
        if score > most:
            best, most = candidate, score
    return best


def _headings(rows: list[list[Any]], place: int, name: str) -> tuple[str, ...]:
    row = rows[place - 1] if 0 < place <= len(rows) else []
    said = [str(c).strip() if c is not None else "" for c in row]
    while said and not said[-1]:
        said.pop()
    if not said or not any(said):
        where = "its first row" if place == 1 else f"row {place}"
        raise FileError(f"“{name}” has no headings in {where}.")
    if len(said) > MOST_COLUMNS:
        raise FileError(f"“{name}” has {len(said)} columns; {MOST_COLUMNS} are the most that is read.")
    out: list[str] = []
    for place, heading in enumerate(said, start=1):
        heading = heading or f"column {place}"
        out.append(heading if heading not in out else f"{heading} ({place})")
    return tuple(out)


def rows(path: Path, shape: Shape) -> Iterator[tuple[int, Row]]:
    """Yield rows with their line or row numbers as a person counts them; empty rows are left out. Raises FileError."""
    if shape.format == "xlsx":
        source: Iterator[tuple[int, list[Any]]] = enumerate(_sheet(path), start=1)
    elif shape.format == "csv":
        source = _lines(path, shape)
    else:
        made = _leases(path, shape) if shape.format == "leases" else _json_rows(path, shape.encoding)
        yield from enumerate(made, start=1)
        return
    for number, cells in islice(source, shape.heading, None):
        if any(c not in (None, "") for c in cells):
            row: Row = dict(zip(shape.headings, cells, strict=False))
            if beyond := [str(c) for c in cells[len(shape.headings) :] if c not in (None, "")]:
                row[BEYOND] = beyond
            yield number, row


def _lines(path: Path, shape: Shape) -> Iterator[tuple[int, list[Any]]]:
    with path.open(encoding=shape.encoding, errors="replace", newline="") as file:
        reader = csv.reader(file, delimiter=shape.separator, strict=True)
        begins = 1
        try:
            for cells in reader:
                if reader.line_num - begins > MOST_LINES:
                    raise FileError(f"line {begins}: a quote opens there and is closed only in line {reader.line_num}")
                yield reader.line_num, cells
                begins = reader.line_num + 1
        except csv.Error as error:
            told = "a quote opens there and is never closed" if "unexpected end" in str(error) else str(error)
            raise FileError(f"line {begins}: {told}") from None


def _sheet(path: Path) -> Iterator[list[Any]]:
    with path.open("rb") as file:  # by content: an upload's name tells nothing
        try:
            _bounded(file)
            book = openpyxl.load_workbook(file, read_only=True, data_only=True)
        except FileError:
            raise
        except (BadZipFile, InvalidFileException, KeyError, ValueError, OSError) as error:
            raise FileError(f"The workbook cannot be opened: {type(error).__name__}.") from None
        row = 0
        try:
            if not book.worksheets:
                raise FileError("The workbook has no sheet with rows.")
            for row, cells in enumerate(book.worksheets[0].iter_rows(values_only=True), start=1):  # noqa: B007
                yield [c.isoformat() if hasattr(c, "isoformat") else c for c in cells]
        except FileError:
            raise
        except (ParseError, KeyError, IndexError, TypeError, ValueError, EOFError, zlib.error, BadZipFile) as error:
            raise FileError(f"The sheet is broken after row {row}: {type(error).__name__}.") from None
        finally:
            book.close()


def _bounded(file: IO[bytes]) -> None:
    """Refuse a workbook that unpacks to more than it may before anything of it is unpacked. Raises FileError."""
    with ZipFile(file) as archive:
        for part in archive.infolist():
            most = _MOST_STRINGS if part.filename.endswith("sharedStrings.xml") else _MOST_PART
            if part.file_size > most:
                raise FileError(
                    f"The workbook unpacks to too much: {part.filename} is {part.file_size >> 20} MB, {most >> 20} are "
                    "the most. Give it as CSV."
                )
    file.seek(0)


def _json_rows(path: Path, encoding: str) -> Iterator[Row]:
    if path.stat().st_size > _MOST_JSON:
        raise FileError(f"A JSON file is read whole: {_MOST_JSON >> 20} MB are the most. Give it as CSV.")
    try:
        document = json.loads(path.read_text(encoding))
    except ValueError as error:
        raise FileError(f"This is no JSON: {error}") from None
    if isinstance(document, dict):
        document = next((v for v in document.values() if isinstance(v, list)), [document])
    for item in document:
        if isinstance(item, dict):
            yield _flat(item)


def _flat(item: Row, above: str = "") -> Row:
    out: Row = {}
    for key, value in item.items():
        if isinstance(value, dict):
            out |= _flat(value, f"{above}{key}.")
        elif not isinstance(value, list):
            out[f"{above}{key}"] = value
    return out


_LEASE = ("ip address", "hardware address", "host name", "ends")
_LEASE_PARTS = {
    "hardware address": re.compile(r"hardware ethernet ([0-9a-f:]+);"),
    "host name": re.compile(r'client-hostname "([^"]*)";'),
    "ends": re.compile(r"ends \d (\S+ \S+);"),
}


def _leases(path: Path, shape: Shape) -> Iterator[Row]:
    """Yield leases of ISC dhcpd; of several for one address the last in the file counts, as the server has it."""
    held: dict[str, Row] = {}
    block: list[str] = []
    with path.open(encoding=shape.encoding, errors="replace") as file:
        for line in file:
            block.append(line)
            if line.strip() != "}":
                continue
            text = "".join(block)
            block = []
            if not (match := re.search(r"^lease (\S+) \{", text, re.M)):
                continue
            row: Row = {"ip address": match[1]}
            for name, pattern in _LEASE_PARTS.items():
                if part := pattern.search(text):
                    row[name] = part[1].replace("/", "-") if name == "ends" else part[1]
            held[match[1]] = row
    yield from held.values()
