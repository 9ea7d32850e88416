"""What really stands on what in the lab on a day, and what the company wrote itself: the truth that tests go by."""

from tarn.lab.model import Device
from tarn.lab.timeline import World
from tarn.lab.workings import CLUSTER, KEPT, connections, shares_open

Edge = tuple[str, str, str, str]
"""Who stands, on what (real devices by identity), how, and over which port."""


def stands_on(day: int) -> set[Edge]:
    """Return every plug, guest and call there is on a day among the devices that can be reached."""
    devices = World().on(day)
    return {
        *_plugs(devices), *_guests(devices), *_moves(devices), *_powers(devices), *_mounts(devices), *_calls(devices)
    }  # fmt: skip


def _plugs(devices: list[Device]) -> set[Edge]:
    by_mac = {i.mac: d for d in devices for i in d.interfaces}
    out: set[Edge] = set()
    for switch in devices:
        if switch.kind != "switch" or switch.links is None:
            continue
        ways = {port for port, *_ in switch.links.neighbours}
        for mac, _, port in switch.links.forwarding:
            device = by_mac.get(mac)
            if device is not None and port not in ways and device.kind not in ("switch", "router"):
                out.add((device.identity, switch.identity, "plugged into", switch.interfaces[port - 1].name))
    return out


def _guests(devices: list[Device]) -> set[Edge]:
    by_name = {d.name: d for d in devices}
    return {
        (by_name[guest.name].identity, host.identity, "guest of", "")
        for host in devices
        for guest in host.guests
        if guest.name in by_name
    }


def _moves(devices: list[Device]) -> set[Edge]:
    by_name = {d.name: d for d in devices}
    return {
        (by_name[KEPT].identity, by_name[other].identity, "may move to", "")
        for host in CLUSTER
        for other in CLUSTER
        if other != host and {KEPT, host, other} <= by_name.keys() and KEPT in {g.name for g in by_name[host].guests}
    }


def _powers(devices: list[Device]) -> set[Edge]:
    by_name = {d.name: d for d in devices}
    return {
        (by_name[fed].identity, source.identity, "powered by", f"outlet {number}")
        for source in devices
        for number, (fed, _) in enumerate(source.outlets, start=1)
        if fed in by_name
    }


def _mounts(devices: list[Device]) -> set[Edge]:
    by_name, by_address = {d.name: d for d in devices}, {a: d for d in devices for a in (d.address, *d.shared)}
    mounted = {
        (d.identity, by_name[server].identity, "mounts", path)
        for d in devices
        for f in d.filesystems
        for server, colon, path in [f.device.partition(":")]
        if colon and server in by_name
    }
    opened = {
        (by_address[client].identity, d.identity, "mounts", share)
        for d in devices
        for share, client in shares_open(d)
        if client in by_address
    }
    return mounted | opened


def _calls(devices: list[Device]) -> set[Edge]:
    by_address = {a: d for d in devices for i in d.interfaces for a, _ in i.addresses}
    return {
        (d.identity, by_address[peer].identity, "talks to", str(port))
        for d in devices
        if d.family in ("debian", "rpm")
        for local, peer, port, _ in connections(d)
        if local >= 32_768 and peer in by_address and by_address[peer] is not d
    }


def running(day: int, script: str) -> set[tuple[str, tuple[int, ...]]]:
    """Return where a program of the company's own runs on a day, by a piece of its command, and on which ports."""
    return {(d.identity, p.ports) for d in World().on(day) for p in d.programs if script in p.command}
