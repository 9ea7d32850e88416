"""Software of a device from a bill of materials (CycloneDX 1.4 and later, JSON; ECMA-424)."""

import json
from typing import Any, Literal

from tarn.core.items import Package
from tarn.core.sections import Identity
from tarn.core.sightings import make_reading


class SbomError(ValueError):
    """A document that is no CycloneDX bill of materials; the message says why."""


def read_sbom(document: bytes, *, number: str) -> list[Any]:
    """Return the readings of a bill of materials as those of the asset `number`. Raises SbomError."""
    try:
        held = json.loads(document)
    except ValueError as error:
        raise SbomError(f"This is no JSON: {error}.") from None
    if not isinstance(held, dict) or held.get("bomFormat") != "CycloneDX":
        raise SbomError("This is no CycloneDX document: bomFormat does not say so.")
    found: dict[tuple[str, str], Package] = {}
    for place, part in enumerate(held.get("components") or []):
        if not isinstance(part, dict) or not str(part.get("name") or "").strip():
            raise SbomError(f"components[{place}] has no name.")
        group = f"{part['group']}/" if part.get("group") else ""
        supplier = part.get("supplier") or {}
        publisher = part.get("publisher") or (supplier.get("name") if isinstance(supplier, dict) else "") or ""
        package = Package(
            name=f"{group}{part['name']}"[:300],
            version=str(part.get("version") or ""),
            publisher=str(publisher),
            system=_system(part.get("purl")),
        )
        found[package.name, package.version] = package
    packages = [found[k] for k in sorted(found)]
    return [
        make_reading("identity", Identity(tarn=number), "sbom", complete=False),
        make_reading("packages", packages, "sbom"),
    ]


def _system(purl: Any) -> Literal["", "deb", "rpm"]:
    """Return the system of packages that a component's package URL (purl) names by its type."""
    kind = str(purl or "").removeprefix("pkg:").partition("/")[0].lower()
    return "deb" if kind == "deb" else "rpm" if kind == "rpm" else ""
