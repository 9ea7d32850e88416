"""Who stands in for whom: devices that hold a virtual address by turns (VRRP, RFC 9568)."""

from collections import defaultdict
from ipaddress import ip_address, ip_interface

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection

VIRTUAL = ("00:00:5e:00:01:", "00:00:5e:00:02:")
"""What virtual routers' hardware addresses begin with, for IPv4 and IPv6 (RFC 9568, 7.3)."""
_USUAL_PREFIX = {4: 24, 6: 64}


def stand_ins(at: int | None) -> dict[str, frozenset[int]]:
    """Return by virtual address the devices that would hold it if its holder were gone: those with the same virtual
    hardware address in the same network. The number of a virtual router is told apart by its network alone."""
    here = holds("i", at)
    like = " OR ".join("i.mac LIKE ?" for _ in VIRTUAL)
    ready: dict[str, dict[int, set[str]]] = defaultdict(dict)
    for asset, name, mac in raw_connection().execute(
        f"SELECT i.asset_id, i.name, i.mac FROM estate_interfacesspan i WHERE ({like}) AND {here.text}",
        [*(f"{v}%" for v in VIRTUAL), *here.values],
    ):
        ready[mac].setdefault(asset, set()).add(name)
    wanted = {asset for of in ready.values() for asset in of}
    if not wanted:
        return {}
    there = holds("a", at)
    held: dict[int, list[tuple[str, str, int | None]]] = defaultdict(list)
    for asset, interface, address, prefix in raw_connection().execute(
        "SELECT a.asset_id, ifnull(a.interface, ''), a.address, a.prefix FROM estate_addressesspan a "
        f"WHERE a.asset_id IN ({','.join('?' * len(wanted))}) AND {there.text}",
        [*sorted(wanted), *there.values],
    ):
        held[asset].append((interface, address, prefix))
    out: dict[str, frozenset[int]] = {}
    for of in ready.values():
        for asset, names in of.items():
            for interface, address, prefix in held[asset]:
                if interface in names:
                    near = ip_interface(f"{address}/{prefix or _USUAL_PREFIX[ip_address(address).version]}").network
                    others = {o for o in of if o != asset and any(ip_address(a) in near for _, a, _ in held[o])}
                    out[address] = frozenset(others)
    return out
