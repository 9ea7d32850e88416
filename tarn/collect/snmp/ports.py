"""How the ports of a bridge stand: spanning tree, VLANs, aggregates, power they feed, and frames that were lost.

Spanning tree: RFC 4188 (dot1dStpPortTable). VLANs: RFC 4363. Duplex: RFC 3635. Aggregates: IEEE 802.1AX
(IEEE8023-LAG-MIB). Power over Ethernet: RFC 3621. Counters: RFC 2863.
"""

from collections import defaultdict
from collections.abc import Iterable
from typing import Any

from tarn.collect.snmp.client import Walker
from tarn.collect.snmp.values import MOST_TEXT, column, mac, text
from tarn.core.gear import SwitchPort
from tarn.core.sightings import make_reading
from tarn.core.text import fitting

_IF, _IFX = "1.3.6.1.2.1.2.2.1", "1.3.6.1.2.1.31.1.1.1"
_BRIDGE = "1.3.6.1.2.1.17"
_STP, _VLANS = f"{_BRIDGE}.2", f"{_BRIDGE}.7.1.4.3.1"
_DUPLEX = "1.3.6.1.2.1.10.7.2.1.19"
_POE = "1.3.6.1.2.1.105.1.1.1"
_LAG = "1.2.840.10006.300.43.1.2.1.1.13"

_SPANNING = {1: "disabled", 2: "blocking", 3: "listening", 4: "learning", 5: "forwarding", 6: "broken"}
_FEEDING = {1: "off", 2: "searching", 3: "delivering", 4: "fault", 5: "searching", 6: "fault"}
_HALVES = {2: "half", 3: "full"}


async def switch_ports(walker: Walker) -> list[Any]:
    """Read the ports of a bridge, each by its interface's name; what a device does not tell of them stays empty."""
    names = await column(walker, f"{_IFX}.1")
    index_of = {port: str(index) for port, index in (await column(walker, f"{_BRIDGE}.1.4.1.2")).items()}
    roles, states = await _spanning_tree(walker)
    untagged, tagged = await _vlans(walker)
    halves = await column(walker, _DUPLEX)
    aggregates = await column(walker, _LAG)
    fed = {index.rpartition(".")[2]: word for index, word in (await column(walker, f"{_POE}.6")).items()}
    counters = await _counters(walker)
    items: dict[str, SwitchPort] = {}
    for port, index in index_of.items():
        name = text(names.get(index, "")) or f"port {port}"
        bundle = aggregates.get(index, 0)
        items[name] = SwitchPort(
            name=name,
            duplex=_HALVES.get(halves.get(index, 0), ""),
            role=roles.get(port, ""),
            spanning=states.get(port, ""),
            aggregate=(text(names.get(str(bundle), "")) or f"aggregate {bundle}") if bundle else "",
            untagged=_listed(untagged.get(int(port), ())),
            tagged=_listed(tagged.get(int(port), ())),
            poe=_FEEDING.get(fed.get(port, 0), ""),
            counted=counters.get(index, ""),
        )
    return [make_reading("switch_ports", [items[k] for k in sorted(items)], "snmp.ports")]


async def _spanning_tree(walker: Walker) -> tuple[dict[str, str], dict[str, str]]:
    """Return role and state by port. The MIB tells no roles: the root port is named, a port whose designated bridge is
    this one is designated, and one that is held back is an alternate."""
    states = {port: _SPANNING.get(said, "") for port, said in (await column(walker, f"{_STP}.15.1.3")).items()}
    if not states:
        return {}, {}
    told = await walker.get([f"{_STP}.7.0", f"{_BRIDGE}.1.1.0"])
    root, own = str(told.get(f"{_STP}.7.0", 0)), mac(told.get(f"{_BRIDGE}.1.1.0"))
    designated = await column(walker, f"{_STP}.15.1.8")
    roles: dict[str, str] = {}
    for port, state in states.items():
        bridge = designated.get(port)
        here = isinstance(bridge, bytes) and mac(bridge[2:]) == own
        if state in ("disabled", "broken"):
            roles[port] = "disabled"
        elif port == root:
            roles[port] = "root"
        else:
            roles[port] = "designated" if here else "alternate"
    return roles, states


async def _vlans(walker: Walker) -> tuple[dict[int, set[int]], dict[int, set[int]]]:
    """Return the VLANs that go over each port without a tag and with one."""
    untagged: dict[int, set[int]] = defaultdict(set)
    tagged: dict[int, set[int]] = defaultdict(set)
    bare = {vlan: ports_of(bits) for vlan, bits in (await column(walker, f"{_VLANS}.4")).items()}
    for vlan, bits in (await column(walker, f"{_VLANS}.2")).items():
        for port in ports_of(bits):
            side = untagged if port in bare.get(vlan, ()) else tagged
            side[port].add(int(vlan))
    return untagged, tagged


def _listed(vlans: Iterable[int]) -> str:
    """Return VLANs in order; of more than can be told the first ones, and no number in part."""
    return fitting(map(str, sorted(vlans)), " ", MOST_TEXT)


def ports_of(bits: Any) -> set[int]:
    """Return the ports of a PortList (RFC 4363): the highest bit of the first octet is port 1."""
    if not isinstance(bits, bytes):
        return set()
    return {8 * n + k + 1 for n, octet in enumerate(bits) for k in range(8) if octet & 0x80 >> k}


async def _counters(walker: Walker) -> dict[str, str]:
    """Return by interface its counters: frames carried, frames with errors, and frames dropped, both ways together."""
    sums: list[dict[str, int]] = []
    for columns in ((f"{_IFX}.7", f"{_IFX}.11"), (f"{_IF}.14", f"{_IF}.20"), (f"{_IF}.13", f"{_IF}.19")):
        total: dict[str, int] = defaultdict(int)
        for one in columns:
            for index, number in (await column(walker, one)).items():
                total[index] += number if isinstance(number, int) else 0
        sums.append(total)
    frames, errors, discards = sums
    return {index: f"{n} {errors.get(index, 0)} {discards.get(index, 0)}" for index, n in frames.items()}
