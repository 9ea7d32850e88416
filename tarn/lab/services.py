"""Two services the company asks about its devices: a maker's warranties by serial number, and its own service desk."""

import datetime as dt
import time
from typing import Any

from aiohttp import web

from tarn.lab.fleet import TRUST
from tarn.lab.model import Device
from tarn.lab.parts import MAKERS, digest

WARRANTIES, DESK = "10.60.4.65", "10.60.4.66"
WARRANTY_KEY, DESK_TOKEN = "halberd-care-9b31", "slipway-desk-5d20"
MAKER = "halberd"
MOST, CALLS, WINDOW = 20, 4, 1.0
"""Serial numbers a call may ask for; calls it answers in a window of so many seconds before it asks to wait."""

_TROUBLES = (
    "Does not start after the night", "Screen stays dark", "Fan is loud", "Loses the network every hour",
    "Battery lasts an hour", "Paper jams", "Keys stick", "Very slow since the update",
)  # fmt: skip


def warranties(devices: list[Device], now: dt.datetime) -> dict[str, list[dict[str, Any]]]:
    """Return by serial number the coverages the maker knows: some extended, some over, a few it never heard of."""
    out = {}
    for d in devices:
        if d.place == TRUST or d.maker != MAKERS[MAKER][0] or digest(d.identity, "care") % 13 == 0:
            continue
        began = (now - dt.timedelta(days=200 + digest(d.identity, "bought") % 1_500)).date()
        years = 3 if digest(d.identity, "years") % 3 else 2
        told = [_coverage("Return to bench", began, years * 365, "collected within five days", "Call the bench desk")]
        if digest(d.identity, "extended") % 5 == 0:
            told.append(_coverage("On site", began, (years + 2) * 365, "next working day", "Open a case by serial"))
        out[d.serial] = told
    return out


def _coverage(name: str, began: dt.date, days: int, level: str, claim: str) -> dict[str, Any]:
    return {
        "name": name,
        "from": began.isoformat(),
        "to": (began + dt.timedelta(days=days - 1)).isoformat(),
        "level": level,
        "claim": claim,
    }


def warranty_service(known: dict[str, list[dict[str, Any]]], fails: int = 3) -> web.Application:
    """Serve POST /v1/warranties {"serials": […]} with a key in X-Care-Key; the call of number `fails` breaks down.

    It takes MOST serial numbers a call and CALLS calls a window, and asks to wait beyond (429 with Retry-After).
    """
    calls: list[float] = []
    answered = [0]

    async def ask(request: web.Request) -> web.Response:
        if request.headers.get("X-Care-Key") != WARRANTY_KEY:
            return web.json_response({"error": "the key is not known"}, status=401)
        now = time.monotonic()
        calls[:] = [at for at in calls if now - at < WINDOW]
        if len(calls) >= CALLS:
            return web.json_response({"error": "slower"}, status=429, headers={"Retry-After": "1"})
        calls.append(now)
        answered[0] += 1
        if answered[0] == fails:
            return web.json_response({"error": "the bench is closed"}, status=500)
        serials = (await request.json()).get("serials", [])
        if len(serials) > MOST:
            return web.json_response({"error": f"at most {MOST} serial numbers"}, status=400)
        results = [{"serial": s, "coverages": known.get(s, [])} for s in serials]
        return web.json_response({"results": results})

    app = web.Application()
    app.router.add_post("/v1/warranties", ask)
    return app


def tickets(devices: list[Device], now: dt.datetime) -> list[dict[str, Any]]:
    """Return the desk's tickets: some open, most over, one about a device nobody has."""
    out = []
    for d in devices:
        if d.place == TRUST or not d.serial or digest(d.identity, "ticket") % 6:
            continue
        for number in range(1 + (digest(d.identity, "again") % 4 == 0)):
            mark = digest(d.identity, "ticket", number)
            opened = now - dt.timedelta(days=2 + mark % 70, hours=mark % 9)
            out.append(
                {
                    "number": f"SD-{20_000 + mark % 70_000}",
                    "title": _TROUBLES[mark % len(_TROUBLES)],
                    "device": {"serial": d.serial},
                    "state": ("new", "waiting for parts", "resolved", "closed")[mark // 7 % 4],
                    "opened": opened.replace(microsecond=0).isoformat(),
                    "priority": ("low", "ordinary", "high")[mark // 3 % 3],
                }
            )
    out.append(
        {"number": "SD-19999", "title": "Nobody knows whose this is", "device": {"serial": "GONE-00001"}, "state": "new",
         "opened": now.replace(microsecond=0).isoformat(), "priority": "low"}
    )  # fmt: skip
    return sorted(out, key=lambda t: str(t["number"]))


def service_desk(rows: list[dict[str, Any]]) -> web.Application:
    """Serve GET /api/tickets?page&per_page and POST /api/tickets with a bearer token, and a page for each ticket."""

    async def listed(request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != f"Bearer {DESK_TOKEN}":
            return web.json_response({"error": "unauthorised"}, status=401)
        page, size = int(request.query.get("page", "1")), min(50, int(request.query.get("per_page", "25")))
        start = (page - 1) * size
        return web.json_response({"total": len(rows), "tickets": rows[start : start + size]})

    async def one(request: web.Request) -> web.Response:
        found = next((r for r in rows if r["number"] == request.match_info["number"]), None)
        if found is None:
            return web.Response(status=404)
        return web.Response(text=f"{found['number']}: {found['title']} ({found['state']})")

    async def taken(request: web.Request) -> web.Response:
        if request.headers.get("Authorization") != f"Bearer {DESK_TOKEN}":
            return web.json_response({"error": "unauthorised"}, status=401)
        told = await request.json()
        if not str(told.get("title", "")).strip():
            return web.json_response({"error": "a ticket needs a title"}, status=422)
        number = f"SD-{90_000 + len(rows)}"
        opened = dt.datetime.now(dt.UTC).replace(microsecond=0).isoformat()
        rows.append({"device": {}, **told, "number": number, "state": "new", "opened": opened, "priority": "ordinary"})
        return web.json_response({"number": number}, status=201)

    app = web.Application()
    app.router.add_get("/api/tickets", listed)
    app.router.add_post("/api/tickets", taken)
    app.router.add_get("/tickets/{number}", one)
    return app
