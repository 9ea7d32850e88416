"""Documents of feeds for tests: small ones, whole by their standards, about invented products."""

from typing import Any

CVE, NOTICE = "CVE-2026-99041007", "SKA-118"
VECTOR = "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H"


def cve(id_: str = CVE, *versions: dict[str, Any], by: str = "Northquill", **more: Any) -> dict[str, Any]:
    """Return a CVE record about Quill Office; without versions it touches those below 16.1.1."""
    affected = {
        "vendor": "Northquill",
        "product": "Quill Office",
        "defaultStatus": "unaffected",
        "versions": list(versions)
        or [{"version": "0", "lessThan": "16.1.1", "status": "affected", "versionType": "semver"}],
        **more,
    }
    return {
        "dataType": "CVE_RECORD",
        "dataVersion": "5.1",
        "cveMetadata": {
            "cveId": id_,
            "state": "PUBLISHED",
            "assignerShortName": by,
            "datePublished": "2026-11-03T08:00:00Z",
            "dateUpdated": "2026-11-04T08:00:00Z",
        },
        "containers": {
            "cna": {
                "providerMetadata": {"orgId": "0", "shortName": by},
                "title": "A document may run commands",
                "descriptions": [{"lang": "en", "value": "A made-up vulnerability in a made-up product."}],
                "affected": [affected],
                "metrics": [{"cvssV3_1": {"vectorString": VECTOR}}],
                "references": [{"url": "https://northquill.example/notices/1"}],
            }
        },
    }


def rejected(id_: str = CVE) -> dict[str, Any]:
    """Return the record of a CVE that was rejected."""
    record = cve(id_)
    record["cveMetadata"] |= {"state": "REJECTED", "dateRejected": "2026-11-09T08:00:00Z"}
    record["containers"] = {
        "cna": {"providerMetadata": {"orgId": "0"}, "rejectedReasons": [{"lang": "en", "value": "It is none."}]}
    }
    return record


def match(criteria: str, vulnerable: bool = True, **ends: str) -> dict[str, Any]:
    """Return a CPE match of NVD; `criteria`: `a:maker:product:version`, the rest being any."""
    padded = criteria + ":*" * (11 - len(criteria.split(":")))
    return {"vulnerable": vulnerable, "criteria": f"cpe:2.3:{padded}", "matchCriteriaId": "0", **ends}


def nvd(id_: str, *configurations: dict[str, Any]) -> dict[str, Any]:
    """Return a vulnerability as a page of NVD lists it."""
    return {
        "cve": {
            "id": id_,
            "sourceIdentifier": "cna@northquill.example",
            "published": "2026-11-03T08:00:00.000",
            "lastModified": "2026-11-05T08:00:00.000",
            "vulnStatus": "Analyzed",
            "descriptions": [{"lang": "en", "value": "A made-up vulnerability."}],
            "metrics": {"cvssMetricV31": [{"source": "nvd", "type": "Primary", "cvssData": {"vectorString": VECTOR}}]},
            "weaknesses": [{"description": [{"lang": "en", "value": "CWE-287"}]}],
            "configurations": list(configurations),
        }
    }


def page(*listed: dict[str, Any]) -> dict[str, Any]:
    """Return a page of NVD's API."""
    head = {"resultsPerPage": len(listed), "startIndex": 0, "totalResults": len(listed)}
    return {**head, "format": "NVD_CVE", "version": "2.0", "vulnerabilities": list(listed)}


def osv(
    id_: str = NOTICE,
    package: dict[str, str] | None = None,
    events: list[dict[str, str]] | None = None,
    **more: Any,
) -> dict[str, Any]:
    """Return an advisory of OSV: a distribution's notice about its secure shell server."""
    return {
        "schema_version": "1.6.0",
        "id": id_,
        "modified": "2026-11-05T08:00:00Z",
        "published": "2026-11-04T08:00:00Z",
        "aliases": [CVE],
        "summary": "sign-in can be passed by",
        "affected": [
            {
                "package": package or {"ecosystem": "Tallow Linux:8", "name": "secure-shell-server"},
                "ranges": [
                    {"type": "ECOSYSTEM", "events": events or [{"introduced": "0"}, {"fixed": "9.2p1-5"}]},
                ],
            }
        ],
        **more,
    }


def csaf(vulnerability: dict[str, Any], version: dict[str, Any] | None = None, **document: Any) -> dict[str, Any]:
    """Return a CSAF advisory of Northquill whose product P1 is Quill Office, in the version or range given."""
    leaf = version or {"category": "product_version", "name": "16.1.0"}
    return {
        "document": {
            "category": "csaf_vex",
            "csaf_version": "2.0",
            "publisher": {"category": "vendor", "name": "Northquill", "namespace": "https://northquill.example"},
            "title": "Quill Office",
            "tracking": {
                "id": "NQ-2026-11",
                "status": "final",
                "version": "1",
                "initial_release_date": "2026-11-05T08:00:00Z",
                "current_release_date": "2026-11-06T08:00:00Z",
            },
            **document,
        },
        "product_tree": {
            "branches": [
                {
                    "category": "vendor",
                    "name": "Northquill",
                    "branches": [
                        {
                            "category": "product_name",
                            "name": "Quill Office",
                            "branches": [{**leaf, "product": {"name": "Quill Office", "product_id": "P1"}}],
                        }
                    ],
                }
            ]
        },
        "vulnerabilities": [{"cve": CVE, **vulnerability}],
    }


def openvex(status: str, product: str, **more: Any) -> dict[str, Any]:
    """Return an OpenVEX document with one statement."""
    statement = {"vulnerability": {"name": CVE}, "products": [{"@id": product}], "status": status, **more}
    return {
        "@context": "https://openvex.dev/ns/v0.2.0",
        "@id": "https://northquill.example/vex/1",
        "author": "Northquill",
        "timestamp": "2026-11-07T08:00:00Z",
        "version": 1,
        "statements": [statement],
    }


def bom(components: list[dict[str, Any]], vulnerabilities: list[dict[str, Any]] | None = None) -> dict[str, Any]:
    """Return a CycloneDX bill of materials of the Ostler client 5.1.0."""
    about = {
        "type": "application",
        "bom-ref": "client",
        "name": "ostler-client",
        "version": "5.1.0",
        "publisher": "Ostler",
    }
    return {
        "bomFormat": "CycloneDX",
        "specVersion": "1.6",
        "serialNumber": "urn:uuid:3e671687-395b-41f5-a30f-a58921a69b79",
        "version": 1,
        "metadata": {"timestamp": "2026-11-03T08:00:00Z", "component": about},
        "components": components,
        "vulnerabilities": vulnerabilities or [],
    }
