"""What other systems know of the estate: each with its own blind spots and its errors of long standing.

A directory (LDAP), a device-management service (JSON, pages), an endpoint-management server (XML, offsets).
"""

import base64
import datetime as dt
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from aiohttp import web

from tarn.lab.fleet import TRUST
from tarn.lab.ldap import Entries
from tarn.lab.model import GIB, Device
from tarn.lab.names import DEPARTMENTS, PEOPLE
from tarn.lab.parts import digest, serial, uuid
from tarn.lab.people import has_left
from tarn.lab.powershell import listed_name

BASE = "dc=skerrivane,dc=example"
DIRECTORY, DEVICES, ENDPOINTS = "10.60.4.60", "10.60.4.61", "10.60.4.62"
BIND, BIND_PASSWORD = f"cn=tarn-reader,ou=services,{BASE}", "low-water-42"
DEVICES_TOKEN = "lanyard-4f2c9a"
ENDPOINTS_USER, ENDPOINTS_PASSWORD = "tarn", "breakwater-42"
_EPOCH = dt.datetime(1601, 1, 1, tzinfo=dt.UTC)


def _ago(now: dt.datetime, days: float) -> dt.datetime:
    return (now - dt.timedelta(days=days)).replace(microsecond=0)


def _file_time(at: dt.datetime) -> str:
    return str(int((at - _EPOCH).total_seconds()) * 10_000_000)


def joined(device: Device) -> bool:
    """Whether a computer belongs to the directory: Windows does, but for one in eleven that was re-imaged."""
    return device.family == "windows" and digest(device.identity, "joined") % 11 > 0


def directory_entries(devices: list[Device], now: dt.datetime) -> Entries:
    """Return the directory's entries: computers, some long gone, and people in their departments."""
    out: Entries = {}
    for d in devices:
        if d.place == TRUST or not joined(d):
            continue
        disabled = digest(d.identity, "disabled") % 29 == 0
        stamp = _ago(now, 40 if disabled else digest(d.identity, "sign-in") % 5 + 0.2)
        _computer(out, d.name, d.place, f"{d.os_name} {'2022 Standard' if 'Server' in d.os_name else '11 Pro'}", d.os_version,
                  0x1000 | (0x2 if disabled else 0), stamp, uuid("directory", d.identity))  # fmt: skip
    for i in range(1, 3):
        # Controllers and machines that left years ago: nobody tidied up.
        _computer(
            out,
            f"salt-dc-0{i}",
            "Saltholm",
            "Windows Server 2022 Standard",
            "10.0.20348",
            0x2000,
            _ago(now, 0.1),
            uuid("dc", i),
        )
    for i in range(1, 10):
        _computer(
            out,
            f"old-pc-{i:02d}",
            "Saltholm",
            "Windows 7 Professional",
            "6.1.7601",
            0x1000,
            _ago(now, 300 + 40 * i),
            uuid("old", i),
        )
    for number, person in enumerate(PEOPLE):
        department = DEPARTMENTS[number % len(DEPARTMENTS)]
        dn = f"cn={person},ou={department},ou=people,{BASE}"
        # Who has left is switched off here too, but for one that was forgotten.
        control = "514" if has_left(number) and number < 17 else "512"
        out[dn] = {"objectclass": ["top", "person", "user"], "cn": [person], "department": [department],
                   "useraccountcontrol": [control],
                   "samaccountname": [person.split()[0][0].lower() + person.split()[1].lower()]}  # fmt: skip
        if department == "IT" and number % 3 == 0:
            out[dn]["memberof"] = [f"cn=Harbour IT,ou=groups,{BASE}"]
    for group, within in (("Domain Admins", ()), ("Harbour IT", (f"cn=Domain Admins,ou=groups,{BASE}",))):
        out[f"cn={group},ou=groups,{BASE}"] = {
            "objectclass": ["top", "group"],
            "cn": [group],
            **({"memberof": [*within]} if within else {}),
        }
    return out


def _computer(
    out: Entries, name: str, place: str, system: str, version: str, control: int, at: dt.datetime, guid: str
) -> None:
    dn = f"cn={name},ou={place},ou=computers,{BASE}"
    out[dn] = {
        "objectclass": ["top", "person", "user", "computer"],
        "cn": [name],
        "dnshostname": [f"{name}.skerrivane.example"],
        "operatingsystem": [system],
        "operatingsystemversion": [version],
        "lastlogontimestamp": [_file_time(at)],
        "useraccountcontrol": [str(control)],
        "entryuuid": [guid],
    }


def managed_devices(devices: list[Device], now: dt.datetime) -> list[dict[str, Any]]:
    """Return what device management knows: what is carried, and laptops; phones under names of its own."""
    rows = []
    for d in devices:
        carried = d.kind in ("phone", "tablet", "scanner")
        if d.place == TRUST or (not carried and d.kind != "laptop"):
            continue
        if digest(d.identity, "enrolled") % 12 == 0:
            continue  # never enrolled
        first = d.person.split()[0] if d.person else "Shared"
        rows.append(
            {
                "id": f"lan-{digest(d.identity, 'lanyard') % 10**8:08d}",
                "deviceName": f"{first}'s {d.kind}" if d.kind == "phone" else d.name,
                "serialNumber": d.serial,
                "hardware": {
                    "maker": d.maker,
                    "model": d.model,
                    "wifiMac": d.interfaces[0].mac.upper().replace(":", "-"),
                },
                "os": {"name": d.os_name, "version": d.os_version},
                "kind": d.kind,
                "owner": {"displayName": d.person, "department": d.department},
                "lastCheckIn": _ago(now, digest(d.identity, "check-in") % 9).isoformat(),
                "encrypted": digest(d.identity, "encrypted") % 14 > 0,
                "passcode": digest(d.identity, "passcode") % 17 > 0,
                "supervised": d.kind != "laptop",
            }
        )
    return sorted(rows, key=lambda r: str(r["id"]))


def endpoints(devices: list[Device], now: dt.datetime) -> list[dict[str, Any]]:
    """Return what endpoint management knows: Windows computers as it last saw them, some long ago and some wrongly."""
    rows = []
    for d in devices:
        if d.family != "windows" or digest(d.identity, "agent") % 7 == 0 or d.place in ("Holm of Rusk", TRUST):
            continue
        memory = d.memory // (2 if digest(d.identity, "slip") % 9 == 0 else 1)
        rows.append(
            {
                "id": str(digest(d.identity, "endpoint") % 10**6),
                "name": d.name.upper(),
                "serial": d.serial,
                "uuid": d.uuid,
                "memory": memory // GIB * 1024,
                "os": f"{d.os_name} {d.os_version}",
                "user": d.person
                if digest(d.identity, "moved") % 8
                else PEOPLE[digest(d.identity, "other") % len(PEOPLE)],
                "site": d.place,
                "server": "salt-epm-01" if d.place == "Saltholm" else "avrn-epm-01",
                "seen": _ago(now, digest(d.identity, "seen") % 6),
                "software": [
                    (listed_name(d, p), p.version, p.publisher)
                    for p in sorted(d.packages.values(), key=lambda p: p.name)
                ],
            }
        )
    for i in (1, 2, 3):
        rows.append(
            {"id": str(990_000 + i), "name": f"STOCK-PC-{i:02d}", "serial": serial("halberd", "stock", i), "uuid": uuid("stock", i),
             "memory": 8192, "os": "Windows 10.0.19045", "user": "", "site": "Saltholm", "server": "salt-epm-01",
             "seen": _ago(now, 200), "software": []}
        )  # fmt: skip
    return sorted(rows, key=lambda r: int(r["id"]))


def device_management(rows: list[dict[str, Any]]) -> web.Application:
    """Serve device management: GET /api/v2/devices?page&per_page&changedSince with a bearer token."""

    async def listed(request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != f"Bearer {DEVICES_TOKEN}":
            return web.json_response({"error": "unauthorised"}, status=401)
        page, size = int(request.query.get("page", "1")), min(50, int(request.query.get("per_page", "25")))
        wanted = [r for r in rows if r["lastCheckIn"] > request.query.get("changedSince", "")]
        start = (page - 1) * size
        return web.json_response({"total": len(wanted), "devices": wanted[start : start + size]})

    app = web.Application()
    app.router.add_get("/api/v2/devices", listed)
    return app


def endpoint_management(rows: list[dict[str, Any]]) -> web.Application:
    """Serve endpoint management: GET /rest/computers?start&count and /rest/computers/{id}, XML, basic sign-in."""
    expected = "Basic " + base64.b64encode(f"{ENDPOINTS_USER}:{ENDPOINTS_PASSWORD}".encode()).decode()

    def xml(text: str) -> web.Response:
        return web.Response(text=f'<?xml version="1.0"?>{text}', content_type="application/xml")

    async def listed(request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != expected:
            return web.Response(status=401)
        start, count = int(request.query.get("start", "0")), int(request.query.get("count", "100"))
        shown = "".join(f'<computer id="{r["id"]}" name={quoteattr(r["name"])}/>' for r in rows[start : start + count])
        return xml(f'<computers total="{len(rows)}">{shown}</computers>')

    async def one(request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != expected:
            return web.Response(status=401)
        found = next((r for r in rows if r["id"] == request.match_info["id"]), None)
        if found is None:
            return web.Response(status=404)
        simple = "".join(
            f"<{k}>{escape(str(found[k]))}</{k}>" for k in ("serial", "uuid", "memory", "os", "user", "site", "server")
        )
        software = "".join(
            f"<program><title>{escape(n)}</title><release>{escape(v)}</release><by>{escape(b)}</by></program>"
            for n, v, b in found["software"]
        )
        return xml(
            f"<computer>{simple}<seen>{found['seen'].isoformat()}</seen><software>{software}</software></computer>"
        )

    app = web.Application()
    app.router.add_get("/rest/computers", listed)
    app.router.add_get("/rest/computers/{id}", one)
    return app
