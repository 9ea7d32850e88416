"""Whom a source is believed to be: its certificate is checked against this machine's authorities, or is the one given.

A certificate that no authority signed is told by the SHA-256 of its public key (RFC 7469, 2.4), which stays when the
certificate is renewed with the same key. It is compared before anything is sent: no secret goes to another.
"""

import ssl
from collections.abc import Iterable
from typing import Any

import httpcore
import httpx

from tarn.collect.problems import Problem
from tarn.collect.tls import pin_of


def transport(host: str, pin: str) -> httpx.AsyncHTTPTransport:
    """Return what dials a source: `pin` empty for a certificate of an authority, else the only key that is believed."""
    if not pin:
        return httpx.AsyncHTTPTransport(verify=_ordinary())
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_mode = ssl.CERT_NONE  # the key itself is compared, which says more
    made = httpx.AsyncHTTPTransport(verify=context)
    made._pool = httpcore.AsyncConnectionPool(ssl_context=context, network_backend=_Backend(host, pin))
    return made


def _ordinary() -> ssl.SSLContext:
    return ssl.create_default_context()


class _Backend(httpcore.AsyncNetworkBackend):
    def __init__(self, host: str, pin: str) -> None:
        self._inner, self._host, self._pin = httpcore.AnyIOBackend(), host, pin

    async def connect_tcp(self, host: str, port: int, timeout: float | None = None, local_address: str | None = None,
                          socket_options: Iterable[Any] | None = None) -> httpcore.AsyncNetworkStream:  # fmt: skip
        stream = await self._inner.connect_tcp(host, port, timeout, local_address, socket_options)
        return _Stream(stream, self._host, self._pin)

    async def sleep(self, seconds: float) -> None:
        await self._inner.sleep(seconds)


class _Stream(httpcore.AsyncNetworkStream):
    def __init__(self, inner: httpcore.AsyncNetworkStream, host: str, pin: str) -> None:
        self._inner, self._host, self._pin = inner, host, pin

    async def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        return await self._inner.read(max_bytes, timeout)

    async def write(self, buffer: bytes, timeout: float | None = None) -> None:
        await self._inner.write(buffer, timeout)

    async def aclose(self) -> None:
        await self._inner.aclose()

    async def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> httpcore.AsyncNetworkStream:
        """Begin TLS, and end at once where another key is presented."""
        stream = await self._inner.start_tls(ssl_context, server_hostname, timeout)
        found = pin_of(stream.get_extra_info("ssl_object").getpeercert(True))
        if found != self._pin:
            await stream.aclose()
            raise Problem("other-certificate", host=self._host, found=found, pin=self._pin)
        return stream

    def get_extra_info(self, info: str) -> Any:
        return self._inner.get_extra_info(info)
