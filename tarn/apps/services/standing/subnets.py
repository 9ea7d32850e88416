"""Networks as devices' own addresses tell of them: addresses used and free, who routes, and what is known by hand."""

import json
from collections import defaultdict
from ipaddress import IPv4Network, IPv6Network, ip_address, ip_interface, ip_network

from tarn.apps.estate.asking.ask import Question, ids
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.services.standing.impact import seen
from tarn.apps.services.standing.picture import counted
from tarn.apps.services.standing.plates import plates
from tarn.apps.services.standing.results import SubnetOut, SubnetRoute
from tarn.core.standing.subnets import within

Network = IPv4Network | IPv6Network


def subnets(asked: Question) -> list[SubnetOut]:
    """Return the networks the devices of a selection are in, by address. One is known by the prefix of an interface, or
    by a route; an address in none of these is not told of."""
    at, mine = asked.at, set(ids(asked))
    _, seeable = seen(at)
    known: set[Network] = set()
    held: dict[int, set[str]] = defaultdict(set)
    for table, prefix in (("estate_addressesspan", "a.prefix"), ("estate_assetspan", "NULL")):
        then = holds("a", at)
        for asset, address, bits in raw_connection().execute(
            f"SELECT a.asset_id, a.address, {prefix} FROM {table} a WHERE a.address IS NOT NULL AND {then.text}",
            then.values,
        ):
            held[asset].add(address)
            if bits:
                known.add(ip_interface(f"{address}/{bits}").network)
    routes, led = _routes(at)
    known |= led
    known = {n for n in known if 0 < n.prefixlen < n.max_prefixlen and not n.is_loopback and not n.is_link_local}
    used: dict[Network, dict[str, int]] = defaultdict(dict)
    find = within(known)
    for asset, addresses in held.items():
        if asset in seeable:
            for address in addresses:
                if (network := find(ip_address(address))) is not None:
                    used[network][address] = asset
    plate = plates({*(a for of in used.values() for a in of.values()), *(a for a, _, _ in routes)}, at)
    hand = _by_hand({a for of in used.values() for a in of.values()})
    out: list[SubnetOut] = []
    for network, of in used.items():
        assets = set(of.values())
        here = assets & mine & plate.keys()
        if not here:
            continue
        gear: list[SubnetRoute] = [
            {"asset": a, "name": plate[a]["name"], "next_hop": hop}
            for a, to, hop in routes
            if to == str(network) and a in plate and a in seeable
        ]
        places = sorted({str(plate[a]["place"]) for a in assets if a in plate and plate[a]["place"]})
        size = network.num_addresses - (2 if network.version == 4 and network.prefixlen < 31 else 0)
        out.append(
            {
                "network": str(network),
                "size": min(size, 2**53),
                "used": len(of),
                "devices": counted(here, plate),
                "places": places,
                "gear": sorted(gear, key=lambda g: (g["next_hop"] != "", g["name"])),
                "by_hand": len(assets & hand),
            }
        )
    return sorted(out, key=lambda s: (":" in s["network"], int(ip_network(s["network"]).network_address)))


def _routes(at: int | None) -> tuple[list[tuple[int, str, str]], set[Network]]:
    """Return the routes gear tells of, asset, network and next hop, and the networks that are attached to any."""
    then = holds("r", at)
    routes, attached = [], set[Network]()
    for asset, destination, hop in raw_connection().execute(
        f"SELECT r.asset_id, r.destination, r.next_hop FROM estate_routesspan r WHERE {then.text}", then.values
    ):
        try:
            network = ip_network(destination, strict=False)
        except ValueError:
            continue  # a route to something that is no network, such as “default” in words
        routes.append((asset, str(network), hop or ""))
        if not hop:
            attached.add(network)
    return routes, attached


def _by_hand(assets: set[int]) -> set[int]:
    """Return those of which nothing but people and rules has told."""
    cursor = raw_connection().execute(
        "SELECT g.asset_id FROM estate_sighting g JOIN estate_source w ON w.id = g.source_id "
        "WHERE g.asset_id IN (SELECT value FROM json_each(?)) GROUP BY g.asset_id "
        "HAVING sum(w.kind NOT IN ('hand', 'rule')) = 0",
        [json.dumps(sorted(assets))],
    )
    return {a for (a,) in cursor.fetchall()}
