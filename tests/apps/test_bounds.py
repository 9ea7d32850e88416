"""What is too much or too slow is refused in words, by a real server on a real socket, and others are served meanwhile."""

import asyncio
import json
import socket
import threading
import time

import pytest
import uvicorn

from tarn.site import bounds


async def echo(scope, receive, send):
    """Answer with how much was sent."""
    size, more = 0, True
    while more:
        message = await receive()
        size, more = size + len(message.get("body", b"")), message.get("more_body", False)
    body = str(size).encode()
    length = (b"content-length", str(len(body)).encode())
    await send({"type": "http.response.start", "status": 200, "headers": [length]})
    await send({"type": "http.response.body", "body": body})


@pytest.fixture
def port(monkeypatch):
    monkeypatch.setattr(bounds, "HEAD_SECONDS", 0.5)
    monkeypatch.setattr(bounds, "PIECE_SECONDS", 0.5)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        number = probe.getsockname()[1]
    config = uvicorn.Config(
        bounds.Bounded(echo),
        port=number,
        log_level="error",
        lifespan="off",
        http=bounds.HeadInTime,
        h11_max_incomplete_event_size=bounds.HEAD_SIZE,
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=lambda: asyncio.run(server.serve()), daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.02)
    yield number
    server.should_exit = True
    thread.join()


def said(port, *pieces, pause=0.0):
    """Send pieces of a request and return the status and the body of the answer; 0 where the connection was closed."""
    with socket.create_connection(("127.0.0.1", port), timeout=5) as sock:
        got = b""
        try:
            for piece in pieces:
                sock.sendall(piece)
                time.sleep(pause)
            while data := sock.recv(65536):
                got += data
        except ConnectionError:
            pass
    head, _, body = got.partition(b"\r\n\r\n")
    return int(head.split()[1]) if head else 0, body


def head(path, *lines):
    return "\r\n".join([f"POST {path} HTTP/1.1", "Host: x", "Connection: close", *lines, "", ""]).encode()


def test_a_question_of_two_thousand_devices_comes_through_in_pieces_and_a_longer_head_does_not(port):
    def asked(devices):
        named = "%2C+".join(f"A-{n:05d}" for n in range(devices))
        whole = head(f"/api/assets?filter=number+in+%28{named}%29", "Content-Length: 0")
        return said(port, *(whole[n : n + 1_400] for n in range(0, len(whole), 1_400)), pause=0.003)

    assert asked(2_000) == (200, b"0")
    assert asked(8_000)[0] in (0, 400), "closed, or told that it is too long"


def test_a_body_beyond_its_routes_bound_is_refused_in_words(port):
    status, body = said(port, head("/api/account/x", "Content-Length: 20000"), b"x" * 20_000)
    assert status == 413
    assert "16 kB" in json.loads(body)["detail"]
    assert said(port, head("/api/account/x", "Content-Length: 2000"), b"x" * 2_000) == (200, b"2000")
    assert said(port, head("/api/sightings", "Content-Length: 20000"), b"x" * 20_000) == (200, b"20000")
    assert said(port, head("/api/x", "Content-Length: 99999999999"))[0] == 413, "without waiting for it"


def test_a_body_that_does_not_tell_its_length_is_counted_as_it_comes(port):
    piece = b"1000\r\n" + b"x" * 4096 + b"\r\n"
    status, _ = said(port, head("/api/account/x", "Transfer-Encoding: chunked"), *[piece] * 6, b"0\r\n\r\n")
    assert status == 413


def test_a_body_that_stalls_is_given_up_and_a_head_that_never_comes_is_closed(port):
    began = time.monotonic()
    assert said(port, head("/api/x", "Content-Length: 100"), b"x")[0] == 408
    assert said(port, b"POST /api/x HT")[0] == 0
    assert time.monotonic() - began < 4
    assert said(port, head("/api/x", "Content-Length: 1"), b"x") == (200, b"1"), "others are served"


def test_every_route_that_takes_evidence_has_32_mb_and_signing_in_16_kb():
    sizes = {p: bounds.most_of(p) for p in ("/api/account/browser/v1/auth/login", "/api/reports", "/api/outposts/found",
                                            "/api/inbound/k", "/api/sightings", "/api/reports/preview", "/api/decide")}  # fmt: skip
    assert list(sizes.values()) == [16 << 10, 32 << 20, 32 << 20, 32 << 20, 32 << 20, 2 << 20, 2 << 20]
