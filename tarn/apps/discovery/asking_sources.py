"""Asking another system: from a stored source to what it knows."""

from collections.abc import AsyncIterator
from dataclasses import fields
from typing import Any
from urllib.parse import urlsplit

from tarn.apps.people.actions.refusals import Invalid
from tarn.collect.credentials import CloudCredential, Credential, HttpCredential, LdapCredential
from tarn.collect.routes import ROUTES
from tarn.collect.sources.cloud import CloudSettings, read_cloud
from tarn.collect.sources.desk import BY, DeskSettings, read_desk
from tarn.collect.sources.directory import DirectorySettings, read_directory
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.inventory import PAGINGS, Inventory, InventorySettings
from tarn.collect.sources.known import KnownDevices
from tarn.collect.sources.scim import ScimSettings, read_people
from tarn.collect.sources.warranty import WarrantySettings, read_warranties
from tarn.core.mapping import MappingError, check_mapping

KINDS = (
    *("directory", "device management", "inventory", "people", "cloud account"),
    *("warranty service", "service desk"),
)
"""`people`: by SCIM; a warranty service and a service desk are asked about devices there are; the others bring devices,
a directory both."""
ASKED_ABOUT = ("warranty service", "service desk")
COLLECTORS = {
    "directory": "directory",
    "device management": "inventory",
    "inventory": "inventory",
    "people": "scim",
    "cloud account": "cloud",
    "warranty service": "warranty",
    "service desk": "desk",
}
Settings = DirectorySettings | InventorySettings | ScimSettings | CloudSettings | WarrantySettings | DeskSettings
_SETTINGS: dict[str, type[Settings]] = {
    "directory": DirectorySettings,
    "people": ScimSettings,
    "cloud account": CloudSettings,
    "warranty service": WarrantySettings,
    "service desk": DeskSettings,
}

PREPARED: dict[str, dict[str, Any]] = {
    "device management, JSON by pages": {
        "base": "https://10.60.4.61/api/v2",
        "list": "devices",
        "items": "devices",
        "key": "id",
        "paging": "page",
        "page_parameter": "page",
        "size_parameter": "per_page",
        "size": 25,
        "since": "changedSince",
        "fields": {
            "name": {"from": "deviceName"},
            "serial": {"from": "serialNumber"},
            "manufacturer": {"from": "hardware.maker"},
            "model": {"from": "hardware.model"},
            "mac": {"from": "hardware.wifiMac"},
            "kind": {"from": "kind"},
            "os_name": {"from": "os.name"},
            "os_version": {"from": "os.version"},
            "person": {"from": "owner.displayName"},
            "department": {"from": "owner.department"},
            "checked_in": {"from": "lastCheckIn"},
            "encrypted": {"from": "encrypted"},
            "passcode": {"from": "passcode"},
            "supervised": {"from": "supervised"},
        },
    },
    "endpoint management, XML by offset": {
        "base": "http://10.60.4.62:8080/rest",
        "list": "computers",
        "items": "computers.computer",
        "key": "@id",
        "detail": "computers/{id}",
        "format": "xml",
        "paging": "offset",
        "page_parameter": "start",
        "size_parameter": "count",
        "size": 50,
        "fields": {
            "name": {"from": "@name"},
            "serial": {"from": "serial"},
            "uuid": {"from": "uuid"},
            "memory": {"from": "memory", "unit": "MB"},
            "person": {"from": "user"},
            "site": {"from": "site"},
            "managed_by": {"from": "server"},
            "checked_in": {"from": "seen"},
        },
        "software": {"items": "software.program", "name": "title", "version": "release", "publisher": "by"},
    },
}
"""Mappings made ready: those of the lab's two stand-ins, and a pattern for one's own."""


def checked_settings(kind: str, given: dict[str, Any]) -> Settings:
    """Return settings as collectors use them. Raises Invalid naming the setting."""
    made = _SETTINGS.get(kind, InventorySettings)
    known = {f.name for f in fields(made)}
    unknown = set(given) - known
    if unknown:
        raise Invalid(f"settings.{min(unknown)}", f"A {kind} source has no setting “{min(unknown)}”.")
    if kind == "directory":
        if not given.get("address"):
            raise Invalid("settings.address", "Say at which address the directory answers.")
        condition = str(given.get("condition") or "")
        if condition and not (condition.startswith("(") and condition.endswith(")")):
            raise Invalid("settings.condition", "A further condition stands in brackets, such as (location=Saltholm).")
        return DirectorySettings(**given)
    if kind == "people":
        if not given.get("base"):
            raise Invalid("settings.base", "Say where the service is, such as https://people.example/scim/v2.")
        return ScimSettings(**given)
    if kind == "cloud account":
        return CloudSettings(**{k: v for k, v in given.items() if v != ""})
    if kind in ASKED_ABOUT:
        return _asked_about(kind, given)
    for name in ("base", "list", "key"):
        if not given.get(name):
            raise Invalid(f"settings.{name}", f"The setting “{name}” is missing.")
    if given.get("paging", "none") not in PAGINGS:
        raise Invalid("settings.paging", f"Paging is one of: {', '.join(PAGINGS)}.")
    if given.get("format", "json") not in ("json", "xml"):
        raise Invalid("settings.format", "The format is json or xml.")
    try:
        check_mapping(given.get("fields") or {})
    except MappingError as error:
        raise Invalid("settings.fields", str(error)) from None
    return InventorySettings(**{"items": "", **given})


def asked_at(kind: str, given: dict[str, Any]) -> str:
    """Return the host a source is asked at, for settings that passed; empty where that is its maker's own service."""
    if kind == "directory":
        return str(given["address"])
    if kind == "cloud account":
        return urlsplit(str(given.get("endpoint") or "")).hostname or ""
    return urlsplit(str(given["base"])).hostname or ""


def _asked_about(kind: str, given: dict[str, Any]) -> Settings:
    """Return the settings of a source that is asked about devices there are. Raises Invalid naming the setting."""
    needed = ("base", "manufacturer") if kind == "warranty service" else ("base", "items", "device")
    for name in needed:
        if not given.get(name):
            raise Invalid(f"settings.{name}", f"The setting “{name}” is missing.")
    if kind == "warranty service":
        made = WarrantySettings(**given)
        if not 1 <= made.batch <= 1_000:
            raise Invalid("settings.batch", "A batch is of 1 to 1000 serial numbers.")
        return made
    desk = DeskSettings(**given)
    if desk.by not in BY:
        raise Invalid("settings.by", f"A ticket knows its device by one of: {', '.join(BY)}.")
    if desk.paging not in PAGINGS:
        raise Invalid("settings.paging", f"Paging is one of: {', '.join(PAGINGS)}.")
    return desk


def findings(
    kind: str,
    given: dict[str, Any],
    credential: Credential | None,
    route: str,
    since: str = "",
    known: KnownDevices = KnownDevices(),  # noqa: B008  (frozen)
) -> AsyncIterator[Finding]:
    """Return what a source knows, a device at a time; `known`: for those that are asked about devices there are.

    Raises Invalid; Problem while it is asked.
    """
    held = checked_settings(kind, given)
    if isinstance(held, DirectorySettings):
        if not isinstance(credential, LdapCredential):
            raise Invalid("credential", "A directory is asked with an LDAP credential.")
        return read_directory(ROUTES[route], credential, held)
    if isinstance(held, CloudSettings):
        if not isinstance(credential, CloudCredential):
            raise Invalid("credential", "A cloud account is asked with a cloud key pair.")
        return read_cloud(ROUTES[route], credential, held)
    if credential is not None and not isinstance(credential, HttpCredential):
        raise Invalid("credential", "This service is asked with an HTTP credential, or with none.")
    if isinstance(held, WarrantySettings):
        return read_warranties(ROUTES[route], credential, held, known)
    if isinstance(held, DeskSettings):
        return read_desk(ROUTES[route], credential, held, known)
    if isinstance(held, ScimSettings):
        return read_people(ROUTES[route], credential, held)
    return Inventory(ROUTES[route], credential, held).findings(since)
