"""People and departments by SCIM 2.0 (RFC 7643 its schema, RFC 7644 its protocol)."""

from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Any

from tarn.collect.credentials import HttpCredential
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.inventory import Inventory, InventorySettings, at_path
from tarn.collect.sources.kind import CERTIFICATE, SourceKind, base
from tarn.core.mapping import MappingError
from tarn.core.people import Person

ENTERPRISE = "urn:ietf:params:scim:schemas:extension:enterprise:2.0:User"
"""The enterprise extension (RFC 7643, 4.3): department, manager, cost centre."""
COUNT = 100


@dataclass(frozen=True, slots=True)
class ScimSettings:
    """Where the service is: the address its resources lie below, such as https://people.example/scim/v2."""

    base: str
    certificate: str = ""
    """The pin of its key (`trust.py`), where no authority signed its certificate."""


async def read_people(
    route: Route, credential: HttpCredential | None, settings: ScimSettings
) -> AsyncIterator[Finding]:
    """Yield the service's people, page by page (RFC 7644, 3.4.2.4). Raises Problem."""
    asked = InventorySettings(
        base=settings.base,
        list="Users",
        items="Resources",
        key="id",
        fields={},
        format="scim+json",
        paging="offset",
        first=1,
        total="totalResults",
        page_parameter="startIndex",
        size_parameter="count",
        size=COUNT,
        certificate=settings.certificate,
    )
    async for user in Inventory(route, credential, asked).items():
        yield person_of(user)


def person_of(user: dict[str, Any]) -> Finding:
    """Return what a User resource (RFC 7643, 4.1) says of a person."""
    key = str(user.get("id") or "")
    formatted = at_path(user, "name.formatted")
    parts = [at_path(user, "name.givenName"), at_path(user, "name.familyName")]
    name = str(user.get("displayName") or formatted or " ".join(str(p) for p in parts if p) or "").strip()
    mails = [m for m in user.get("emails") or [] if isinstance(m, dict) and m.get("value")]
    mail = next((m for m in mails if m.get("primary")), mails[0] if mails else {})
    groups = tuple(str(g.get("display") or g.get("value")) for g in user.get("groups") or [] if isinstance(g, dict))
    extended = user.get(ENTERPRISE)
    department = str(extended.get("department") or "") if isinstance(extended, dict) else ""
    faults = []
    if not key:
        faults.append(MappingError("key", "A person without an id."))
    if not name:
        faults.append(MappingError("name", f"The person “{key}” has no name."))
    person = Person(
        key=key[:300],
        name=name[:300],
        email=str(mail.get("value") or "")[:300],
        department=department[:300],
        title=str(user.get("title") or "")[:300],
        active=user.get("active") is not False,
        groups=groups,
        account=str(user.get("userName") or "").partition("@")[0][:300],
    )
    return Finding(key, name or key, [], faults, person=person if not faults else None)


KINDS = (
    SourceKind(
        "people",
        "scim",
        "the company's people, over SCIM 2.0",
        ScimSettings,
        (base("Address of the service (SCIM 2.0)"), CERTIFICATE),
        lambda settings, asking: read_people(asking.route, asking.credential, settings),
        HttpCredential,
        "http",
    ),
)
