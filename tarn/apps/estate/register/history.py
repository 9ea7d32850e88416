"""What changed, read from spans: installs, removals, updates, and every other fact that began or ended."""

from collections import Counter, defaultdict
from itertools import chain, pairwise
from typing import Any

from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import turned
from tarn.apps.estate.models import ITEM_MODELS
from tarn.apps.estate.register.device_changes import Key, Told, item_changes
from tarn.apps.estate.register.results import ChangeOut, RibbonDay
from tarn.apps.estate.store.database import raw_connection
from tarn.core.fields import FIELDS
from tarn.core.history import Edge, pair
from tarn.core.item import Section
from tarn.core.item_words import said
from tarn.core.items import SECTIONS

_QUIET = {"description", "object_id", "os_kernel", "mac", "uuid", "contact", "location"}
"""Fields whose change is told by another line or says little by itself."""


def history(asset: int, since: int, until: int, most: int = 400) -> list[ChangeOut]:
    """Return an asset's changes after `since` and up to `until`, the newest first.

    First readings are no changes. Each has when, the section, the thing, a verb, before and after.
    """
    lines = [*_software(asset, since, until), *_items(asset, since, until), *_facts(asset, since, until)]
    # ISO 8601 of one zone sorts as moments do; sorting is stable, so the later sort keeps the order of the earlier.
    lines.sort(key=lambda c: (c["section"], c["thing"]))
    lines.sort(key=lambda c: c["at"], reverse=True)
    return lines[:most]


def _readings(asset: int) -> list[int]:
    """Return the times of an asset's readings, ascending, for pairing what fell into two of them."""
    return [
        t
        for (t,) in raw_connection().execute(
            "SELECT DISTINCT at FROM estate_sighting WHERE asset_id = ? AND instr(head, '\"packages\"') ORDER BY at",
            (asset,),
        )
    ]


def _software(asset: int, since: int, until: int) -> list[ChangeOut]:
    edges = []
    rows = chain.from_iterable(
        raw_connection().execute(
            "SELECT iif(l.role = 'update', l.name, p.name), l.name, r.version, i.valid_from, i.valid_to, i.initial "
            "FROM estate_installspan i "
            "JOIN estate_listing l ON l.id = i.listing_id JOIN estate_product p ON p.id = l.product_id "
            f"JOIN estate_release r ON r.id = i.release_id WHERE i.asset_id = ? AND {part.text}",
            [asset, *part.values],
        )
        for part in turned("i", since)
    )
    for name, listed, version, begun, ended, initial in rows:
        if not initial and since < begun <= until:
            edges.append(Edge(asset, name, version, begun, True, listed))
        if ended is not None and since < ended <= until:
            edges.append(Edge(asset, name, version, ended, False, listed))
    changes = pair(sorted(set(edges), key=lambda e: e.at), {asset: _readings(asset)})
    return [
        {"at": iso(c.at), "section": "software", "thing": c.thing, "verb": c.verb, "before": c.before, "after": c.after}
        for c in changes
    ]


def _items(asset: int, since: int, until: int) -> list[ChangeOut]:
    return [
        _line(SECTIONS[name], at, key, before, after)
        for name in ITEM_MODELS
        if SECTIONS[name].news
        for _, at, key, before, after in item_changes(name, since, until, asset)
    ]


def _line(section: Section, at: int, key: Key, before: Told | None, after: Told | None) -> ChangeOut:
    """Return one line for an item; of a changed one only what differs is told."""

    def told(one: Told | None, other: Told | None) -> str | None:
        if one is None or other is None:
            return None
        return ", ".join(f"{n.replace('_', ' ')} {said(known[n], v)}" for n, v in one.items() if v != other[n])

    known = section.attributes
    # What is shown to few stands in no line.
    thing = " ".join(str(k) for name, k in zip(section.key, key, strict=True) if not known[name].secret)
    if section.known_by and (held := (after or before or {})[section.known_by]):
        thing = str(held)
    return {
        "at": iso(at),
        "section": section.name,
        "thing": thing,
        "verb": "added" if before is None else "removed" if after is None else "changed",
        "before": told(before, after),
        "after": told(after, before),
    }


def _facts(asset: int, since: int, until: int) -> list[ChangeOut]:
    """Changes of what was held to be true; the first span is a beginning, not a change."""
    columns = {f.name: f.stored for f in FIELDS.values() if f.stored.startswith(("span.", "term."))}
    picked = []
    for name, stored in columns.items():
        home, _, column = stored.partition(".")
        source = f"s.{column}" if home == "span" else f"(SELECT text FROM estate_term t WHERE t.id = s.{column}_id)"
        picked.append(f'{source} AS "{name}"')
    rows = (
        raw_connection()
        .execute(
            f"SELECT s.valid_from, {', '.join(picked)} FROM estate_assetspan s WHERE s.asset_id = ? "
            "AND s.valid_from <= ? ORDER BY s.valid_from",
            (asset, until),
        )
        .fetchall()
    )
    out: list[ChangeOut] = []
    names = list(columns)
    for earlier, later in pairwise(rows):
        if later[0] <= since:
            continue
        for position, name in enumerate(names, start=1):
            before, after = earlier[position], later[position]
            if before == after or name in _QUIET:
                continue
            verb = "renamed" if name == "name" else "changed" if before is not None and after is not None else "added"
            if after is None:
                verb = "removed"
            out.append(
                {
                    "at": iso(later[0]),
                    "section": "facts",
                    "thing": FIELDS[name].heading,
                    "verb": verb,
                    "before": _shown(name, before),
                    "after": _shown(name, after),
                }
            )
    return out


def _shown(name: str, value: Any) -> str | None:
    if value is None:
        return None
    if FIELDS[name].type == "memory":
        return f"{value / 2**30:.3g} GB"
    return str(value)


def ribbon(asset: int, since: int, until: int, zone: Any) -> list[RibbonDay]:
    """Return a day's number of changes by what they touched, for the ribbon over the dossier."""
    from datetime import datetime

    days: dict[str, Counter[str]] = defaultdict(Counter)
    for line in history(asset, since, until, most=100_000):
        if line["section"] == "signins" or line["thing"] == "Last signed in":
            continue  # they come every day and would drown the rest
        day = datetime.fromisoformat(line["at"]).astimezone(zone).date().isoformat()
        group = "software" if line["section"] == "software" else "facts" if line["section"] == "facts" else "hardware"
        days[day][group] += 1
    return [
        {"day": day, "software": n["software"], "hardware": n["hardware"], "facts": n["facts"]}
        for day, n in sorted(days.items())
    ]
