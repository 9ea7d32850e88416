"""The SNMP view of a simulated device, rendered from its model.

System: RFC 3418. Interfaces: RFC 2863. Addresses: RFC 4293 (ipAddrTable). Entities: RFC 6933.
Host resources: RFC 2790.
"""

from ipaddress import IPv4Address

from tarn.lab.model import Device
from tarn.lab.tables import network_tables, outlet_tables, power_tables, printer_tables

Oid = tuple[int, ...]
Value = tuple[str, object]
"""A type (`int`, `str`, `oid`, `ip`, `ticks`, `gauge`, `counter`, `counter64`) and a value."""

_UNIT = 4096


def oid(text: str) -> Oid:
    """Return an object id from its dotted text."""
    return tuple(map(int, text.split(".")))


def mib(device: Device) -> list[tuple[Oid, Value]]:
    """Return everything the device's agent tells, in order of object id."""
    rows: dict[Oid, Value] = {}

    def put(base: str, *parts: object) -> None:
        *index, value = parts
        rows[(*oid(base), *(int(str(i)) for i in index))] = value  # type: ignore[assignment]

    system = "1.3.6.1.2.1.1"
    put(f"{system}.1", 0, ("str", device.description or f"{device.os_name} {device.os_version}"))
    put(f"{system}.2", 0, ("oid", device.object_id or "1.3.6.1.4.1.8072.3.2.10"))
    put(f"{system}.3", 0, ("ticks", device.up_days * 8_640_000))
    put(f"{system}.4", 0, ("str", "it@skerrivane.example"))
    put(f"{system}.5", 0, ("str", f"{device.name}.{device.domain}"))
    put(f"{system}.6", 0, ("str", device.place))
    _interfaces(device, put)
    entity = "1.3.6.1.2.1.47.1.1.1.1"
    for column, value in (
        (2, ("str", device.model)),
        (4, ("int", 0)),
        (5, ("int", 3)),
        (7, ("str", "chassis")),
        (9, ("str", device.os_version)),
        (11, ("str", device.serial)),
        (12, ("str", device.maker)),
        (13, ("str", device.model)),
    ):
        put(f"{entity}.{column}", 1, value)
    if device.family == "windows":
        _host(device, put)
    if device.links is not None:
        network_tables(device, device.links, put)
    if device.kind == "printer":
        printer_tables(device, put)
    if device.kind == "power supply":
        power_tables(device, put)
    if device.outlets:
        outlet_tables(device, put)
    for index, (name, part) in enumerate(device.stack, start=2):
        for column, value in ((5, ("int", 3)), (7, ("str", name)), (11, ("str", part)), (13, ("str", device.model))):
            put(f"{entity}.{column}", index, value)
    return sorted(rows.items())


def _interfaces(device: Device, put) -> None:  # type: ignore[no-untyped-def]
    table, names = "1.3.6.1.2.1.2.2.1", "1.3.6.1.2.1.31.1.1.1"
    put("1.3.6.1.2.1.2.1", 0, ("int", len(device.interfaces)))
    for index, i in enumerate(device.interfaces, start=1):
        put(f"{table}.1", index, ("int", index))
        put(f"{table}.2", index, ("str", i.name))
        put(f"{table}.3", index, ("int", 6))
        put(f"{table}.5", index, ("gauge", min(i.speed, 2**32 - 1)))
        put(f"{table}.6", index, ("bytes", bytes.fromhex(i.mac.replace(":", ""))))
        put(f"{table}.8", index, ("int", 1 if i.up else 2))
        put(f"{names}.1", index, ("str", i.name))
        put(f"{names}.15", index, ("gauge", i.speed // 10**6))
        for address, prefix in i.addresses:
            part = IPv4Address(address).packed
            mask = IPv4Address((0xFFFFFFFF << (32 - prefix)) & 0xFFFFFFFF)
            put("1.3.6.1.2.1.4.20.1.1", *part, ("ip", address))
            put("1.3.6.1.2.1.4.20.1.2", *part, ("int", index))
            put("1.3.6.1.2.1.4.20.1.3", *part, ("ip", str(mask)))


def _host(device: Device, put) -> None:  # type: ignore[no-untyped-def]
    host = "1.3.6.1.2.1.25"
    put(f"{host}.2.2", 0, ("int", device.memory // 1024))
    storage = [("Physical Memory", "1.3.6.1.2.1.25.2.1.2", device.memory, device.memory // 2)]
    storage += [(f.mount, "1.3.6.1.2.1.25.2.1.4", f.size, f.used) for f in device.filesystems]
    for index, (name, kind, size, used) in enumerate(storage, start=1):
        put(f"{host}.2.3.1.1", index, ("int", index))
        put(f"{host}.2.3.1.2", index, ("oid", kind))
        put(f"{host}.2.3.1.3", index, ("str", name))
        put(f"{host}.2.3.1.4", index, ("int", _UNIT))
        put(f"{host}.2.3.1.5", index, ("int", size // _UNIT))
        put(f"{host}.2.3.1.6", index, ("int", used // _UNIT))
    for index in range(1, device.cores + 1):
        put(f"{host}.3.2.1.2", index, ("oid", "1.3.6.1.2.1.25.3.1.3"))
        put(f"{host}.3.2.1.3", index, ("str", device.processor))
    for index, p in enumerate(sorted(device.packages.values(), key=lambda p: p.name), start=1):
        put(f"{host}.6.3.1.2", index, ("str", f"{p.name}-{p.version}"))
