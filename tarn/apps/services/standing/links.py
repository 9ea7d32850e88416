"""Which port of which switch leads where: what neighbours tell of each other, and where addresses were learnt."""

from dataclasses import dataclass

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.services.results import LinkOut
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.neighbours import neighbours
from tarn.apps.services.standing.plates import plates
from tarn.core.standing.ports import spoken

BY_NEIGHBOUR = "neighbours tell (LLDP)"


@dataclass(frozen=True, slots=True)
class _Link:
    switch: int
    port: str
    device: int
    device_port: str
    since: int
    by: tuple[int, ...]
    how: str


def links(asked: Question) -> list[LinkOut]:
    """Return the links with either end in a selection, by switch and port; one between two switches once for each."""
    mine = set(ids(asked))
    there, seeable = seen(asked.at)
    heard = {
        (n.asset, n.port): _Link(
            n.asset, n.port, n.other, n.other_port, n.since, (n.asset, n.other) if n.both else (n.asset,), BY_NEIGHBOUR
        )
        for n in neighbours(asked.at)
    }
    plugged = (
        _Link(e.on, e.over, e.stands, "", e.since, e.witnesses, "address learnt")
        for e in there.edges.of_kind("plugged into")
        if (e.on, e.over) not in heard
    )
    found = [k for k in (*heard.values(), *plugged) if seeable >= {k.switch, k.device} and mine & {k.switch, k.device}]
    known = plates({a for k in found for a in (k.switch, k.device, *k.by)}, asked.at)
    out: list[LinkOut] = [
        {
            "switch": end(k.switch, known),
            "port": k.port,
            "device": end(k.device, known),
            "device_port": k.device_port,
            "since": iso(k.since),
            "seen_by": sorted(known[a]["name"] for a in k.by if a in known),
            "how": k.how,
        }
        for k in found
        if k.switch in known and k.device in known
    ]
    return sorted(out, key=lambda k: (k["switch"]["name"], spoken(k["port"]), k["device"]["name"]))


def ports_of(assets: set[int]) -> dict[int, str]:
    """Return by device the switch and port it is plugged into now, in words; those that are not known to be are left
    out."""
    there, seeable = seen(None)
    plugs = {
        e.stands: e
        for e in there.edges.of_kind("plugged into").touching(assets)
        if e.stands in assets and {e.stands, e.on} <= seeable
    }
    known = plates({e.on for e in plugs.values()}, None)
    return {a: f"{known[e.on]['name']}, {e.over}" for a, e in plugs.items() if e.on in known}
