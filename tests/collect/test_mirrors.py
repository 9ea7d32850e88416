"""Feeds fetched over real sockets: only what is new, gone on with where it was cut off, and named where it is none."""

import datetime as dt
import json
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from tarn.collect.feeds.kind import Fetching, feed_kinds
from tarn.collect.problems import Problem
from tarn.collect.routes import DIRECT
from tarn.collect.sources.kind import SettingError
from tarn.core.exposure.reading import read_file
from tarn.lab.advisories import World, page
from tests import advisories as made

MARK = '"first"'


class Mirror(ThreadingHTTPServer):
    """Answers by path with (status, headers, body); `asked` keeps what it was asked with. `cuts`: how many octets of an
    answer it sends before it hangs up, once each."""

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), _Answer)
        self.answers: dict[str, tuple[int, dict[str, str], bytes]] = {}
        self.asked: list[tuple[str, dict[str, str]]] = []
        self.cuts: list[int] = []
        self.base = f"http://127.0.0.1:{self.server_address[1]}"


class _Answer(BaseHTTPRequestHandler):
    server: Mirror

    def do_GET(self) -> None:
        path, headers = self.path.partition("?")[0], dict(self.headers)
        self.server.asked.append((self.path, headers))
        status, own, body = self.server.answers.get(path, (404, {}, b""))
        if headers.get("If-None-Match") == own.get("ETag") is not None:
            self.send_response(304)
            self.end_headers()
            return
        if (asked := headers.get("Range")) and headers.get("If-Range") == own.get("ETag"):
            start = int(asked.removeprefix("bytes=").rstrip("-"))
            status, body = 206, body[start:]
        self.send_response(status)
        for name, value in own.items():
            self.send_header(name, value)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if self.server.cuts:
            self.wfile.write(body[: self.server.cuts.pop()])
            self.wfile.flush()
            self.connection.close()
            return
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        pass


@pytest.fixture
def mirror() -> Iterator[Mirror]:
    server = Mirror()
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield server
    server.shutdown()
    server.server_close()
    thread.join(5)


def fetch(kind, state, **settings):
    """Return the names and documents of what a feed gives; its state is changed as it is read."""
    described = feed_kinds()[kind]
    out = []
    for name, stream in described.read(described.checked(settings), Fetching(DIRECT, state)):
        out.append((name, [p.document.name if p.document else str(p.refused) for p in read_file(name, stream)]))
    return out


def test_a_file_is_fetched_again_only_when_it_changed(mirror):
    state = {}
    mirror.answers["/a.json"] = (200, {"ETag": MARK}, json.dumps(made.osv()).encode())
    address = f"{mirror.base}/a.json"
    assert fetch("mirrored file", state, base=address) == [(address, ["SKA-118"])]
    assert fetch("mirrored file", state, base=address) == []
    assert mirror.asked[-1][1]["If-None-Match"] == MARK
    mirror.answers["/a.json"] = (200, {"ETag": '"second"'}, json.dumps(made.osv("SKA-119")).encode())
    assert fetch("mirrored file", state, base=address) == [(address, ["SKA-119"])]


def test_what_is_cut_off_is_gone_on_with(mirror):
    body = json.dumps([made.osv(f"SKA-{n}", aliases=[]) for n in range(200)]).encode()
    mirror.answers["/a.json"] = (200, {"ETag": MARK}, body)
    mirror.cuts = [30_000, 20_000]
    [(_, names)] = fetch("mirrored file", {}, base=f"{mirror.base}/a.json")
    assert names == [f"SKA-{n}" for n in range(200)]
    assert [h.get("Range") for _, h in mirror.asked] == [None, "bytes=20000-", "bytes=50000-"]
    mirror.cuts = [10] * 9
    with pytest.raises(Problem, match="mirror"):
        fetch("mirrored file", {}, base=f"{mirror.base}/a.json")


@pytest.mark.parametrize(
    ("answer", "says"),
    [
        ((302, {"Location": "http://127.0.0.1:1/"}, b""), "127.0.0.1:1"),
        ((500, {}, b"broken"), "500"),
        ((404, {}, b""), "404"),
    ],
)
def test_what_a_mirror_refuses_is_said(mirror, answer, says):
    mirror.answers["/a.json"] = answer
    with pytest.raises(Problem) as problem:
        fetch("mirrored file", {}, base=f"{mirror.base}/a.json")
    assert says in problem.value.says
    with pytest.raises(Problem):
        fetch("mirrored file", {}, base="http://127.0.0.1:1/a.json")


def test_a_page_with_status_200_that_is_html_is_named(mirror):
    mirror.answers["/a.json"] = (200, {}, b"<!doctype html><title>Sign in</title>")
    [(_, [said])] = fetch("mirrored file", {}, base=f"{mirror.base}/a.json")
    assert "web page" in said


def test_of_a_directory_only_what_its_list_of_changes_names_is_fetched(mirror):
    state = {}
    for n in (1, 2):
        mirror.answers[f"/d/osv/{n}.json"] = (200, {}, json.dumps(made.osv(f"SKA-{n}", aliases=[])).encode())
    mirror.answers["/d/changes.csv"] = (
        200,
        {},
        b'"osv/2.json","2026-11-02T00:00:00Z"\n"osv/1.json","2026-11-01T00:00:00Z"\n',
    )
    assert [n for n, _ in fetch("mirrored directory", state, base=f"{mirror.base}/d")] == ["osv/1.json", "osv/2.json"]
    assert fetch("mirrored directory", state, base=f"{mirror.base}/d") == []
    mirror.answers["/d/changes.csv"] = (200, {}, b'"osv/2.json","2026-11-05T00:00:00Z"\n')
    assert fetch("mirrored directory", state, base=f"{mirror.base}/d") == [("osv/2.json", ["SKA-2"])]
    for wrong, says in ((b"one,two,three\n", "line 1"), (b'"../../etc/passwd","2026-11-06T00:00:00Z"\n', "passwd")):
        mirror.answers["/d/changes.csv"] = (200, {}, wrong)
        with pytest.raises(Problem, match=says):
            fetch("mirrored directory", {}, base=f"{mirror.base}/d")


def test_pages_are_asked_one_after_the_other_and_next_time_only_what_changed(mirror, monkeypatch):
    world = World(400, dt.datetime(2026, 8, 3, 9, tzinfo=dt.UTC))

    def answered(self):
        from urllib.parse import parse_qs, urlsplit

        asked = {k: v[0] for k, v in parse_qs(urlsplit(self.path).query).items()}
        self.server.asked.append((self.path, asked))
        body = page(world, int(asked["startIndex"]), int(asked["resultsPerPage"]), asked.get("lastModStartDate", ""))
        self.send_response(200)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    monkeypatch.setattr(_Answer, "do_GET", answered)
    state = {}
    pages = fetch("paged mirror", state, base=f"{mirror.base}/2.0", size=40)
    assert [len(names) for _, names in pages] == [40, 40, 16]
    assert len({n for _, names in pages for n in names}) == 96
    fetch("paged mirror", state, base=f"{mirror.base}/2.0", size=40)
    assert "lastModStartDate" in mirror.asked[-1][1]


def test_a_folder_is_read_where_its_files_changed(tmp_path):
    (tmp_path / "a.json").write_text(json.dumps(made.osv()))
    state = {}
    assert fetch("folder", state, path=str(tmp_path)) == [("a.json", ["SKA-118"])]
    assert fetch("folder", state, path=str(tmp_path)) == []
    (tmp_path / "b").mkdir()
    (tmp_path / "b" / "c.json").write_text("{")
    assert [n for n, _ in fetch("folder", state, path=str(tmp_path))] == ["b/c.json"]
    with pytest.raises(Problem):
        fetch("folder", {}, path="/nowhere/at/all")
    with pytest.raises(SettingError):
        fetch("folder", {}, path="here")
    for wrong in ("ftp://a/b", "nowhere", ""):
        with pytest.raises(SettingError):
            fetch("mirrored file", {}, base=wrong)
