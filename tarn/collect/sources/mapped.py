"""Inventories that are read by a mapping: any over HTTP, and systems that manage devices."""

from collections.abc import AsyncIterator
from typing import Any

from tarn.collect.credentials import HttpCredential
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.inventory import PAGINGS, Inventory, InventorySettings
from tarn.collect.sources.kind import CERTIFICATE, Asking, Setting, SettingError, SourceKind, base
from tarn.core.mapping import MappingError, check_mapping

_FORM = (
    base(),
    CERTIFICATE,
    Setting("list", "Call that lists devices", needed="Say which call lists the devices, such as devices."),
    Setting("items", "Path of the devices in its answer"),
    Setting("key", "Path of a device's id", needed="Say where a device's id lies in the answer, such as id."),
    Setting("detail", "Call for one device, with {id}"),
    Setting("page_parameter", "Parameter of the page", usual="page"),
    Setting("size_parameter", "Parameter of the size"),
    Setting("next", "Path of the next cursor"),
    Setting("since", "Parameter for “changed since”"),
    Setting("format", "Format", "choice", usual="json", options=("json", "xml")),
    Setting("paging", "Pages", "choice", usual="none", options=PAGINGS),
)
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
"""Mappings made ready, as patterns for one's own."""


def _check(settings: InventorySettings) -> None:
    try:
        check_mapping(settings.fields)
    except MappingError as error:
        raise SettingError("fields", str(error)) from None


def _read(settings: InventorySettings, asking: Asking) -> AsyncIterator[Finding]:
    return Inventory(asking.route, asking.credential, settings).findings(asking.since)


def _kind(name: str, text: str) -> SourceKind:
    return SourceKind(
        name,
        "inventory",
        text,
        InventorySettings,
        _FORM,
        _read,
        HttpCredential,
        "http",
        mapped=True,
        prepared=PREPARED,
        check=_check,
    )


KINDS = (
    _kind("device management", "a system that devices check in with; it tells of them over HTTP"),
    _kind("inventory", "another inventory that answers over HTTP, read by a mapping"),
)
