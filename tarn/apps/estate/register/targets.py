"""What a task needs to know of devices: platform, address, network, and how they list a product."""

from collections.abc import Iterable
from dataclasses import dataclass
from ipaddress import ip_interface
from typing import Any

from tarn.apps.estate.store.database import raw_connection
from tarn.core.tasks import Entry, Target


@dataclass(frozen=True)
class TaskCandidate:
    """A device, its place and whose it is, and what it is to a task."""

    asset: int
    number: str
    name: str
    organisation: str
    target: Target


def known(assets: Iterable[int], product: int | None = None) -> list[TaskCandidate]:
    """Return what is known now of these assets, by name; with a product, how each lists it."""
    db, marks = raw_connection(), ",".join(str(int(a)) for a in assets)
    if not marks:
        return []
    prefixes = {
        (a, address): prefix
        for a, address, prefix in db.execute(
            "SELECT asset_id, address, max(prefix) FROM estate_addressesspan "
            f"WHERE valid_to IS NULL AND asset_id IN ({marks}) GROUP BY 1, 2"
        )
    }
    entries = _entries(db, marks, product) if product is not None else {}
    cursor = db.execute(
        "SELECT s.asset_id, a.number, s.name, p.text, s.address, s.mac, o.text FROM estate_assetspan s "
        "JOIN estate_asset a ON a.id = s.asset_id LEFT JOIN estate_term p ON p.id = s.platform_id "
        f"LEFT JOIN estate_term o ON o.id = s.organisation_id WHERE s.valid_to IS NULL AND s.asset_id IN ({marks}) "
        "ORDER BY s.name_fold, s.asset_id"
    )
    return [
        TaskCandidate(
            asset,
            number,
            name or number,
            whose or "",
            Target(
                platform or "",
                address or "",
                mac or "",
                _broadcast(address, prefixes.get((asset, address))),
                tuple(entries.get(asset, ())),
            ),
        )
        for asset, number, name, platform, address, mac, whose in cursor
    ]


def product_name(number: int) -> str:
    """Return the name of a product by its number, empty where there is none."""
    found = raw_connection().execute("SELECT name FROM estate_product WHERE id = ?", [number]).fetchone()
    return str(found[0]) if found else ""


def product_number(name: str) -> int | None:
    """Return the number of a product by its name; None where there is none of this name."""
    found = raw_connection().execute("SELECT id FROM estate_product WHERE name = ?", [name]).fetchone()
    return int(found[0]) if found else None


def _broadcast(address: str | None, prefix: int | None) -> str:
    """Return the broadcast address of an address's network (RFC 919); none of IPv6, none of a point-to-point link."""
    if not address or not prefix or ":" in address or prefix > 30:
        return ""
    return str(ip_interface(f"{address}/{prefix}").network.broadcast_address)


def _entries(db: Any, marks: str, product: int) -> dict[int, list[Entry]]:
    listed = db.execute(
        "SELECT DISTINCT i.asset_id, l.name, r.version FROM estate_installspan i JOIN estate_listing l "
        "ON l.id = i.listing_id JOIN estate_release r ON r.id = i.release_id "
        f"WHERE i.valid_to IS NULL AND l.product_id = ? AND l.role != 'update' AND i.asset_id IN ({marks})",
        [product],
    ).fetchall()
    told: dict[tuple[int, str], list[tuple[str, str]]] = {}
    for asset, name, user, removes in db.execute(
        "SELECT asset_id, name, user, removes FROM estate_installsspan "
        f"WHERE valid_to IS NULL AND asset_id IN ({marks})"
    ):
        told.setdefault((asset, name), []).append((user or "", removes or ""))
    out: dict[int, list[Entry]] = {}
    for asset, name, version in listed:
        for user, removes in told.get((asset, name), [("", "")]):
            out.setdefault(asset, []).append(Entry(name, version, removes, user))
    return out


def read_since(assets: Iterable[int], section: str) -> dict[int, int]:
    """Return when each asset's section was last confirmed by what reads the machine itself."""
    marks = ",".join(str(int(a)) for a in assets)
    return dict(
        raw_connection().execute(
            "SELECT c.asset_id, max(c.confirmed) FROM estate_sectionstate c JOIN estate_source o ON o.id = c.source_id "
            f"WHERE c.section = ? AND c.complete AND o.kind IN ('sweep', 'reporter') AND c.asset_id IN ({marks or 0}) "
            "GROUP BY 1",
            [section],
        )
    )


def booted(assets: Iterable[int]) -> dict[int, int]:
    """Return when each asset last started, as its own reading says."""
    marks = ",".join(str(int(a)) for a in assets)
    return {
        asset: int(value)
        for asset, value in raw_connection().execute(
            "SELECT asset_id, max(CAST(value AS INTEGER)) FROM estate_fieldspan "
            f"WHERE valid_to IS NULL AND field = 'booted' AND value != 'null' AND asset_id IN ({marks or 0}) GROUP BY 1"
        )
    }
