"""VLANs as switches tell of them: by which name, over which ports, and who was met in each."""

from collections import Counter, defaultdict

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.neighbours import hardware_addresses
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import VlanOut


def vlans(asked: Question) -> list[VlanOut]:
    """Return the VLANs a selection is met in, or its switches know, by number."""
    at, mine = asked.at, set(ids(asked))
    _, seeable = seen(at)
    db, then = raw_connection(), holds("i", at)
    named: dict[int, dict[int, str]] = defaultdict(dict)
    for switch, vlan, name in db.execute(
        f"SELECT i.asset_id, i.vlan, i.name FROM estate_vlansspan i WHERE {then.text}", then.values
    ):
        if switch in seeable:
            named[vlan][switch] = name or ""
    over: dict[int, list[int]] = defaultdict(lambda: [0, 0])
    for switch, untagged, tagged in db.execute(
        f"SELECT i.asset_id, i.untagged, i.tagged FROM estate_switch_portsspan i WHERE {then.text}", then.values
    ):
        if switch in seeable:
            for side, told in enumerate((untagged, tagged)):
                for vlan in (told or "").split():
                    over[int(vlan)][side] += 1
    whose = {mac: asset for asset, macs in hardware_addresses(at).items() for mac in macs}
    met: dict[int, set[int]] = defaultdict(set)
    for switch, vlan, mac in db.execute(
        f"SELECT i.asset_id, i.vlan, i.mac FROM estate_forwardingspan i WHERE i.vlan > 0 AND {then.text}", then.values
    ):
        if switch in seeable and (asset := whose.get(mac)) in seeable and asset is not None:
            met[vlan].add(asset)
    known = plates({*(a for of in met.values() for a in of), *(s for of in named.values() for s in of)}, at)
    out: list[VlanOut] = []
    for vlan in sorted({*named, *over, *met}):
        switches, devices = named[vlan].keys() & known.keys(), met[vlan] & known.keys()
        if not mine.intersection(switches) and not mine.intersection(devices):
            continue
        names = Counter(name for name in named[vlan].values() if name)
        usual = max(names, key=lambda n: (names[n], n), default="")
        apart = sorted(str(known[s]["name"]) for s, n in named[vlan].items() if s in known and n and n != usual)
        out.append(
            {
                "vlan": vlan,
                "names": sorted(names, key=lambda n: (n != usual, n)),
                "switches": counted(switches, known),
                "untagged": over[vlan][0],
                "tagged": over[vlan][1],
                "devices": counted(devices & mine, known),
                "apart": apart,
            }
        )
    return out
