"""The ferry company's people, joiners and leavers, as its personnel system tells of them by SCIM 2.0 (RFC 7643, 7644)."""

from typing import Any

from aiohttp import web

from tarn.lab.names import DEPARTMENTS, PEOPLE
from tarn.lab.parts import digest, uuid

ADDRESS = "10.60.4.63"
TOKEN = "keel-roll-77c1"
MOST = 50
"""Resources of one page at the most, whatever was asked for."""
NUMBER = 160
_TITLES = ("Mate", "Clerk", "Engineer", "Purser", "Fitter", "Planner", "Supervisor", "Steward")
_ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"


def people() -> list[dict[str, Any]]:
    """Return everyone: those who hold devices, and more; some have left."""
    firsts = sorted({p.split()[0] for p in PEOPLE})
    lasts = sorted({p.split()[1] for p in PEOPLE})
    names = list(PEOPLE)
    number = 0
    while len(names) < NUMBER:
        name = f"{firsts[digest('first', number) % len(firsts)]} {lasts[digest('last', number) % len(lasts)]}"
        number += 1
        if name not in names:
            names.append(name)
    return [_person(name, n) for n, name in enumerate(names)]


def has_left(number: int) -> bool:
    """Whether the person of a number has left the company."""
    return number % 17 == 13


def _person(name: str, number: int) -> dict[str, Any]:
    first, last = name.split()
    return {
        "schemas": ["urn:ietf:params:scim:schemas:core:2.0:User", _ENTERPRISE],
        "id": uuid("person", name),
        "userName": f"{first[0]}{last}".lower(),
        "name": {"givenName": first, "familyName": last, "formatted": name},
        "title": _TITLES[digest("title", name) % len(_TITLES)],
        "emails": [{"value": f"{first}.{last}@skerrivane.example".lower(), "primary": True, "type": "work"}],
        "active": not has_left(number),
        _ENTERPRISE: {"department": DEPARTMENTS[number % len(DEPARTMENTS)], "employeeNumber": f"{4000 + number}"},
    }


def personnel() -> web.Application:
    """Serve /scim/v2/Users with a bearer token, MOST resources a page."""
    everyone = people()

    async def users(request: web.Request) -> web.Response:
        kind = "application/scim+json"
        if request.headers.get("Authorization") != f"Bearer {TOKEN}":
            body = {"schemas": ["urn:ietf:params:scim:api:messages:2.0:Error"], "status": "401"}
            return web.json_response(body, status=401, content_type=kind)
        start = max(1, int(request.query.get("startIndex", "1")))
        count = min(MOST, int(request.query.get("count", "100")))
        page = everyone[start - 1 : start - 1 + count]
        body = {
            "schemas": ["urn:ietf:params:scim:api:messages:2.0:ListResponse"],
            "totalResults": len(everyone),
            "startIndex": start,
            "itemsPerPage": len(page),
            "Resources": page,
        }
        return web.json_response(body, content_type=kind)

    app = web.Application()
    app.router.add_get("/scim/v2/Users", users)
    return app
