"""Racks with what stands in them, and what the power of each device comes from."""

from collections import defaultdict
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import holds, reckoned
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import RackFeed, RackOut, RackSlot
from tarn.core.standing.racks import Slot, clashing, height_of, taken


def racks(asked: Question) -> list[RackOut]:
    """Return the racks a selection stands in, all of each; by place and name."""
    at, mine = asked.at, set(ids(asked))
    there, seeable = seen(at)
    stood = [row for row in _stood(at) if row[0] in seeable]
    known = plates((row[0] for row in stood), at)
    plugs = [e for asset in known for e in there.on.get(asset) if e.kind == "powered by"]
    sources = plates((e.on for e in plugs), at)
    feeds: dict[int, list[RackFeed]] = defaultdict(list)
    for plug in plugs:
        feeds[plug.stands].append({"asset": plug.on, "name": str(sources[plug.on]["name"]), "outlet": plug.over})
    by_rack: dict[tuple[str, str], list[Slot]] = defaultdict(list)
    for asset, rack, unit, height in stood:
        if asset in known:
            place = str(known[asset]["place"] or "")
            by_rack[place, str(rack)].append(Slot(asset, unit, int(height or 1)))
    out: list[RackOut] = []
    for (place, rack), slots in sorted(by_rack.items()):
        assets = {s.asset for s in slots}
        if not assets & mine:
            continue
        clash = clashing(slots)
        told_slots: list[RackSlot] = [
            {
                **end(s.asset, known),
                "unit": s.unit,
                "height": s.height,
                "feeds": sorted(feeds[s.asset], key=lambda f: (f["name"], f["outlet"])),
                "one_feed": len({f["asset"] for f in feeds[s.asset]}) == 1,
                "clash": s.asset in clash,
                "mine": s.asset in mine,
            }
            for s in sorted(slots, key=lambda s: (-(s.unit or 0), str(known[s.asset]["name"])))
        ]
        out.append(
            {
                "rack": rack,
                "place": place,
                "units": height_of(slots),
                "taken": taken(slots),
                "devices": counted(assets, known),
                "sources": sorted({f["name"] for s in told_slots for f in s["feeds"]}),
                "slots": told_slots,
            }
        )
    return out


def _stood(at: int | None) -> list[tuple[Any, ...]]:
    """Return asset, rack, lowest unit and height of what is said to stand in one, as of a moment."""
    then = holds("s", at)
    said = ", ".join(reckoned(f"claim.{name}", at) for name in ("rack", "rack_unit", "rack_height"))
    rows = raw_connection().execute(
        f"SELECT s.asset_id, {said} FROM estate_assetspan s WHERE {then.text} "
        "AND s.asset_id IN (SELECT f.asset_id FROM estate_fieldspan f WHERE f.field = 'rack')",
        then.values,
    )
    return [row for row in rows if row[1]]
