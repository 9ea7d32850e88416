"""Files of documents taken apart: what is in them is read one by one, and what cannot be is named with its place.

JSON (one document, a list, a page of many, or documents one after the other), CSV, and all of it by gzip or in a zip.
"""

import codecs
import gzip
import io
import json
import re
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import IO, Any

from tarn.core.exposure.formats import csaf, cve, cyclonedx, epss, nvd, openvex, osv, support, used
from tarn.core.exposure.formats.common import Format
from tarn.core.exposure.told import Document, FeedError

FORMATS: tuple[Format, ...] = tuple(m.FORMAT for m in (cve, csaf, cyclonedx, openvex, used, support, nvd, osv))
"""The formats of JSON documents, in the order they are recognised in."""

_CHUNK = 1 << 20
LONGEST_DOCUMENT = 64 << 20
"""Octets one document may have."""
MOST_MEMBERS = 100_000
MOST_UNPACKED = 8 << 30
MOST_TIMES = 200
"""How many times its size a packed file may come to once it is past `_SMALL` octets: beyond that it is a trap."""
_SMALL = 16 << 20
_DECODER = json.JSONDecoder()
_PAGE = re.compile(r'"format"\s*:\s*"NVD_CVE"')
_LISTED = re.compile(r'"vulnerabilities"\s*:\s*\[')
_FIRST_KEY = re.compile(r'\{\s*("(?:[^"\\]|\\.)*")\s*:')
_HALVES = re.compile(r"\\u[dD][89a-fA-F]")
_BLANK = re.compile(r"[\s,]*")


@dataclass(frozen=True, slots=True)
class Part:
    """One document of a file: where it lies, its octets, and what was read of it, or why nothing was."""

    place: str
    body: bytes
    document: Document | None = None
    refused: FeedError | None = None


def read_json(data: Any) -> Document:
    """Return a parsed document as read. Raises FeedError, also where it is of no format we know."""
    for one in FORMATS:
        if one.fits(data):
            return one.read(data)
    names = ", ".join(dict.fromkeys(f.name for f in FORMATS))
    raise FeedError(f"it is of no format we read: {names}, EPSS")


def read_file(name: str, stream: IO[bytes]) -> Iterator[Part]:
    """Yield the documents of a file, unpacked where it is packed. What cannot be read is yielded as refused."""
    raw = _Raw(stream)
    buffered = io.BufferedReader(raw)
    begins = buffered.peek(4)[:4]
    if begins[:2] == b"\x1f\x8b":
        yield from _text_of(name, _Unpacked(gzip.GzipFile(fileobj=buffered), lambda: raw.taken))
    elif begins == b"PK\x03\x04":
        yield from _members(name, buffered, stream)
    else:
        yield from _text_of(name, buffered)


class _Raw(io.RawIOBase):
    """Any stream of octets as one that can be looked ahead in; `taken`: how many were read of it."""

    def __init__(self, stream: IO[bytes]) -> None:
        self._stream = stream
        self.taken = 0

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: Any) -> int:
        data = self._stream.read(len(buffer))
        buffer[: len(data)] = data
        self.taken += len(data)
        return len(data)


class _Unpacked:
    """A packed stream that ends in an error where it comes to more than a packed file honestly does.

    `packed`: how many octets were taken of what it is unpacked from.
    """

    def __init__(self, stream: IO[bytes] | gzip.GzipFile, packed: Callable[[], int]) -> None:
        self._stream, self._packed, self._out = stream, packed, 0

    def read(self, size: int) -> bytes:
        data = self._stream.read(size)
        self._out += len(data)
        if self._out > MOST_UNPACKED or (self._out > _SMALL and self._out > MOST_TIMES * self._packed()):
            raise FeedError(f"it unpacks to more than {MOST_TIMES} times its size; given up as a trap")
        return data


def _members(name: str, buffered: IO[bytes], stream: IO[bytes]) -> Iterator[Part]:
    if stream.seekable():
        stream.seek(0)
    file = stream if stream.seekable() else io.BytesIO(buffered.read(LONGEST_DOCUMENT * 8))
    try:
        archive = zipfile.ZipFile(file)
    except (zipfile.BadZipFile, OSError) as error:
        yield Part(name, b"", refused=FeedError(f"the zip file cannot be opened: {error}"))
        return
    members = [m for m in archive.infolist() if not m.is_dir()]
    if len(members) > MOST_MEMBERS:
        yield Part(name, b"", refused=FeedError(f"the zip file has more than {MOST_MEMBERS:,} files"))
        return
    for member in members:
        place = f"{name}!{member.filename}"
        try:
            with archive.open(member) as inside:
                yield from _text_of(place, _Unpacked(inside, partial(max, 1, member.compress_size)))
        except (zipfile.BadZipFile, zlib.error, NotImplementedError, RuntimeError, OSError) as error:
            yield Part(place, b"", refused=FeedError(f"it cannot be unpacked: {error}"))


def _text_of(name: str, stream: Any) -> Iterator[Part]:
    text = _Text(stream)
    try:
        beginning = text.beginning()
        if not beginning:
            yield Part(name, b"", refused=FeedError("it is empty"))
        elif beginning[0] == "<":
            yield Part(name, b"", refused=FeedError("it is a web page or XML, not a document of a feed"))
        elif beginning[0] in "{[":
            yield from _Documents(name, text).parts()
        else:
            yield _csv(name, text)
    except FeedError as wrong:
        yield Part(f"{name}:{text.line()}", b"", refused=wrong)
    except UnicodeDecodeError as wrong:
        yield Part(f"{name}:{text.line()}", b"", refused=FeedError(f"it is no UTF-8: {wrong.reason}"))
    except (EOFError, OSError, zlib.error) as error:
        yield Part(f"{name}:{text.line()}", b"", refused=FeedError(f"it ends in the middle: {error}"))


def _csv(name: str, text: "_Text") -> Part:
    whole = text.whole()
    body = whole.encode()
    try:
        if epss.fits(whole[:200]):
            return Part(name, body, epss.read(whole))
        if support.fits(whole[:2000]):
            return Part(name, body, support.read_csv(whole))
        raise FeedError("it is neither JSON nor a list of chances (EPSS) or of ends of support")
    except FeedError as wrong:
        return Part(f"{name} {wrong.place}".strip(), body, refused=wrong)


class _Text:
    """A stream as text, held a piece at a time: `held` from `at` on is what is still to be read."""

    def __init__(self, stream: Any) -> None:
        self._stream = stream
        self._decoder = codecs.getincrementaldecoder("utf-8-sig")()
        self._lines_before = 0
        self._counted_to = 0
        self.held, self.at, self.ended = "", 0, False

    def more(self) -> bool:
        """Read on; whether anything came. What lies behind `at` is dropped."""
        if self.ended:
            return False
        data = self._stream.read(_CHUNK)
        self.line()
        self._counted_to = 0
        self.held = self.held[self.at :] + self._decoder.decode(data, final=not data)
        self.at = 0
        self.ended = not data
        return bool(data)

    def beginning(self) -> str:
        """Return the beginning of what is to come without blanks, some thousands of letters of it."""
        while len(self.held) - self.at < _CHUNK // 2 and self.more():
            self.at += len(self.held) - len(self.held.lstrip())
        return self.held[self.at : self.at + 4000]

    def line(self, at: int | None = None) -> int:
        """Return on which line of the file something lies; lines behind where one reads are counted once."""
        self._lines_before += self.held.count("\n", self._counted_to, self.at)
        self._counted_to = max(self._counted_to, self.at)
        return 1 + self._lines_before + (0 if at is None else self.held.count("\n", self.at, at))

    def whole(self) -> str:
        """Return all that is to come. Raises FeedError where it is too long."""
        while self.more():
            if len(self.held) > LONGEST_DOCUMENT:
                raise FeedError(f"it is longer than {LONGEST_DOCUMENT >> 20} MB")
        return self.held[self.at :]


class _Documents:
    """The JSON documents of a text, one after the other."""

    def __init__(self, name: str, text: _Text) -> None:
        self.name, self.text, self.first_key = name, text, ""
        beginning = text.held[text.at : text.at + 65_536]
        listed = _LISTED.search(beginning) if _PAGE.search(beginning) else None
        if listed:
            text.at += listed.end()
        elif beginning[0] == "[":
            text.at += 1
        self.within = bool(listed) or beginning[0] == "["
        self._closed = False

    def parts(self) -> Iterator[Part]:
        text = self.text
        while self._to_next():
            line = text.line()
            try:
                data, end = self._decoded()
            except json.JSONDecodeError as wrong:
                broken = text.line(min(wrong.pos, len(text.held)))
                yield Part(f"{self.name}:{broken}", b"", refused=FeedError(_broken(wrong, text)))
                if _cut_off(wrong, text) or not self._next_like_it():
                    return
                continue
            body = text.held[text.at : end]
            if not self.first_key and (match := _FIRST_KEY.match(body)):
                self.first_key = match[1]
            text.at = end
            yield self._read(data, body, line)
        if self.within and not self._closed:
            at = f"{self.name}:{text.line()}"
            yield Part(at, b"", refused=FeedError("the list ends in the middle: nothing closes it"))

    def _to_next(self) -> bool:
        """Go to where the next document begins; whether there is one."""
        text = self.text
        while True:
            blank = _BLANK.match(text.held, text.at)
            assert blank is not None
            text.at = blank.end()
            if text.at < len(text.held):
                break
            if not text.more():
                return False
        if self.within and text.held[text.at] == "]":
            self._closed = True
            return False
        return True

    def _decoded(self) -> tuple[Any, int]:
        """Return the document at hand and where it ends; more is read where it goes on. Raises JSONDecodeError."""
        text = self.text
        while True:
            try:
                data, end = _DECODER.raw_decode(text.held, text.at)
                if end < len(text.held) or not text.more():
                    return data, end
            except json.JSONDecodeError as wrong:
                # An error well before the end of what is held is one however much is read.
                if wrong.pos < len(text.held) - 200_000 or len(text.held) - text.at > LONGEST_DOCUMENT:
                    raise
                if not text.more():
                    raise
            except RecursionError:
                raise json.JSONDecodeError("it is nested too deeply", text.held, text.at) from None

    def _next_like_it(self) -> bool:
        """Go on where the next document begins as the ones before did; whether one does."""
        text = self.text
        own = _FIRST_KEY.match(text.held, text.at)
        key = self.first_key or (own[1] if own else "")
        begin = re.compile(r"\{\s*" + re.escape(key) + r"\s*:") if key else _FIRST_KEY
        text.at += 1
        while True:
            if match := begin.search(text.held, text.at):
                text.at = match.start()
                return True
            text.at = max(text.at, len(text.held) - 200)
            if not text.more():
                return False

    def _read(self, data: Any, body: str, line: int) -> Part:
        place, octets = f"{self.name}:{line}", body.encode()
        try:
            if _HALVES.search(body) and not _whole_letters(data):
                raise FeedError("it holds half a letter: a surrogate without its other (RFC 8259, 8.2)")
            return Part(place, octets, read_json(data))
        except FeedError as wrong:
            return Part(place, octets, refused=wrong)


def _whole_letters(data: Any) -> bool:
    try:
        json.dumps(data, ensure_ascii=False).encode()
    except UnicodeEncodeError:
        return False
    return True


def _cut_off(wrong: json.JSONDecodeError, text: _Text) -> bool:
    return wrong.pos >= len(text.held.rstrip())


def _broken(wrong: json.JSONDecodeError, text: _Text) -> str:
    if _cut_off(wrong, text):
        return "it ends in the middle of a document"
    if wrong.msg.startswith("Unterminated"):
        return "a text in it is never closed, or it ends in the middle of a document"
    return f"it is no JSON: {wrong.msg.lower()}, near “{text.held[max(0, wrong.pos - 20) : wrong.pos + 20].strip()}”"
