"""What is told outward: how what is here stands (VEX) in CycloneDX, CSAF and OpenVEX, and bills of materials."""

import json
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from uuid import UUID

from cyclonedx.model.bom import Bom
from cyclonedx.model.component import Component, ComponentType
from cyclonedx.model.contact import OrganizationalEntity
from cyclonedx.model.impact_analysis import ImpactAnalysisJustification, ImpactAnalysisState
from cyclonedx.model.vulnerability import BomTarget, Vulnerability, VulnerabilityAnalysis
from cyclonedx.output.json import JsonV1Dot6
from packageurl import PackageURL

from tarn.core.exposure.cpe import quoted
from tarn.core.exposure.told import Status


@dataclass(frozen=True, slots=True)
class BomPart:
    """A release that is here: `package` of a distribution ("deb", "rpm" by `order`), else a product of a maker."""

    product: str
    maker: str
    version: str
    part: str = "a"
    package: str = ""
    order: str = ""
    distribution: str = ""
    release: str = ""

    @property
    def purl(self) -> PackageURL | None:
        """Its package URL, where it is a package of a distribution."""
        if not self.package or not self.order:
            return None
        distro = {"distro": f"{self.distribution}-{self.release}"} if self.distribution else None
        return PackageURL(self.order, self.distribution or None, self.package, self.version or None, distro)

    @property
    def cpe(self) -> str:
        """Its name as CPE 2.3."""
        told = (self.part, quoted(self.maker), quoted(self.product), quoted(self.version))
        return "cpe:2.3:" + ":".join(told) + ":*" * 7

    @property
    def ref(self) -> str:
        """What it is called within a document."""
        return str(self.purl) if self.purl else self.cpe


@dataclass(frozen=True, slots=True)
class VexRow:
    """How a release stands to a vulnerability, and why, in words."""

    vulnerability: str
    aliases: tuple[str, ...]
    part: BomPart
    status: Status
    justification: str
    because: str
    cure: str = ""


def bill_of_materials(name: str, parts: Iterable[BomPart], serial: UUID, at: int, by: str) -> str:
    """Return a bill of materials of a device, set or product called `name`, as CycloneDX 1.6 JSON."""
    return _written(_bom(name, parts, serial, at, by))


def _bom(name: str, parts: Iterable[BomPart], serial: UUID, at: int, by: str) -> Bom:
    bom = Bom(serial_number=serial, components=[_component(p) for p in dict.fromkeys(parts)])
    bom.metadata.timestamp = datetime.fromtimestamp(at, UTC)
    bom.metadata.component = Component(name=name, type=ComponentType.DEVICE, bom_ref="whole")
    bom.metadata.supplier = OrganizationalEntity(name=by)
    return bom


def _written(bom: Bom) -> str:
    bom.register_dependency(bom.metadata.component, bom.components)  # type: ignore[arg-type]
    return JsonV1Dot6(bom).output_as_string(indent=1)


_TYPES = {"a": ComponentType.APPLICATION, "o": ComponentType.OPERATING_SYSTEM, "h": ComponentType.DEVICE}


def _component(part: BomPart) -> Component:
    return Component(
        name=part.package or part.product,
        type=_TYPES[part.part],
        version=part.version or None,
        publisher=part.maker or None,
        purl=part.purl,
        cpe=part.cpe,
        bom_ref=part.ref,
    )


_STATES: dict[Status, ImpactAnalysisState] = {
    "affected": ImpactAnalysisState.EXPLOITABLE,
    "fixed": ImpactAnalysisState.RESOLVED,
    "not affected": ImpactAnalysisState.NOT_AFFECTED,
    "under investigation": ImpactAnalysisState.IN_TRIAGE,
}
_JUSTIFIED = {
    "component_not_present": ImpactAnalysisJustification.CODE_NOT_PRESENT,
    "vulnerable_code_not_present": ImpactAnalysisJustification.CODE_NOT_PRESENT,
    "vulnerable_code_not_in_execute_path": ImpactAnalysisJustification.CODE_NOT_REACHABLE,
    "vulnerable_code_cannot_be_controlled_by_adversary": ImpactAnalysisJustification.PROTECTED_BY_MITIGATING_CONTROL,
    "inline_mitigations_already_exist": ImpactAnalysisJustification.PROTECTED_BY_MITIGATING_CONTROL,
}


def _cyclonedx(rows: Sequence[VexRow], serial: UUID, at: int, by: str) -> str:
    bom = _bom("what is here", (r.part for r in rows), serial, at, by)
    for row in rows:
        analysis = VulnerabilityAnalysis(
            state=_STATES[row.status], justification=_JUSTIFIED.get(row.justification), detail=row.because
        )
        bom.vulnerabilities.add(
            Vulnerability(
                bom_ref=f"{row.vulnerability} {row.part.ref}",
                id=row.vulnerability,
                analysis=analysis,
                recommendation=f"Update to {row.cure} or later." if row.cure and row.status == "affected" else None,
                affects=[BomTarget(ref=row.part.ref)],
            )
        )
    return _written(bom)


def _action(row: VexRow) -> str:
    return f"Update to {row.cure} or later." if row.cure else "No release carries the cure yet."


def _time(at: int) -> str:
    return datetime.fromtimestamp(at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _openvex(rows: Sequence[VexRow], serial: UUID, at: int, by: str) -> str:
    statements = []
    for row in rows:
        identifiers = {"cpe23": row.part.cpe, **({"purl": str(row.part.purl)} if row.part.purl else {})}
        told: dict[str, Any] = {
            "vulnerability": {"name": row.vulnerability, "aliases": list(row.aliases)},
            "products": [{"@id": row.part.ref, "identifiers": identifiers}],
            "status": row.status.replace(" ", "_"),
            "status_notes": row.because,
        }
        if row.status == "not affected":
            told["justification"] = row.justification or "vulnerable_code_not_present"
        if row.status == "affected":
            told["action_statement"] = _action(row)
        statements.append(told)
    head = {"@context": "https://openvex.dev/ns/v0.2.0", "@id": f"urn:uuid:{serial}", "author": by}
    return json.dumps({**head, "timestamp": _time(at), "version": 1, "statements": statements}, indent=1)


_CSAF: dict[Status, str] = {
    "affected": "known_affected",
    "fixed": "fixed",
    "not affected": "known_not_affected",
    "under investigation": "under_investigation",
}


def _csaf(rows: Sequence[VexRow], serial: UUID, at: int, by: str) -> str:
    """The VEX profile of CSAF 2.0 (section 4.5)."""
    parts = list(dict.fromkeys(r.part for r in rows))
    number = {part: f"P{n}" for n, part in enumerate(parts, start=1)}
    names = []
    for part in parts:
        helper = {"cpe": part.cpe, **({"purl": str(part.purl)} if part.purl else {})}
        named = f"{part.maker} {part.package or part.product} {part.version}".strip()
        names.append({"name": named, "product_id": number[part], "product_identification_helper": helper})
    vulnerabilities = []
    for name in dict.fromkeys(r.vulnerability for r in rows):
        mine = [r for r in rows if r.vulnerability == name]
        status: dict[str, list[str]] = {}
        for row in mine:
            status.setdefault(_CSAF[row.status], []).append(number[row.part])
        flags = [
            {"label": r.justification or "vulnerable_code_not_present", "product_ids": [number[r.part]]}
            for r in mine
            if r.status == "not affected"
        ]
        fixes = [
            {
                "category": "vendor_fix" if r.cure else "none_available",
                "details": _action(r),
                "product_ids": [number[r.part]],
            }
            for r in mine
            if r.status == "affected"
        ]
        notes = [{"category": "description", "text": "; ".join(dict.fromkeys(r.because for r in mine))[:2000]}]
        named_by = {"cve": name} if name.startswith("CVE-") else {"ids": [{"system_name": by, "text": name}]}
        told = {**named_by, "notes": notes, "product_status": status}
        vulnerabilities.append(
            {**told, **({"flags": flags} if flags else {}), **({"remediations": fixes} if fixes else {})}
        )
    tracking = {
        "id": str(serial),
        "status": "final",
        "version": "1",
        "initial_release_date": _time(at),
        "current_release_date": _time(at),
        "revision_history": [{"number": "1", "date": _time(at), "summary": "As it stands."}],
    }
    head = {
        "category": "csaf_vex",
        "csaf_version": "2.0",
        "publisher": {"category": "user", "name": by, "namespace": "https://tarn.example"},
        "title": "How what is here stands to what is known",
        "tracking": tracking,
    }
    body = {"document": head, "product_tree": {"full_product_names": names}, "vulnerabilities": vulnerabilities}
    return json.dumps(body, indent=1)


VEX: dict[str, Callable[[Sequence[VexRow], UUID, int, str], str]] = {
    "cyclonedx": _cyclonedx,
    "csaf": _csaf,
    "openvex": _openvex,
}
"""What writes VEX, by the name of its format."""
