"""What the world writes of the lab's vulnerabilities on a day: in the open formats, dated as they would be."""

import datetime as dt
import gzip
import json
from typing import Any

from tarn.lab.parts import digest, uuid
from tarn.lab.weaknesses import HARM, Weakness, as_of, weaknesses

DISTRIBUTIONS = {"tallow": "Tallow Linux:8", "gannet": "Gannet Linux:4"}
Made = tuple[str, dict[str, Any], dt.datetime]
"""A document: its path in the mirror, its content, when it was last changed."""


SUPPORTED = (
    ("Storekeeper", "Callow Marine", "2.9", 382),
    ("Ostler Client", "Ostler", "5.1", 352),
    ("Crewroster", "Callow Marine", "4.0", 430),
    ("Lookout 2 firmware", "Brightwire", "", 466),
    ("GP1500", "Gannet Power", "", 700),
    ("Quill Office", "Northquill", "16.0", 455),
)
"""What makers support, in which versions (none: all), and until which of the lab's days."""


class World:
    """The documents of a day. `today` is the moment of the lab's day `day`."""

    def __init__(self, day: int, today: dt.datetime) -> None:
        self.day, self._today = day, today.replace(hour=6, minute=0, second=0, microsecond=0)

    def at(self, day: int) -> dt.datetime:
        """Return the moment of a day on which documents come out."""
        return self._today + dt.timedelta(days=day - self.day)

    def _iso(self, day: int) -> str:
        return self.at(day).strftime("%Y-%m-%dT%H:%M:%SZ")

    def files(self) -> list[Made]:
        """Return the documents of the directory: records, notices, makers' advisories and what they say of VEX."""
        out: list[Made] = []
        for one in weaknesses():
            if one.day > self.day:
                continue
            told = as_of(one, self.day)
            changed = max(d for d in (one.day, one.cure_day, one.withdrawn or 0) if d <= self.day)
            if one.form == "record":
                out.append((f"cve/{one.id}.json", self._record(told, changed), self.at(changed)))
            elif one.form == "notice":
                out.append((f"osv/{one.notice}.json", self._notice(told, changed), self.at(changed)))
            elif one.form == "maker":
                out.append((f"csaf/{one.id.lower()}.json", self._maker(told, changed), self.at(changed)))
            if one.spared is not None and one.spared <= self.day:
                out.append((f"vex/{one.id.lower()}.json", self._spared(one), self.at(one.spared)))
        return out

    def configurations(self) -> list[tuple[dict[str, Any], dt.datetime]]:
        """Return the vulnerabilities of the register that gives pages, by when they were last changed."""
        out = []
        for one in weaknesses():
            if one.form == "configuration" and one.day <= self.day:
                changed = max(d for d in (one.day, one.cure_day) if d <= self.day)
                out.append((self._configuration(as_of(one, self.day), changed), self.at(changed)))
        return sorted(out, key=lambda c: c[1])

    def chances(self) -> bytes:
        """Return the day's chances of use, packed."""
        lines = [
            f"#model_version:v2026.01.01,score_date:{self.at(self.day):%Y-%m-%dT00:00:00+0000}",
            "cve,epss,percentile",
        ]
        told = {}
        for one in weaknesses():
            if one.day <= self.day:
                age = self.day - one.day
                chance = min(0.97, digest(one.id, "chance") % 1000 / 12_000 * (1 + age / 60))
                if one.used is not None:
                    chance = min(0.97, chance + 0.05 * max(0, self.day - one.used + 8))
                told[one.id] = round(chance, 5)
        order = sorted(told.values())
        lines += [f"{i},{c},{round(order.index(c) / max(1, len(order)), 5)}" for i, c in sorted(told.items())]
        return gzip.compress("\n".join(lines).encode(), mtime=0)

    def support(self) -> bytes:
        """Return until when makers support what they sell, as CSV; a day is told a year before it comes."""
        lines = ["product,maker,versions,ends,link"]
        for product, maker, versions, ends in SUPPORTED:
            if ends - 365 <= self.day:
                lines.append(f"{product},{maker},{versions},{self.at(ends).date().isoformat()},")
        return "\n".join(lines).encode()

    def used(self) -> dict[str, Any]:
        """Return the list of those in use."""
        listed = [
            {
                "cveID": one.id,
                "vendorProject": one.maker,
                "product": one.product,
                "dateAdded": self.at(one.used).date().isoformat(),
                "requiredAction": "Update to the release that carries the cure, or take the product out of use.",
            }
            for one in weaknesses()
            if one.used is not None and one.used <= self.day
        ]
        latest = max((one.used for one in weaknesses() if one.used is not None and one.used <= self.day), default=0)
        head = {
            "title": "Vulnerabilities in use",
            "catalogVersion": str(len(listed)),
            "dateReleased": self._iso(latest),
        }
        return {**head, "count": len(listed), "vulnerabilities": listed}

    def _record(self, one: Weakness, changed: int) -> dict[str, Any]:
        about = {"cveId": one.id, "assignerShortName": one.maker, "datePublished": self._iso(one.day)}
        if one.withdrawn is not None and one.withdrawn <= self.day:
            reasons = [{"lang": "en", "value": "It is none: the maker could not find it again."}]
            about |= {"state": "REJECTED", "dateRejected": self._iso(one.withdrawn), "dateUpdated": self._iso(changed)}
            cna: dict[str, Any] = {"providerMetadata": {"orgId": uuid(one.maker)}, "rejectedReasons": reasons}
        else:
            about |= {"state": "PUBLISHED", "dateUpdated": self._iso(changed)}
            versions = [_version(low, high) for low, high in one.ranges]
            cna = {
                "providerMetadata": {"orgId": uuid(one.maker), "shortName": one.maker},
                "title": f"{_title(one.product)}: {HARM[one.harm][0]}",
                "descriptions": [{"lang": "en", "value": _text(one)}],
                "affected": [
                    {
                        "vendor": one.maker,
                        "product": _title(one.product),
                        "defaultStatus": "unaffected",
                        "versions": versions,
                    }
                ],
                "metrics": [{_metric(one): {"vectorString": HARM[one.harm][1]}}],
                "references": [{"url": f"https://{_host(one.maker)}/notices/{one.id}"}],
            }
        return {"dataType": "CVE_RECORD", "dataVersion": "5.1", "cveMetadata": about, "containers": {"cna": cna}}

    def _notice(self, one: Weakness, changed: int) -> dict[str, Any]:
        """A distribution's notice; it names the release that carries the cure back once that is out."""
        affected = []
        for name in one.distributions:
            for low, high in one.ranges:
                events = [{"introduced": low or "0"}, *([{"fixed": high}] if high else [])]
                affected.append(
                    {
                        "package": {
                            "ecosystem": DISTRIBUTIONS[name],
                            "name": one.package,
                            "purl": f"pkg:deb/{name}/{one.package}",
                        },
                        "ranges": [{"type": "ECOSYSTEM", "events": events}],
                    }
                )
        vector = HARM[one.harm][1]
        gone = (
            {"withdrawn": self._iso(one.withdrawn)} if one.withdrawn is not None and one.withdrawn <= self.day else {}
        )
        return {
            "schema_version": "1.6.0",
            "id": one.notice,
            "published": self._iso(one.day),
            "modified": self._iso(changed),
            **gone,
            "aliases": [one.id],
            "summary": f"{one.package}: {HARM[one.harm][0]}",
            "details": _text(one),
            "severity": [{"type": "CVSS_V4" if vector.startswith("CVSS:4") else "CVSS_V3", "score": vector}],
            "affected": affected,
            "references": [{"type": "ADVISORY", "url": f"https://tallow.example/notices/{one.notice}"}],
        }

    def _maker(self, one: Weakness, changed: int) -> dict[str, Any]:
        """A maker's advisory; firmware is told by its CPE name, products by their place in the tree."""
        leaves = []
        for n, (low, high) in enumerate(one.ranges):
            told = "|".join(p for p in (f">={low}" if low else "", f"<{high}" if high else "") if p) or "*"
            leaves.append(_leaf(one, "product_version_range", f"vers:generic/{told}", f"R{n}"))
        cures = [high for _, high in one.ranges if high]
        leaves += [_leaf(one, "product_version", cure, f"F{n}") for n, cure in enumerate(cures)]
        status: dict[str, list[str]] = {"known_affected": [f"R{n}" for n in range(len(one.ranges))]}
        if cures:
            status["fixed"] = [f"F{n}" for n in range(len(cures))]
        restart = {"restart_required": {"category": "system"}} if one.sort == "firmware" else {}
        cure = f"Update to {cures[-1]} or later." if cures else ""
        fix = {"category": "vendor_fix", "details": cure, "product_ids": ["R0"], **restart}
        wait = {
            "category": "none_available",
            "details": "A release with the cure is being made.",
            "product_ids": ["R0"],
        }
        key = "cvss_v3" if not HARM[one.harm][1].startswith("CVSS:4") else None
        return {
            "document": {
                "category": "csaf_security_advisory",
                "csaf_version": "2.0",
                "publisher": {"category": "vendor", "name": one.maker, "namespace": f"https://{_host(one.maker)}"},
                "title": f"{_title(one.product)}: {HARM[one.harm][0]}",
                "tracking": {
                    "id": f"{one.maker.split()[0][:3].upper()}-{one.id[-6:]}",
                    "status": "final",
                    "version": str(1 + (changed > one.day)),
                    "initial_release_date": self._iso(one.day),
                    "current_release_date": self._iso(changed),
                },
            },
            "product_tree": {
                "branches": [
                    {
                        "category": "vendor",
                        "name": one.maker,
                        "branches": [{"category": "product_name", "name": _title(one.product), "branches": leaves}],
                    }
                ]
            },
            "vulnerabilities": [
                {
                    "cve": one.id,
                    "notes": [{"category": "description", "text": _text(one)}],
                    "product_status": status,
                    "remediations": [fix if cures else wait],
                    "scores": [{"products": ["R0"], key: {"vectorString": HARM[one.harm][1]}}] if key else [],
                }
            ],
        }

    def _configuration(self, one: Weakness, changed: int) -> dict[str, Any]:
        part = "o" if one.sort == "firmware" else "a"
        name = f"cpe:2.3:{part}:{_cpe(one.told_as or one.maker)}:{_cpe(_title(one.product))}:*:*:*:*:*:*:*:*"
        matches = []
        for low, high in one.ranges:
            ends = {"versionStartIncluding": low, "versionEndExcluding": high}
            matches.append(
                {
                    "vulnerable": True,
                    "criteria": name,
                    "matchCriteriaId": uuid(name, low),
                    **{k: v for k, v in ends.items() if v},
                }
            )
        configuration: dict[str, Any] = {"nodes": [{"operator": "OR", "negate": False, "cpeMatch": matches}]}
        if one.platform == "windows":
            there = [
                {
                    "vulnerable": False,
                    "criteria": f"cpe:2.3:o:microsoft:{system}:*:*:*:*:*:*:*:*",
                    "matchCriteriaId": uuid(system),
                }
                for system in ("windows_11", "windows_server_2022")
            ]
            configuration["nodes"].append({"operator": "OR", "negate": False, "cpeMatch": there})
            configuration["operator"] = "AND"
        metric = {"_": "cvssMetricV40" if HARM[one.harm][1].startswith("CVSS:4") else "cvssMetricV31"}["_"]
        scores = [
            {"source": "register@skua.example", "type": "Primary", "cvssData": {"vectorString": HARM[one.harm][1]}}
        ]
        return {
            "cve": {
                "id": one.id,
                "sourceIdentifier": "register@skua.example",
                "published": self.at(one.day).strftime("%Y-%m-%dT%H:%M:%S.000"),
                "lastModified": self.at(changed).strftime("%Y-%m-%dT%H:%M:%S.000"),
                "vulnStatus": "Analyzed",
                "descriptions": [{"lang": "en", "value": _text(one)}],
                "metrics": {metric: scores},
                "configurations": [configuration],
                "references": [{"url": f"https://{_host(one.maker)}/notices/{one.id}"}],
            }
        }

    def _spared(self, one: Weakness) -> dict[str, Any]:
        """The maker's word that its product is not affected."""
        product = f"cpe:2.3:a:{_cpe(one.maker)}:{_cpe(_title(one.product))}:*:*:*:*:*:*:*:*"
        return {
            "@context": "https://openvex.dev/ns/v0.2.0",
            "@id": f"https://{_host(one.maker)}/vex/{one.id}",
            "author": one.maker,
            "timestamp": self._iso(one.spared or 0),
            "version": 1,
            "statements": [
                {
                    "vulnerability": {"name": one.id},
                    "products": [{"@id": product, "identifiers": {"cpe23": product}}],
                    "status": "not_affected",
                    "justification": "vulnerable_code_not_present",
                    "impact_statement": "The feature is not built in.",
                }
            ],
        }


def _version(low: str, high: str) -> dict[str, str]:
    told = {"version": low or "0", "status": "affected", "versionType": "custom"}
    return {**told, "lessThan": high or "*"}


def _leaf(one: Weakness, category: str, name: str, id_: str) -> dict[str, Any]:
    product: dict[str, Any] = {"name": f"{_title(one.product)} {name}", "product_id": id_}
    if one.sort == "firmware":
        version = name if category == "product_version" else "*"
        cpe = f"cpe:2.3:o:{_cpe(one.maker)}:{_cpe(one.product)}:{version}:*:*:*:*:*:*:*"
        product["product_identification_helper"] = {"cpe": cpe}
    return {"category": category, "name": name, "product": product}


def _title(product: str) -> str:
    return product if " " in product else product.replace("-", " ").title()


def _text(one: Weakness) -> str:
    said = HARM[one.harm][0]
    return f"A made-up vulnerability in {_title(one.product)}, a made-up product of {one.maker}: {said}."


def _metric(one: Weakness) -> str:
    return "cvssV4_0" if HARM[one.harm][1].startswith("CVSS:4") else "cvssV3_1"


def _host(maker: str) -> str:
    return f"{maker.lower().replace(' ', '-')}.example"


def _cpe(text: str) -> str:
    return text.lower().replace(" ", "_")


def page(world: World, start: int, size: int, since: str = "") -> bytes:
    """Return a page of the register: those last changed after a moment, from one of them on."""
    listed = [
        told for told, changed in world.configurations() if not since or changed >= dt.datetime.fromisoformat(since)
    ]
    shown = listed[start : start + size]
    head = {"resultsPerPage": len(shown), "startIndex": start, "totalResults": len(listed)}
    return json.dumps({**head, "format": "NVD_CVE", "version": "2.0", "vulnerabilities": shown}).encode()
