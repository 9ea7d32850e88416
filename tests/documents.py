"""Sightings for tests, made short."""

from typing import Any

from tarn.core.sightings import Sighting, read_sighting

START = 1_790_000_000
DAY = 86_400


def reading(section: str, content: Any, collector: str = "ssh", **rest: Any) -> dict[str, Any]:
    """Return one reading as a document has it."""
    return {
        "section": section,
        "collector": collector,
        ("items" if isinstance(content, list) else "facts"): content,
        **rest,
    }


def sighting(
    name: str,
    day: float = 0,
    *,
    source: str = "night",
    kind: str = "sweep",
    id: str = "",
    address: str = "10.60.4.9",
    **sections: Any,
) -> Sighting:
    """Return a sighting of a host, `day` days after START; each section given as facts or items, or as a reading."""
    identity = {"name": name, **sections.pop("identity", {})}
    readings = [reading("identity", identity)]
    for section, content in sections.items():
        readings.append(content if isinstance(content, dict) and "section" in content else reading(section, content))
    return read_sighting(
        {
            "schema": "tarn.sighting/1",
            "id": id or f"{source}-{name}-{day}-{len(str(sections))}",
            "source": {"kind": kind, "name": source},
            "at": START + int(day * DAY),
            "address": address,
            "readings": readings,
        }
    )


def packages(**versions: str) -> list[dict[str, str]]:
    """Return packages by name and version."""
    return [{"name": n, "version": v} for n, v in versions.items()]
