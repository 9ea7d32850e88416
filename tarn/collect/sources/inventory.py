"""Another inventory over HTTP, described by its mapping: calls, paging, and where each field lies in the answer."""

import asyncio
import hashlib
import json
import ssl
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urljoin, urlsplit

import httpx
from defusedxml import ElementTree
from defusedxml.common import DefusedXmlException

from tarn.collect.credentials import HttpCredential, keep_out_of_clear, keep_to_reach
from tarn.collect.names import addresses_of
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.trust import transport
from tarn.collect.tls import pin_of
from tarn.core.items import Package
from tarn.core.mapping import MappingError, build
from tarn.core.sightings import make_reading

MOST_PAGES, MOST_OCTETS = 10_000, 64 << 20
LONGEST_ANSWER = 120.0
"""Seconds one answer may take in all, however slowly its octets come."""
MOST_WAITS, LONGEST_WAIT = 8, 60
"""How often it waits when it is told to, and seconds it waits at the most each time."""
PAGINGS = ("none", "page", "offset", "cursor")


@dataclass(frozen=True, slots=True)
class InventorySettings:
    """How another inventory is asked.

    `base`: its address; `list`: the list call; `items`: path of the devices in its answer; `key`: path of a device's
    id; `detail`: the detail call with {id}, if one is needed; `paging`: one of PAGINGS with the parameter's name, the
    size's, and for cursors the path of the next; `since`: the parameter for "changed since"; `fields`: by target
    {"from": path, "unit": unit}; `software`: path of the list, and the paths of name, version, publisher in it.
    """

    base: str
    list: str
    key: str
    items: str = ""
    fields: dict[str, dict[str, str]] = field(default_factory=dict)
    detail: str = ""
    format: str = "json"
    paging: str = "none"
    page_parameter: str = "page"
    size_parameter: str = ""
    size: int = 100
    next: str = ""
    since: str = ""
    first: int = 0
    """Where offsets begin."""
    total: str = ""
    """Path of how many there are in all; without it a page that is not full is the last."""
    software: dict[str, str] = field(default_factory=dict)
    certificate: str = ""
    """The pin of its key (`trust.py`), where no authority signed its certificate."""


def at_path(document: Any, path: str) -> Any:
    """Return what lies at a dotted path, or None: `os.name`, `disks.0.size`."""
    for part in path.split(".") if path else []:
        if isinstance(document, dict):
            document = document.get(part)
        elif isinstance(document, list) and part.isdigit() and int(part) < len(document):
            document = document[int(part)]
        else:
            return None
    return document


def from_xml(text: bytes) -> Any:
    """Return an XML document as nested dicts: attributes as `@name`, repeated elements as lists."""

    def convert(element: Any) -> Any:
        out: dict[str, Any] = {f"@{k}": v for k, v in element.attrib.items()}
        for child in element:
            name, value = child.tag.rsplit("}", 1)[-1], convert(child)
            if name in out:
                out[name] = [*(out[name] if isinstance(out[name], list) else [out[name]]), value]
            else:
                out[name] = value
        if not out:
            return (element.text or "").strip()
        return out

    root = ElementTree.fromstring(text)
    return {root.tag.rsplit("}", 1)[-1]: convert(root)}


@dataclass(frozen=True, slots=True)
class _Wait:
    """The other side asks to wait before the next try."""

    seconds: int


class Inventory:
    """An inventory that can be asked. Only its own address is ever dialled: no redirect, no link elsewhere."""

    def __init__(self, route: Route, credential: HttpCredential | None, settings: InventorySettings) -> None:
        self._route, self._credential, self._settings = route, credential, settings
        self._origin = urlsplit(settings.base)
        self._url = self._host = ""

    async def open(self) -> httpx.AsyncClient:
        host, scheme = self._origin.hostname or "", self._origin.scheme
        if scheme not in ("http", "https") or not host:
            detail = f"“{self._settings.base}” is no http or https address"
            raise Problem("failed", section="the address", detail=detail)
        if self._credential is not None:
            keep_to_reach(self._credential, host)
            if scheme == "http":
                keep_out_of_clear(self._credential, host)
        port = self._origin.port or (443 if scheme == "https" else 80)
        address = host
        if not host.replace(".", "").isdigit() and ":" not in host:
            found = await addresses_of(self._route, host)
            if not found:
                raise Problem("unreachable", detail=f"the name {host} leads nowhere")
            address = found[0]
        there, number = self._route.dial(address, port)
        self._url = f"{scheme}://{there}:{number}"
        headers = {"Host": self._origin.netloc, "Accept": f"application/{self._settings.format}"}
        auth: httpx.Auth | None = None
        if self._credential is not None:
            secret = self._credential.secret
            if self._credential.manner == "basic":
                auth = httpx.BasicAuth(self._credential.user, secret)
            elif self._credential.manner == "bearer":
                headers["Authorization"] = f"Bearer {secret}"
            else:
                headers[self._credential.user] = secret
        timeout = self._credential.timeout if self._credential else 15.0
        self._host = host
        return httpx.AsyncClient(
            headers=headers,
            auth=auth,
            timeout=timeout,
            transport=transport(host, self._settings.certificate),
            follow_redirects=False,
            trust_env=False,
        )

    async def _presented(self) -> str:
        """Return the pin of the key that is presented, for a person to compare."""
        at = urlsplit(self._url)
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
        context.check_hostname, context.verify_mode = False, ssl.CERT_NONE
        _, writer = await asyncio.wait_for(asyncio.open_connection(at.hostname, at.port, ssl=context), 10)
        try:
            return pin_of(writer.get_extra_info("ssl_object").getpeercert(True))
        finally:
            writer.close()

    async def items(self, since: str = "") -> AsyncIterator[dict[str, Any]]:
        """Yield what is listed, as it comes. Raises Problem."""
        async with await self.open() as client:
            async for item in self._items(client, since):
                if not isinstance(item, dict):
                    detail = f"“{str(item)[:80]}” stands where an entry should"
                    raise Problem("nonsense", protocol="The source", detail=detail)
                yield item

    async def findings(self, since: str = "") -> AsyncIterator[Finding]:
        """Yield the devices; `since` (ISO 8601) asks for those changed after it. Raises Problem."""
        async with await self.open() as client:
            async for item in self._items(client, since):
                yield await self._finding(client, item)

    async def _items(self, client: httpx.AsyncClient, since: str) -> AsyncIterator[dict[str, Any]]:
        settings = self._settings
        position: Any = {"page": 1, "offset": settings.first}.get(settings.paging)
        pages: set[str] = set()
        came = 0
        for _ in range(MOST_PAGES):
            asked: dict[str, Any] = {}
            if settings.since and since:
                asked[settings.since] = since
            if settings.size_parameter:
                asked[settings.size_parameter] = settings.size
            if position is not None:
                asked[settings.page_parameter] = position
            document = await self._get(client, settings.list, asked)
            items = self._listed(document, first=not pages)
            page = hashlib.sha256(json.dumps([position if not items else "", items], default=str).encode()).hexdigest()
            if page in pages:
                raise Problem("looping-pages", protocol="The inventory", detail=f"page {position}")
            pages.add(page)
            came += len(items)
            for item in items:
                yield item
            total = self._total(document)
            position = self._after(document, position, items, came, total)
            if position is None:
                if total is not None and came < total:
                    detail = f"{came} of the {total} it says there are"
                    raise Problem("cut-short", protocol="The inventory", detail=detail)
                return
        raise Problem("looping-pages", protocol="The inventory", detail=f"{MOST_PAGES} pages")

    def _listed(self, document: Any, *, first: bool) -> list[Any]:
        """Return what an answer lists. Raises Problem where no list lies there: nothing is not the same as none."""
        items = at_path(document, self._settings.items)
        if items is None and self._settings.format == "xml":
            above = at_path(document, self._settings.items.rpartition(".")[0])
            items = "" if above is not None else None  # an element that is not repeated at all
        if items is None and first:
            detail = f"the answer has no list of devices at “{self._settings.items or 'its top'}”"
            raise Problem("nonsense", protocol="The inventory", detail=detail)
        if items in (None, "", {}):
            return []
        return items if isinstance(items, list) else [items]

    def _total(self, document: Any) -> int | None:
        said = at_path(document, self._settings.total) if self._settings.total else None
        try:
            return int(said) if said is not None else None
        except (TypeError, ValueError):
            raise Problem("nonsense", protocol="The inventory", detail=f"its total is “{said}”") from None

    def _after(self, document: Any, position: Any, items: list[Any], came: int, total: int | None) -> Any:
        """Return where the next page begins, or None after the last."""
        settings = self._settings
        if settings.paging == "none":
            return None
        if settings.paging == "cursor":
            return at_path(document, settings.next) or None
        if not items or (came >= total if total is not None else len(items) < settings.size):
            return None
        return position + (1 if settings.paging == "page" else len(items))

    async def _finding(self, client: httpx.AsyncClient, item: Any) -> Finding:
        settings = self._settings
        if not isinstance(item, dict):
            fault = MappingError("entry", f"“{str(item)[:80]}” stands where a device should.")
            return Finding("", str(item)[:80], [], [fault])
        key = at_path(item, settings.key)
        if settings.detail and key is not None:
            document = await self._get(client, settings.detail.replace("{id}", str(key)), {})
            detail = (
                next(iter(document.values())) if settings.format == "xml" and isinstance(document, dict) else document
            )
            item = {**item, **(detail if isinstance(detail, dict) else {})}
        values = {name: at_path(item, m["from"]) for name, m in settings.fields.items()}
        units = {name: m.get("unit", "") for name, m in settings.fields.items()}
        readings, faults = build(values, units, "inventory")
        if key is None:
            faults.append(MappingError("key", f"No id lies at “{settings.key}”."))
        if settings.software:
            readings.append(self._software(item))
        return Finding(str(key or ""), str(values.get("name") or key or "unnamed"), readings, faults, values)

    def _software(self, item: dict[str, Any]) -> Any:
        paths = self._settings.software
        rows = at_path(item, paths["items"]) or []
        found: dict[tuple[str, str], Package] = {}
        for row in rows if isinstance(rows, list) else [rows]:
            name = str(at_path(row, paths.get("name", "name")) or "").strip()
            if name:
                version = str(at_path(row, paths.get("version", "version")) or "")
                publisher = str(at_path(row, paths.get("publisher", "publisher")) or "")
                found[name, version] = Package(name=name[:300], version=version[:480], publisher=publisher[:480])
        return make_reading("packages", [found[k] for k in sorted(found)], "inventory")

    async def _get(self, client: httpx.AsyncClient, path: str, asked: dict[str, Any]) -> Any:
        return await self.ask(client, path, asked)

    async def ask(
        self, client: httpx.AsyncClient, path: str, asked: dict[str, Any], body: dict[str, Any] | None = None
    ) -> Any:
        """Make one call, a POST where there is a body; return what is answered. Raises Problem.

        Who is told to wait (429, or 503 with Retry-After: RFC 6585 section 4, RFC 9110 section 10.2.3) waits,
        MOST_WAITS times at the most.
        """
        for _ in range(MOST_WAITS):
            told = await self._once(client, path, asked, body)
            if not isinstance(told, _Wait):
                return told
            await asyncio.sleep(min(told.seconds, LONGEST_WAIT))
        raise Problem("failed", section=path, detail=f"it still asks to wait after {MOST_WAITS} tries")

    async def _once(
        self, client: httpx.AsyncClient, path: str, asked: dict[str, Any], body: dict[str, Any] | None
    ) -> Any:
        target = urljoin(self._settings.base.rstrip("/") + "/", path.lstrip("/"))
        if urlsplit(target).netloc != self._origin.netloc:
            raise Problem("elsewhere", target=target)
        url = self._url + target.split(self._origin.netloc, 1)[1]
        try:
            async with (
                asyncio.timeout(LONGEST_ANSWER),
                client.stream(
                    "GET" if body is None else "POST",
                    url,
                    params=asked or None,
                    json=body,
                    extensions={"sni_hostname": self._host},  # the name is checked, whatever address is dialled
                ) as answer,
            ):
                if answer.status_code in (429, 503) and (waits := answer.headers.get("retry-after", "")).isdigit():
                    return _Wait(int(waits))
                if answer.is_redirect:
                    raise Problem("elsewhere", target=answer.headers.get("location", "an unnamed place"))
                if answer.status_code in (401, 403):
                    name = self._credential.name if self._credential else "no credential"
                    raise Problem("sign-in-refused", protocol="The inventory", credential=name)
                if answer.status_code not in (200, 201):
                    detail = f"{path} gave status {answer.status_code}"
                    raise Problem("failed", section="the inventory", detail=detail)
                text = bytearray()
                async for piece in answer.aiter_bytes():
                    text += piece
                    if len(text) > MOST_OCTETS:
                        raise Problem("failed", section=path, detail="the answer is larger than 64 MB")
        except httpx.TimeoutException:
            raise Problem("timed-out", protocol="The inventory", seconds=15, section=path) from None
        except TimeoutError:
            seconds = round(LONGEST_ANSWER)
            raise Problem("timed-out", protocol="The inventory", seconds=seconds, section=path) from None
        except httpx.ConnectError as error:
            if isinstance(cause := _tls(error), ssl.SSLCertVerificationError):
                pin = await self._presented()
                raise Problem("untrusted-source", host=self._host, detail=cause.verify_message, pin=pin) from None
            raise Problem("unreachable", detail=str(error)[:160]) from None
        except httpx.HTTPError as error:
            raise Problem("cut-off", protocol=f"The inventory ({type(error).__name__})", section=path) from None
        try:
            return from_xml(bytes(text)) if self._settings.format == "xml" else json.loads(text)  # scim+json is JSON
        except DefusedXmlException as error:
            detail = f"{path} holds what no inventory needs ({type(error).__name__})"
            raise Problem("nonsense", protocol="XML", detail=detail) from None
        except (ValueError, ElementTree.ParseError) as error:
            raise Problem("nonsense", protocol=self._settings.format.upper(), detail=f"{path}: {error}") from None


def _tls(error: BaseException) -> BaseException | None:
    """Return what went wrong with TLS below an error of the HTTP library, or None where it was something else."""
    cause: BaseException | None = error
    while cause is not None and not isinstance(cause, ssl.SSLError):
        cause = cause.__cause__ or cause.__context__
    return cause
