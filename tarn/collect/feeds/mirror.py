"""A mirror over HTTP: one file, a directory of advisories with its list of changes, or an API that gives pages.

Only what is new is fetched: by conditional requests (RFC 9110, 13), by the list of changes (CSAF 2.0, 7.1.13), by a
time since when. A file that is cut off is gone on with where it broke off (RFC 9110, 14).
"""

import csv
import io
import json
import tempfile
import time
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from typing import IO, Any, Literal
from urllib.parse import urljoin, urlsplit

import httpx

from tarn.collect.feeds.kind import FeedKind, Fetching, Opened
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.kind import Setting, SettingError

LARGEST = 8 << 30
"""Octets of one file."""
TRIES, PATIENCE, LONGEST_WAIT = 5, 30.0, 60
"""How often a file that was cut off is gone on with; seconds for an answer; seconds it waits where it is asked to."""
MOST_PAGES, MOST_FILES = 10_000, 500_000
_OVERLAP = timedelta(minutes=10)
"""By how much a time since when lies before the last reading, for clocks that differ."""


@dataclass(frozen=True, slots=True)
class MirrorSettings:
    """`base`: the address of the file, of the directory, or of the call that gives pages."""

    base: str
    size: int = 2000


Fetched = tuple[IO[bytes], httpx.Headers]


class _Mirror:
    """One mirror: only its own host is dialled, redirects are refused."""

    def __init__(self, base: str, route: Route) -> None:
        self._origin = urlsplit(base)
        self.base = base
        host = self._origin.hostname or ""
        port = self._origin.port or (443 if self._origin.scheme == "https" else 80)
        self._host = host
        self._there = f"{self._origin.scheme}://{self._origin.netloc}"
        if _is_address(host):
            there, number = route.dial(host, port)
            self._there = f"{self._origin.scheme}://{there}:{number}"
        self._client = httpx.Client(
            headers={"Host": self._origin.netloc, "Accept-Encoding": "identity"},
            timeout=PATIENCE,
            follow_redirects=False,
            trust_env=False,
        )

    def close(self) -> None:
        self._client.close()

    def fetch(self, url: str, headers: dict[str, str] | None = None, **params: Any) -> Fetched | None:
        """Return a file that was fetched whole, and what came with it; None where it is as it was. Raises Problem."""
        into = tempfile.TemporaryFile()  # noqa: SIM115 - whoever reads it closes it
        came = httpx.Headers()
        cut_off: httpx.HTTPError = httpx.ReadError("it asks to wait")
        for _ in range(TRIES):
            mark = came.get("etag") or came.get("last-modified", "")
            asked = dict(headers or {})
            if into.tell() and mark:
                asked = {"Range": f"bytes={into.tell()}-", "If-Range": mark}
            try:
                told = self._once(url, asked, params, into, came)
            except httpx.HTTPError as error:
                if not into.tell():
                    raise self._unreachable(error, url) from None
                cut_off = error
                continue
            if told == "same":
                into.close()
                return None
            if told == "whole":
                into.seek(0)
                return into, came
        raise Problem("cut-off", protocol=f"The mirror ({type(cut_off).__name__})", section=url)

    def _once(
        self, url: str, headers: dict[str, str], params: dict[str, Any], into: IO[bytes], came: httpx.Headers
    ) -> Literal["same", "wait", "whole"]:
        target = urlsplit(url)
        if target.netloc != self._origin.netloc:
            raise Problem("elsewhere", target=url)
        path = target.path + (f"?{target.query}" if target.query else "")
        with self._client.stream(
            "GET", self._there + path, headers=headers, params=params or None, extensions={"sni_hostname": self._host}
        ) as answer:
            if answer.status_code == 304:
                return "same"
            if answer.status_code in (429, 503) and (waits := answer.headers.get("retry-after", "")).isdigit():
                time.sleep(min(int(waits), LONGEST_WAIT))
                return "wait"
            if answer.is_redirect:
                raise Problem("elsewhere", target=answer.headers.get("location", "an unnamed place"))
            if answer.status_code not in (200, 206):
                raise Problem("failed", section="the mirror", detail=f"{url} gave status {answer.status_code}")
            if answer.status_code == 200:
                into.seek(0)
                into.truncate()
            came.update(answer.headers)
            for piece in answer.iter_raw():  # as it comes: what came before it was cut off is kept
                into.write(piece)
                if into.tell() > LARGEST:
                    raise Problem("failed", section=url, detail="it is larger than 8 GB")
        return "whole"

    def _unreachable(self, error: httpx.HTTPError, url: str) -> Problem:
        if isinstance(error, httpx.TimeoutException):
            return Problem("timed-out", protocol="The mirror", seconds=round(PATIENCE), section=url)
        return Problem("unreachable", detail=str(error)[:160] or type(error).__name__)


def _is_address(host: str) -> bool:
    try:
        ip_address(host)
    except ValueError:
        return False
    return True


def _conditional(marks: dict[str, str]) -> dict[str, str]:
    out = {}
    if etag := marks.get("etag"):
        out["If-None-Match"] = etag
    elif changed := marks.get("last-modified"):
        out["If-Modified-Since"] = changed
    return out


def read_one(settings: MirrorSettings, fetching: Fetching) -> Iterator[Opened]:
    """Yield the one file of a mirror, where it has changed. Raises Problem."""
    mirror = _Mirror(settings.base, fetching.route)
    try:
        yield from _file(mirror, settings.base, settings.base, fetching.state)
    finally:
        mirror.close()


def _file(mirror: _Mirror, url: str, name: str, state: dict[str, Any]) -> Iterator[Opened]:
    marks: dict[str, dict[str, str]] = state.setdefault("marks", {})
    found = mirror.fetch(url, _conditional(marks.get(name, {})))
    if found is None:
        return
    stream, headers = found
    with stream:
        yield name, stream
    marks[name] = {n: headers[n] for n in ("etag", "last-modified") if n in headers}


def read_directory(settings: MirrorSettings, fetching: Fetching) -> Iterator[Opened]:
    """Yield the files of a directory that its list of changes names as new (CSAF 2.0, 7.1.13). Raises Problem."""
    base = settings.base.rstrip("/") + "/"
    mirror, state = _Mirror(base, fetching.route), fetching.state
    try:
        found = mirror.fetch(urljoin(base, "changes.csv"))
        assert found is not None
        stream, _ = found
        with stream:
            changes = _changes(stream.read().decode("utf-8-sig", "replace"))
        read: dict[str, str] = state.setdefault("read", {})
        for path, changed in sorted(changes.items(), key=lambda c: c[1]):
            if read.get(path) == changed:
                continue
            url = urljoin(base, path)
            if not url.startswith(base):
                raise Problem("elsewhere", target=url)
            fetched = mirror.fetch(url)
            assert fetched is not None
            with fetched[0] as body:
                yield path, body
            read[path] = changed
    finally:
        mirror.close()


def _changes(text: str) -> dict[str, str]:
    """Return when each file was changed. Raises Problem where the text is no such list."""
    out: dict[str, str] = {}
    for number, row in enumerate(csv.reader(io.StringIO(text)), start=1):
        if not row:
            continue
        if len(row) != 2 or len(out) >= MOST_FILES:
            detail = f"line {number} of changes.csv is no path with a time: “{','.join(row)[:80]}”"
            raise Problem("nonsense", protocol="The mirror", detail=detail)
        out[row[0]] = row[1]
    return out


def read_pages(settings: MirrorSettings, fetching: Fetching) -> Iterator[Opened]:
    """Yield the pages of an API (NVD API 2.0: startIndex, resultsPerPage, lastModStartDate). Raises Problem."""
    mirror, state = _Mirror(settings.base, fetching.route), fetching.state
    began, start, params = datetime.now(UTC), int(state.get("start", 0)), dict[str, Any]()
    if since := state.get("since"):
        params = {"lastModStartDate": since, "lastModEndDate": state.setdefault("until", began.isoformat())}
    else:
        state.setdefault("until", began.isoformat())
    try:
        for _ in range(MOST_PAGES):
            found = mirror.fetch(settings.base, startIndex=start, resultsPerPage=settings.size, **params)
            assert found is not None
            with found[0] as stream:
                yield f"{settings.base}?startIndex={start}", stream
                stream.seek(0)
                came, total = _page(stream.read(), start)
            start = state["start"] = start + came
            if start >= total or not came:
                break
        else:
            raise Problem("looping-pages", protocol="The mirror", detail=f"{MOST_PAGES} pages")
        if start < total:
            raise Problem("cut-short", protocol="The mirror", detail=f"{start} of the {total} it says there are")
        # The next reading asks for what was changed since this one began.
        state["since"] = (datetime.fromisoformat(state.pop("until")) - _OVERLAP).isoformat()
        state.pop("start", None)
    finally:
        mirror.close()


def _page(body: bytes, start: int) -> tuple[int, int]:
    """Return how many a page holds and how many there are in all. Raises Problem."""
    try:
        told = json.loads(body)
        return len(told["vulnerabilities"]), int(told["totalResults"])
    except (ValueError, KeyError, TypeError):
        detail = f"the page from {start} on does not say how many it holds"
        raise Problem("nonsense", protocol="The mirror", detail=detail) from None


def _check(settings: MirrorSettings) -> None:
    told = urlsplit(settings.base)
    if told.scheme not in ("http", "https") or not told.hostname:
        raise SettingError("base", f"“{settings.base}” is no http or https address.")


_BASE = Setting("base", "Address", needed="Say where it is, such as https://mirror.example/advisories.")
KINDS = (
    FeedKind(
        "mirrored file", "one file over HTTP, fetched when it has changed", MirrorSettings, (_BASE,), read_one, _check
    ),
    FeedKind(
        "mirrored directory",
        "a directory over HTTP whose changes.csv says what is new (CSAF 2.0, 7.1)",
        MirrorSettings,
        (_BASE,),
        read_directory,
        _check,
    ),
    FeedKind(
        "paged mirror",
        "a call over HTTP that gives vulnerabilities by pages (NVD API 2.0)",
        MirrorSettings,
        (_BASE, Setting("size", "On a page", "number", usual=2000, least=1, most=10_000)),
        read_pages,
        _check,
    ),
)
