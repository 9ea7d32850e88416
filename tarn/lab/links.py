"""Who is plugged in where: tables of routers and switches worked out from one plan, so that they agree."""

from collections import defaultdict

from tarn.lab.model import Device, Links

VLANS = ((1, "default"), (20, "voice"), (30, "cameras"))
_VLAN = {"desk phone": 20, "camera": 30}


def _network(device: Device) -> str:
    return device.address.rsplit(".", 1)[0]


MOVED, MOVES = "salt-sw-12", 388
"""The switch that is plugged into another port of the first one of its place, and the day since when."""
SHARED = ("salt-pc-47", "salt-pc-48", "salt-pc-49", "salt-pc-50")
"""Devices at one port, by a switch that tells nothing of itself."""
FAILING = "salt-ws-07"
"""The device whose cable is broken, so that its port loses frames."""


def plug_in(devices: list[Device], day: int) -> None:
    """Give every router its ARP table and routes, every switch its forwarding table and neighbours.

    Port 1 of a switch leads to the first switch of its place; that one's port 1 to the place's router. Other
    devices take ports from 2 upwards, a network's switches filled by turns; a bridge learns what lies behind
    each of its ports, its neighbours' devices included.
    """
    places: dict[str, list[Device]] = defaultdict(list)
    for device in devices:
        places[device.place].append(device)
    networks = sorted({_network(d) for d in devices})
    for here in places.values():
        routers = [d for d in here if d.kind == "router"]
        switches = [d for d in here if d.kind == "switch"]
        if not routers or not switches:
            continue
        router, core = routers[0], switches[0]
        routes = [(f"{n}.0/24", "" if any(_network(d) == n for d in here) else "10.60.4.1") for n in networks]
        router.links = Links(
            arp=[(d.address, d.interfaces[0].mac) for d in here if d is not router and d.interfaces],
            routes=routes,
            neighbours=[(2, core.interfaces[0].mac, core.name, core.interfaces[0].name)],
        )
        _switches(here, router, switches, day)
        _second_way({s.name: s for s in switches})


def _second_way(switches: dict[str, Device]) -> None:
    """Join two switches of the data room directly as well: a circle, which the spanning tree breaks at the second."""
    one, two = (switches.get(f"salt-sw-0{n}") for n in (2, 3))
    if one is None or two is None or one.links is None or two.links is None:
        return
    port = len(one.interfaces)
    one.links.neighbours.append((port, two.interfaces[0].mac, two.name, two.interfaces[port - 1].name))
    two.links.neighbours.append((port, one.interfaces[0].mac, one.name, one.interfaces[port - 1].name))
    two.links.blocked = frozenset((port,))


def _switches(here: list[Device], router: Device, switches: list[Device], day: int) -> None:
    core = switches[0]
    behind: dict[str, list[tuple[Device, int]]] = {s.name: [] for s in switches}
    used = dict.fromkeys(behind, 1)
    for device in here:
        if device in switches or device is router or not device.interfaces:
            continue
        near = [s for s in switches if _network(s) == _network(device)] or switches
        home = min(near, key=lambda s: used[s.name])
        if device.name not in SHARED[1:] or day < MOVES:
            used[home.name] = min(used[home.name] + 1, len(home.interfaces))
        behind[home.name].append((device, used[home.name]))
    uplinks = {s.name: len(core.interfaces) - n for n, s in enumerate(switches[1:])}
    if day >= MOVES and MOVED in uplinks:
        uplinks[MOVED] = len(core.interfaces) - len(switches)
    for switch in switches:
        own = behind[switch.name]
        links = Links(
            forwarding=[(d.interfaces[0].mac, _VLAN.get(d.kind, 1), port) for d, port in own],
            vlans=list(VLANS),
            day=day,
            failing=frozenset(port for d, port in own if d.identity == FAILING),
        )
        links.forwarding.append((router.interfaces[0].mac, 1, 1))
        if switch is core:
            links.neighbours = [(1, router.interfaces[0].mac, router.name, router.interfaces[1].name)]
            links.neighbours += [
                (uplinks[s.name], s.interfaces[0].mac, s.name, s.interfaces[0].name) for s in switches[1:]
            ]
            for other in switches[1:]:
                links.forwarding += [
                    (d.interfaces[0].mac, _VLAN.get(d.kind, 1), uplinks[other.name]) for d, _ in behind[other.name]
                ]
        else:
            port = core.interfaces[uplinks[switch.name] - 1].name
            links.neighbours = [(1, core.interfaces[0].mac, core.name, port)]
        switch.links = links
