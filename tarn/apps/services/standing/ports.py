"""Every switch with its ports: what is behind each, since when, and who was there before."""

import time
from collections import defaultdict
from collections.abc import Iterable, Mapping
from typing import Any

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.edges import DAY
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.neighbours import Neighbouring, hardware_addresses, neighbours, steps_out
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import PortsOut, PortState, SwitchPort, SwitchStrip
from tarn.core.standing.edge import Edge
from tarn.core.standing.ports import spoken, unmanaged

NEW = 7 * DAY
MOST_BEHIND = 12
_CARRIERS = ("access point", "hypervisor")
"""Kinds that have several addresses behind their one port by themselves."""


def ports(asked: Question) -> PortsOut:
    """Return the switches of a selection, or those its devices are plugged into, the nearest to the way out first."""
    at, mine = asked.at, set(ids(asked))
    now = at if at is not None else int(time.time())
    there, seeable = seen(at)
    plugs: dict[tuple[int, str], list[Edge]] = defaultdict(list)
    for edge in there.edges.of_kind("plugged into"):
        plugs[edge.on, edge.over].append(edge)
    heard = {(n.asset, n.port): n for n in neighbours(at) if n.asset in seeable and n.other in seeable}
    switches = {asset for asset, _ in plugs} | {asset for asset, _ in heard}
    wanted = {s for s in switches if s in mine} | {
        asset for (asset, _), of in plugs.items() if any(e.stands in mine for e in of)
    }
    table = _Table(wanted, at, now)
    known = plates({*switches, *(e.stands for of in plugs.values() for e in of)}, at)
    whose = {mac: asset for asset, macs in hardware_addresses(at).items() for mac in macs}
    steps = steps_out(at)
    strips: list[SwitchStrip] = []
    for switch in sorted(wanted & known.keys(), key=lambda s: (steps.get(s, 99), known[s]["name"])):
        told = [
            _port(switch, name, table, plugs[switch, name], heard.get((switch, name)), known, whose, now)
            for name in table.ports_of(switch, plugs, heard)
        ]
        used = sum(p["state"] != "nothing" for p in told)
        strips.append({**end(switch, known), "steps": steps.get(switch), "used": used, "ports": told})
    placed = {e.stands for of in plugs.values() for e in of} | switches
    left = mine - placed
    return {
        "switches": strips,
        "unplaced": counted(left, plates(left, at)),
        "one_ended": sum(not n.both for n in heard.values() if n.asset in wanted),
    }


class _Table:
    """What switches tell of their own ports: interfaces, VLANs, and addresses learnt now and before."""

    def __init__(self, switches: Iterable[int], at: int | None, now: int) -> None:
        wanted, db, then = set(switches), raw_connection(), holds("i", at)
        self.interfaces: dict[int, dict[str, tuple[bool | None, int | None]]] = defaultdict(dict)
        for asset, name, up, speed in db.execute(
            f"SELECT i.asset_id, i.name, i.up, i.speed FROM estate_interfacesspan i WHERE {then.text}", then.values
        ):
            if asset in wanted:
                self.interfaces[asset][name] = (None if up is None else bool(up), speed)
        self.stands: dict[tuple[int, str], tuple[Any, ...]] = {}
        for asset, name, *how in db.execute(
            "SELECT i.asset_id, i.name, i.role, i.spanning, i.duplex, i.aggregate, i.poe, i.errors, i.discards, "
            f"i.untagged, i.tagged FROM estate_switch_portsspan i WHERE {then.text}",
            then.values,
        ):
            self.stands[asset, name] = tuple(how)
        names: dict[tuple[int, int], str] = {}
        for asset, vlan, name in db.execute(
            f"SELECT i.asset_id, i.vlan, i.name FROM estate_vlansspan i WHERE {then.text}", then.values
        ):
            names[asset, vlan] = f"{vlan} {name}".strip()
        self.vlans: dict[tuple[int, str], set[str]] = defaultdict(set)
        self.learnt: dict[tuple[int, str], dict[str, int]] = defaultdict(dict)
        self.before: dict[tuple[int, str], set[str]] = defaultdict(set)
        for asset, port, mac, vlan, begins, ends in db.execute(
            "SELECT i.asset_id, i.port, i.mac, i.vlan, i.valid_from, i.valid_to FROM estate_forwardingspan i "
            "WHERE i.valid_from <= ? AND (i.valid_to IS NULL OR i.valid_to > ?)",
            [now, now - 30 * DAY],
        ):
            if asset not in wanted:
                continue
            if ends is None or ends > now:
                self.learnt[asset, port][mac] = begins
                self.vlans[asset, port].add(names.get((asset, vlan), str(vlan)))
            else:
                self.before[asset, port].add(mac)

    def ports_of(self, switch: int, *others: Mapping[tuple[int, str], Any]) -> list[str]:
        """Return the ports of a switch in the order they are counted in."""
        told = set(self.interfaces[switch])
        told |= {port for of in (self.learnt, self.before) for asset, port in of if asset == switch}
        for other in others:
            told |= {port for asset, port in other if asset == switch and port and other[asset, port]}
        return sorted(told, key=spoken)


def _port(
    switch: int,
    name: str,
    table: _Table,
    plugs: list[Edge],
    heard: Neighbouring | None,
    known: Mapping[int, dict[str, Any]],
    whose: Mapping[str, int],
    now: int,
) -> SwitchPort:
    learnt = table.learnt.get((switch, name), {})
    behind = [e.stands for e in sorted(plugs, key=lambda e: -e.sure) if e.stands in known]
    state: PortState = "nothing"
    if heard is not None:
        state, behind = "switch", [heard.other] if heard.other in known else []
    elif len(learnt) > 1 or len(behind) > 1:
        state = "several"
    elif learnt or behind:
        state = "one"
    since = heard.since if heard else min((e.since for e in plugs), default=min(learnt.values(), default=None))
    guess = ""
    if state == "several":
        explained = any(known[a]["kind"] in _CARRIERS for a in behind)
        guess = unmanaged(len(learnt), explained)
    role, spanning, duplex, aggregate, poe, errors, discards, untagged, tagged = table.stands.get(
        (switch, name), ("",) * 5 + (None, None, "", "")
    )
    up, speed = table.interfaces[switch].get(name, (None, None))
    gone = {whose[m] for m in table.before.get((switch, name), ()) if m in whose} - set(behind)
    return {
        "name": name,
        "state": state,
        "up": up,
        "speed": speed,
        "vlans": sorted(table.vlans.get((switch, name), ()) or _members(untagged, tagged)),
        "addresses": len(learnt),
        "behind": [end(a, known) for a in behind[:MOST_BEHIND]],
        "more": max(0, len(behind) - MOST_BEHIND),
        "to_port": heard.other_port if heard else "",
        "seen_by": "neighbours tell (LLDP)" if heard else "address learnt" if learnt else "",
        "since": iso(since) if since else None,
        "new": bool(since and now - since <= NEW),
        "before": sorted(str(known[a]["name"]) for a in gone if a in known)[:5] if state != "switch" else [],
        "guess": guess,
        "role": role or "",
        "spanning": spanning or "",
        "duplex": duplex or "",
        "aggregate": aggregate or "",
        "feeds": poe or "",
        "errors": errors,
        "discards": discards,
    }


def _members(untagged: str | None, tagged: str | None) -> list[str]:
    """Return the VLANs a port is set up for, where nothing was learnt in any."""
    return [*(untagged or "").split(), *(f"{vlan} tagged" for vlan in (tagged or "").split())]
