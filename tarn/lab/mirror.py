"""A mirror of what the world writes of vulnerabilities: a directory with its list of changes, a register by pages, the
day's chances, the list of those in use, ends of support; asked over HTTP, by conditions and in parts (RFC 9110, 13 and 14)."""

import csv
import datetime as dt
import hashlib
import io
import json

from aiohttp import web

from tarn.lab.advisories import World, page

ADDRESS, PORT = "10.60.4.67", 8080
MOST = 200
"""Vulnerabilities on a page at the most."""


def mirror(day: int, now: dt.datetime) -> web.Application:
    """Serve the documents of the lab's day."""
    world = World(day, now)
    files = {path: json.dumps(content).encode() for path, content, _ in world.files()}
    lines = io.StringIO()
    writer = csv.writer(lines, quoting=csv.QUOTE_ALL)
    for path, _, changed in sorted(world.files(), key=lambda f: f[2], reverse=True):
        writer.writerow([path, changed.isoformat()])
    files["changes.csv"] = lines.getvalue().encode()
    single = {"chances.csv.gz": world.chances(), "used.json": json.dumps(world.used()).encode()}
    single["support.csv"] = world.support()

    def answered(request: web.Request, body: bytes) -> web.Response:
        mark = f'"{hashlib.sha256(body).hexdigest()[:20]}"'
        if request.headers.get("If-None-Match") == mark:
            return web.Response(status=304, headers={"ETag": mark})
        asked = request.http_range.start
        if asked and request.headers.get("If-Range") == mark:
            headers = {"ETag": mark, "Content-Range": f"bytes {asked}-{len(body) - 1}/{len(body)}"}
            return web.Response(status=206, body=body[asked:], headers=headers)
        return web.Response(body=body, headers={"ETag": mark})

    async def directory(request: web.Request) -> web.Response:
        body = files.get(request.match_info["path"])
        return web.Response(status=404) if body is None else answered(request, body)

    async def alone(request: web.Request) -> web.Response:
        body = single.get(request.match_info["name"])
        return web.Response(status=404) if body is None else answered(request, body)

    async def register(request: web.Request) -> web.Response:
        start = int(request.query.get("startIndex", "0"))
        size = min(MOST, int(request.query.get("resultsPerPage", str(MOST))))
        body = page(world, start, size, request.query.get("lastModStartDate", ""))
        return web.Response(body=body, content_type="application/json")

    app = web.Application()
    app.router.add_get("/register/2.0", register)
    app.router.add_get("/advisories/{path:.+}", directory)
    app.router.add_get("/{name}", alone)
    return app
