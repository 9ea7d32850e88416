"""The link from an outpost to Tarn: HTTPS, the outpost asking."""

import gzip
import ssl
from ipaddress import ip_address
from pathlib import Path
from typing import Any, TypeVar
from urllib.parse import urlsplit

import httpx

from tarn.collect.outpost.wire import Greeting, Receipt, TrialNews, WorkOffer, read, write
from tarn.core.sightings import SightingError

_T = TypeVar("_T", WorkOffer, Receipt)


class LinkDown(Exception):
    """Tarn could not be reached, or answered that it cannot serve just now; try again later."""


class Refused(Exception):
    """Tarn understood and said no; the message is Tarn's own."""

    def __init__(self, status: int, message: str) -> None:
        self.status = status
        super().__init__(message)


def checked_url(url: str) -> str:
    """Return Tarn's address. Raises ValueError for one over which secrets would travel unsealed."""
    parts = urlsplit(url)
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise ValueError(f"“{url}” is no address of a Tarn; write it as https://tarn.example.")
    if parts.scheme == "http" and not _is_here(parts.hostname):
        raise ValueError(f"“{url}”: credentials travel over this link, so it must be https://.")
    return url.rstrip("/")


def _is_here(host: str) -> bool:
    try:
        return ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


class Link:
    """Speaks for one outpost, by its token. `authority`: a file of certificates to trust besides the system's."""

    def __init__(self, url: str, token: str, authority: Path | None = None) -> None:
        trust = ssl.create_default_context()
        if authority is not None:
            trust.load_verify_locations(authority)
        self._client = httpx.AsyncClient(
            base_url=f"{checked_url(url)}/api/outposts",
            headers={"Authorization": f"Bearer {token}"},
            timeout=httpx.Timeout(20, connect=8),
            verify=trust,
            trust_env=False,
            # A server lets go of a quiet connection after five seconds; one taken up again at that moment is lost.
            limits=httpx.Limits(keepalive_expiry=2),
        )

    async def close(self) -> None:
        """Close the connections."""
        await self._client.aclose()

    async def work(self, greeting: Greeting) -> WorkOffer:
        """Ask for work. Raises LinkDown, Refused."""
        return await self._post(WorkOffer, "/work", write(greeting))

    async def hand_in(self, body: bytes) -> Receipt:
        """Hand in a document as it was kept. Raises LinkDown, Refused."""
        return await self._post(Receipt, "/found", body)

    async def tell_trial(self, number: int, news: TrialNews) -> None:
        """Tell the steps of a trial so far. Raises LinkDown, Refused."""
        await self._send(f"/trials/{number}", write(news))

    async def _post(self, kind: type[_T], path: str, body: bytes) -> _T:
        response = await self._send(path, body)
        try:
            return read(kind, response.content)
        except SightingError as error:
            raise LinkDown(f"what answers at {self._client.base_url} is no Tarn of this release: {error}") from None

    async def _send(self, path: str, body: bytes) -> httpx.Response:
        headers = {"Content-Type": "application/json", "Content-Encoding": "gzip"}
        try:
            response = await self._client.post(path, content=gzip.compress(body, 5), headers=headers)
        except httpx.HTTPError as error:
            raise LinkDown(f"{type(error).__name__}: {error}".rstrip(": ")) from None
        if response.status_code >= 500 or response.status_code == 429:
            raise LinkDown(f"Tarn answered {response.status_code}")
        if response.status_code >= 400:
            raise Refused(response.status_code, _words(response))
        return response


def _words(response: httpx.Response) -> str:
    try:
        said: Any = response.json()
        return str(said["detail"])
    except (ValueError, KeyError, TypeError):
        return f"Tarn answered {response.status_code}"
