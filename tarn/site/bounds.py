"""How much may be sent and how long it may take, by what is called: kept before anything of a request is read.

What is too much or too slow is answered in words (413, 408) and the connection closed, so that no request fills the
memory, the disk or all connections.
"""

import asyncio
import json
from collections.abc import Awaitable, Callable
from typing import Any

from uvicorn.protocols.http.h11_impl import H11Protocol

KB, MB = 1 << 10, 1 << 20
BODIES: tuple[tuple[str, int], ...] = (
    ("/api/account/", 16 * KB),
    ("/api/first", 16 * KB),
    ("/api/acknowledgements/", 16 * KB),
    ("/api/reports/", 2 * MB),
    ("/api/reports", 32 * MB),
    ("/api/outposts/", 32 * MB),
    ("/api/sightings", 32 * MB),
    ("/api/inbound/", 32 * MB),
    ("/api/imports", 256 * MB),
    ("/api/assets/", 64 * MB),
    ("/api/papers-of/", 64 * MB),
    ("/api/lifecycle/steps-taken/", 64 * MB),
    ("/api/licences/use-records", 64 * MB),
    ("/api/licences/said", 8 * MB),
    ("", 2 * MB),
)
"""The most a body may hold, by how a path begins; the first that fits counts."""
HEAD_SIZE = 48 * KB
"""Octets a request's head may have: a question of 2,000 devices named one by one stands in its address."""
HEAD_SECONDS = 15
PIECE_SECONDS = 20
BODY_SECONDS = 300
"""Seconds for the head of a request, for each piece of its body, and for all of it."""

Scope = dict[str, Any]
Message = dict[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


def most_of(path: str) -> int:
    """Return how many bytes a body sent to a path may have."""
    return next(most for begin, most in BODIES if path.startswith(begin))


class _TooMuch(Exception):
    """A body is larger than it may be."""


class _TooSlow(Exception):
    """A body came too slowly."""


class Bounded:
    """An ASGI application whose requests are bounded in size and time."""

    def __init__(self, inner: App) -> None:
        self._inner = inner

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            await self._inner(scope, receive, send)
            return
        most, began = most_of(scope["path"]), asyncio.get_running_loop().time()
        told = dict(scope["headers"]).get(b"content-length", b"0")
        got, over, answered = 0, False, False

        async def bounded() -> Message:
            nonlocal got, over
            if over:
                return await receive()  # the body is whole: what comes now is that the other side has gone
            left = BODY_SECONDS - (asyncio.get_running_loop().time() - began)
            try:
                message = await asyncio.wait_for(receive(), max(0.01, min(PIECE_SECONDS, left)))
            except TimeoutError:
                raise _TooSlow from None
            got += len(message.get("body", b""))
            over = not message.get("more_body", False)
            if got > most:
                raise _TooMuch
            return message

        async def noted(message: Message) -> None:
            nonlocal answered
            answered = True
            await send(message)

        try:
            if not told.isdigit() or int(told) > most:
                raise _TooMuch
            await self._inner(scope, bounded, noted)
        except _TooMuch:
            if not answered:
                await _drain(receive)
                await _refuse(send, 413, "Too large", f"More than {_size(most)} were sent; that is the most here.")
        except _TooSlow:
            if not answered:
                await _refuse(send, 408, "Too slow", f"The request stalled for {PIECE_SECONDS} s, or took too long.")


async def _drain(receive: Receive) -> None:
    """Read a little more of what is refused: a sender that is still sending would not hear the answer otherwise."""
    left = DRAINED
    try:
        async with asyncio.timeout(1):
            while left > 0:
                message = await receive()
                left -= len(message.get("body", b""))
                if message["type"] == "http.disconnect" or not message.get("more_body", False):
                    return
    except TimeoutError:
        return


DRAINED = 256 * KB


def _size(number: int) -> str:
    return f"{number // MB} MB" if number >= MB else f"{number // KB} kB"


async def _refuse(send: Send, status: int, title: str, detail: str) -> None:
    body = json.dumps({"type": "about:blank", "title": title, "status": status, "detail": detail}).encode()
    head = [
        (b"content-type", b"application/problem+json"),
        (b"content-length", str(len(body)).encode()),
        (b"cache-control", b"no-store"),
        (b"connection", b"close"),
    ]
    await send({"type": "http.response.start", "status": status, "headers": head})
    await send({"type": "http.response.body", "body": body})


class HeadInTime(H11Protocol):
    """HTTP/1.1 by h11; a connection whose request's head does not come in time is closed."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Begin to wait for the head."""
        super().connection_made(transport)
        self._late = self.loop.call_later(HEAD_SECONDS, self._close_if_headless)

    def _close_if_headless(self) -> None:
        if self.cycle is None and not self.transport.is_closing():
            self.transport.close()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing is waited for any more."""
        self._late.cancel()
        super().connection_lost(exc)
